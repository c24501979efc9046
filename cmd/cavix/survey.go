package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"

	"github.com/spf13/cobra"

	"cavix/core/length"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/locale"
	"cavix/transfer"
)

func surveyCommand() *cobra.Command {
	var from, lower, upper string
	decimals := -1
	c := &cobra.Command{
		Use:   "survey",
		Short: "Analyse repeated readings, or a study of appraisers, from a table",
		Long: "Analyse repeated readings, or a study of appraisers, from a table. With the columns group, repeat, " +
			"value you\n" +
			"get means, ranges and the odd group; with part, reader, repeat, value the repeatability and " +
			"reproducibility.",
		Example: "  cavix survey --readings places.csv\n  cavix survey --readings study.csv --lower 11.70 --upper " +
			"12.30",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			data, err := os.ReadFile(from)
			if err != nil {
				return usageError{fmt.Errorf("--readings: %w", err)}
			}
			r, err := transfer.ReadReadings(data)
			if err != nil {
				return usageError{fmt.Errorf("%s: %w", from, err)}
			}
			if decimals > 12 {
				return usageError{fmt.Errorf("--decimals must be from 0 to 12; it is %d", decimals)}
			}
			if decimals >= 0 {
				r.Decimals = decimals
			}
			var out any
			if r.Study == nil {
				if out, err = figures(r); err != nil {
					return usageError{fmt.Errorf("%s: %w", from, err)}
				}
			} else {
				limits, err := limitsOf(lower, upper)
				if err != nil {
					return err
				}
				out = studied(*r.Study, limits)
			}
			enc := json.NewEncoder(c.OutOrStdout())
			enc.SetEscapeHTML(false)
			return enc.Encode(out)
		},
	}
	c.Flags().StringVar(&from, "readings", "", "table of readings, CSV or XLSX")
	c.Flags().StringVar(&lower, "lower", "", "lower limit, for the share of the tolerance")
	c.Flags().StringVar(&upper, "upper", "", "upper limit")
	c.Flags().IntVar(&decimals, "decimals", -1,
		"decimal places of the instrument (default: as the readings are written)")
	required(c, "readings")
	return c
}

// repeated are the figures of a repeated measurement.
type repeated struct {
	GroupMeans        []string `json:"group_means"`
	GroupMeansOneMore []string `json:"group_means_one_more"`
	GroupRanges       []string `json:"group_ranges"`
	Mean              string   `json:"mean"`
	MeanOneMore       string   `json:"mean_one_more"`
	Median            string   `json:"median"`
	Range             string   `json:"range"`
	Mode              []string `json:"mode"`
	S                 *float64 `json:"s"`
	OddGroups         []int    `json:"odd_groups"` // from 1, in the order in which they first come
	TypeA             *float64 `json:"type_a"`
}

func figures(r transfer.Readings) (repeated, error) {
	out := repeated{Mode: []string{}, OddGroups: []int{}}
	one := r.Decimals + 1
	for g, v := range r.Values {
		if len(v) == 0 {
			return out, fmt.Errorf("the group %q has no reading", r.Groups[g])
		}
		m := v.Mean()
		out.GroupMeans = append(out.GroupMeans, m.Round(r.Decimals).Text(r.Decimals))
		out.GroupMeansOneMore = append(out.GroupMeansOneMore, m.Round(one).Text(one))
		out.GroupRanges = append(out.GroupRanges, v.Range().Text(r.Decimals))
	}
	all := survey.All(r.Values)
	out.Mean, out.MeanOneMore = all.Mean().Round(r.Decimals).Text(r.Decimals), all.Mean().Round(one).Text(one)
	out.Median, out.Range = all.Median().Round(one).Text(one), all.Range().Text(r.Decimals)
	for _, x := range all.Mode() {
		out.Mode = append(out.Mode, x.Text(r.Decimals))
	}
	for _, g := range survey.Furthest(r.Values) {
		out.OddGroups = append(out.OddGroups, g+1)
	}
	if s, ok := all.S(); ok {
		a := s / math.Sqrt(float64(len(all)))
		out.S, out.TypeA = &s, &a
	}
	return out, nil
}

// study are the figures of a study of readers.
type study struct {
	P               *float64  `json:"interaction_p"` // null where nothing could be tested
	Pooled          bool      `json:"pooled"`
	Repeatability   *float64  `json:"repeatability_sd"` // null, here and below, where the study cannot tell it
	Reproducibility *float64  `json:"reproducibility_sd"`
	Readers         *float64  `json:"readers_sd"`
	Parts           *float64  `json:"parts_sd"`
	Total           *float64  `json:"total_sd"`
	Spread          *float64  `json:"share_of_spread"`
	Variance        *float64  `json:"share_of_variance"`
	Tolerance       *float64  `json:"share_of_tolerance"`
	Categories      *int      `json:"categories"`
	LeftOut         []leftOut `json:"left_out,omitempty"`
	Cannot          []string  `json:"cannot,omitempty"`
}

type leftOut struct {
	Reader   string `json:"reader,omitempty"`
	Part     string `json:"part,omitempty"`
	Readings int    `json:"readings"`
}

func studied(t survey.Table, limits [2]*length.Number) study {
	whole, left := t.Complete()
	a := survey.Analyse(survey.Study{Cells: whole.Cells, Lower: limits[0], Upper: limits[1]})
	sd := func(v survey.Variation) *float64 {
		if v.Unknown {
			return nil
		}
		return &v.SD
	}
	out := study{Pooled: a.Pooled, Repeatability: sd(a.Repeatability), Reproducibility: sd(a.Reproducibility),
		Readers: sd(a.All), Parts: sd(a.PartVariation), Total: sd(a.Total), Spread: a.All.Spread,
		Variance: a.All.Variance, Tolerance: a.All.Tolerance,
		Categories: a.DistinctCategories, Cannot: printed(a.Cannot)}
	if a.Tested {
		out.P = &a.P
	}
	for _, l := range left {
		one := leftOut{Part: l.Name, Readings: l.Readings}
		if l.Reader {
			one.Part, one.Reader = "", l.Name
		}
		out.LeftOut = append(out.LeftOut, one)
	}
	return out
}

// limitsOf reads two limits; both are given or none.
func limitsOf(lower, upper string) (limits [2]*length.Number, err error) {
	if (lower == "") != (upper == "") {
		return limits, usageError{fmt.Errorf("--lower and --upper go together")}
	}
	for i, says := range []string{lower, upper} {
		if says == "" {
			continue
		}
		x, err := length.Parse(says)
		if err != nil {
			return limits, usageError{fmt.Errorf("--%s: %w", [2]string{"lower", "upper"}[i], err)}
		}
		limits[i] = &x
	}
	if limits[0] != nil && !limits[0].Less(*limits[1]) {
		return limits, usageError{fmt.Errorf("--lower must be less than --upper")}
	}
	return limits, nil
}

// printed are texts in English, as documents have them.
func printed(list []text.Text) []string {
	out := make([]string, len(list))
	for i, t := range list {
		out[i] = locale.Documents().Print(t)
	}
	return out
}
