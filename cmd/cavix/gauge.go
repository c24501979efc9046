package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"cavix/core/comparator"
	"cavix/core/length"
)

func gaugeCommand() *cobra.Command {
	var to, unit, spread string
	var count, places int
	var pace time.Duration
	c := &cobra.Command{
		Use:   "gauge --to ADDRESS",
		Short: "Simulate a gauge with a data line: send readings of simulated parts to a comparator",
		Long: "Simulate a gauge with a data line: send readings of simulated parts, one on each line, to the " +
			"address that the\n" +
			"comparator's page shows. Each line has a number, so a line that arrives twice counts once.",
		Example: "  cavix gauge --to http://127.0.0.1:8080/gauge/TOKEN\n  cavix gauge --to " +
			"http://127.0.0.1:8080/gauge/TOKEN --count 50 --pace 200ms --spread 0.03",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			if u, err := url.Parse(to); err != nil || u.Host == "" {
				return usageError{fmt.Errorf("--to must be an address, as http://127.0.0.1:8080/gauge/TOKEN; it is %q",
					to)}
			}
			if count < 1 || count > comparator.MaxReading {
				return usageError{fmt.Errorf("--count must be from 1 to %d; it is %d", comparator.MaxReading, count)}
			}
			half, err := length.Parse(spread)
			if err != nil {
				return usageError{fmt.Errorf("--spread: %w", err)}
			}
			lower, upper := length.Int(100).Sub(half), length.Int(100).Add(half)
			p := comparator.Plan{Nominal: length.Int(100), Lower: &lower, Upper: &upper, Unit: length.Unit(unit),
				Places: places}
			if err := p.Check(); err != nil {
				return usageError{err}
			}
			for n := 1; n <= count; n++ {
				said, err := sendLine(c.Context(), to, fmt.Sprintf("%d %s", n, p.MadeUp(rand.IntN(1_000_000))))
				if err != nil {
					return err
				}
				fmt.Fprintln(c.OutOrStdout(), said)
				if n < count {
					time.Sleep(pace)
				}
			}
			return nil
		},
	}
	c.Flags().StringVar(&to, "to", "", "address shown on the comparator's page")
	c.Flags().IntVar(&count, "count", 20, "how many readings to send")
	c.Flags().DurationVar(&pace, "pace", time.Second, "time between two readings")
	c.Flags().StringVar(&spread, "spread", "0.03", "most parts are within this much of the nominal size")
	c.Flags().StringVar(&unit, "unit", "mm", "mm or in")
	c.Flags().IntVar(&places, "places", 2, "decimal places of the gauge")
	required(c, "to")
	return c
}

// sendLine sends one line, and returns it with what became of it.
func sendLine(ctx context.Context, to, line string) (string, error) {
	ctx, stop := context.WithTimeout(ctx, 10*time.Second)
	defer stop()
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, to, strings.NewReader(line+"\n"))
	if err != nil {
		return "", err
	}
	r.Header.Set("Content-Type", "text/plain; charset=utf-8")
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		return "", err
	}
	defer answer.Body.Close()
	says, err := io.ReadAll(io.LimitReader(answer.Body, 500))
	if err != nil {
		return "", err
	}
	if answer.StatusCode != http.StatusOK {
		return "", errors.New(strings.TrimSpace(string(says)))
	}
	return line + "  →  " + strings.TrimSpace(string(says)), nil
}
