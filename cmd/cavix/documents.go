package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/marking"
	"cavix/figure"
)

// position is how a command is told where an instrument stands.
type position struct {
	file, indicated, size string
	closed                bool
}

func (p *position) flags(c *cobra.Command) {
	c.Flags().StringVar(&p.file, "instrument", "", "instrument document (JSON file)")
	c.Flags().StringVar(&p.indicated, "indicated", "", "value that the instrument shows, as --indicated=-0.04")
	c.Flags().StringVar(&p.size, "size", "", "true size between the faces; the zero error is added")
	c.Flags().BoolVar(&p.closed, "closed", false, "the closed instrument")
}

// open reads the instrument and says which value it shows.
func (p *position) open() (*instrument.Instrument, length.Number, error) {
	given := 0
	for _, on := range []bool{p.indicated != "", p.size != "", p.closed} {
		if on {
			given++
		}
	}
	if p.file == "" {
		return nil, length.Number{}, usageError{errors.New("--instrument FILE is missing")}
	}
	if given != 1 {
		return nil, length.Number{}, usageError{errors.New("give one of --indicated Y, --size X and --closed")}
	}
	data, err := os.ReadFile(p.file)
	if err != nil {
		return nil, length.Number{}, usageError{err}
	}
	in, err := instrument.Parse(data)
	if err != nil {
		return nil, length.Number{}, usageError{fmt.Errorf("%s: %w", p.file, err)}
	}
	y := in.Closed()
	for flag, text := range map[string]string{"indicated": p.indicated, "size": p.size} {
		if text == "" {
			continue
		}
		if y, err = length.Parse(text); err != nil {
			return nil, length.Number{}, usageError{fmt.Errorf("--%s: %w", flag, err)}
		}
		if flag == "size" {
			y = y.Add(in.Spec().ZeroError)
		}
	}
	return in, y, nil
}

func readCommand() *cobra.Command {
	var at position
	var between string
	c := &cobra.Command{
		Use:     "read --instrument FILE (--indicated Y | --size X | --closed)",
		Short:   "Print the reading of an instrument at a position, part by part",
		Example: "  cavix read --instrument caliper.json --indicated 31.40\n  cavix read --instrument caliper.json --closed",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			by := instrument.Between(between)
			if !by.Known() {
				return usageError{fmt.Errorf("--between must be nearest, whole or tenths; it is %q", between)}
			}
			in, y, err := at.open()
			if err != nil {
				return err
			}
			r, err := in.ReadBy(y, by)
			if err != nil {
				return usageError{err}
			}
			return printJSON(c.OutOrStdout(), in.Report(r))
		},
	}
	at.flags(c)
	c.Flags().StringVar(&between, "between", "nearest", "how a drum or dial is read between two lines: nearest, whole, tenths")
	return c
}

func markCommand() *cobra.Command {
	var item, answer string
	c := &cobra.Command{
		Use:     "mark --item FILE --answer FILE",
		Short:   "Mark an answer to a card and name what went wrong",
		Example: "  cavix mark --item card.json --answer answer.json",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			if item == "" || answer == "" {
				return usageError{errors.New("--item FILE and --answer FILE are both needed")}
			}
			data, err := os.ReadFile(item)
			if err != nil {
				return usageError{err}
			}
			card, err := marking.Parse(data)
			if err != nil {
				return usageError{fmt.Errorf("%s: %w", item, err)}
			}
			if data, err = os.ReadFile(answer); err != nil {
				return usageError{err}
			}
			given, err := marking.ParseAnswer(data)
			if err != nil {
				return usageError{fmt.Errorf("%s: %w", answer, err)}
			}
			r, err := card.Mark(given)
			if err != nil {
				return usageError{fmt.Errorf("%s: %w; nothing is marked", answer, err)}
			}
			return printJSON(c.OutOrStdout(), r)
		},
	}
	c.Flags().StringVar(&item, "item", "", "the card as it is asked (JSON file)")
	c.Flags().StringVar(&answer, "answer", "", "what the student wrote, by step (JSON file)")
	return c
}

func figureCommand() *cobra.Command {
	var at position
	var out string
	var lens, look int
	c := &cobra.Command{
		Use:     "figure --instrument FILE (--indicated Y | --size X | --closed) --out FILE.svg",
		Short:   "Draw an instrument at a position",
		Example: "  cavix figure --instrument caliper.json --indicated 31.40 --out caliper.svg\n  cavix figure --instrument caliper.json --closed --lens 8 --out zero.svg",
		Args:    noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			if !strings.HasSuffix(out, ".svg") {
				return usageError{fmt.Errorf("--out must name a file that ends in .svg; it is %q", out)}
			}
			if lens < 0 || lens > 2000 {
				return usageError{fmt.Errorf("--lens must be a whole magnification from 1 to 2000; it is %d", lens)}
			}
			in, y, err := at.open()
			if err != nil {
				return err
			}
			if n := in.Lines(); look < 0 || look > n {
				return usageError{fmt.Errorf("--look must name a line from 0 to %d; it is %d", n, look)}
			}
			d, err := figure.Lay(in, y, figure.Wide)
			if err != nil {
				return usageError{err}
			}
			sc := d.Scene(figure.Options{})
			if lens > 0 {
				sc = figure.WithLens(d, d.LensOn(lens, look))
			}
			return os.WriteFile(out, sc.SVG("", ""), 0o644)
		},
	}
	at.flags(c)
	c.Flags().StringVar(&out, "out", "", "file to write, ending in .svg")
	c.Flags().IntVar(&lens, "lens", 0, "add the lens strip, magnifying so many times")
	c.Flags().IntVar(&look, "look", 0, "line of the plate that the lens looks at")
	return c
}

func printJSON(w io.Writer, v any) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	return enc.Encode(v)
}
