package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/figure"
	"cavix/locale"
	"cavix/transfer"
)

// position holds the flags that tell a command where an instrument stands.
type position struct {
	file, indicated, size string
	closed                bool
}

func (p *position) flags(c *cobra.Command) {
	c.Flags().StringVar(&p.file, "instrument", "", "instrument document (JSON file)")
	c.Flags().StringVar(&p.indicated, "indicated", "", "value that the instrument shows, such as --indicated=-0.04")
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
	for flag, says := range map[string]string{"indicated": p.indicated, "size": p.size} {
		if says == "" {
			continue
		}
		if y, err = length.Parse(says); err != nil {
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
		Use:   "read --instrument FILE (--indicated Y | --size X | --closed)",
		Short: "Print the reading of an instrument at a position, part by part",
		Example: "  cavix read --instrument caliper.json --indicated 31.40\n  cavix read --instrument caliper.json " +
			"--closed",
		Args: noArguments,
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
	c.Flags().StringVar(&between, "between", "nearest",
		"how to read a thimble or dial between two lines: nearest, whole, tenths")
	return c
}

func markCommand() *cobra.Command {
	var item, answer, batch, answers, out string
	c := &cobra.Command{
		Use:   "mark (--item FILE --answer FILE | --batch FILE --answers FILE --out FILE)",
		Short: "Mark one answer or a batch of answers, and name the mistakes",
		Example: "  cavix mark --item card.json --answer answer.json\n  cavix mark --batch cards.json --answers " +
			"answers.csv --out marked.csv",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			if batch != "" || answers != "" || out != "" {
				if batch == "" || answers == "" || out == "" || item != "" || answer != "" {
					return usageError{errors.New(
						"a batch needs --batch FILE, --answers FILE and --out FILE, and nothing else")}
				}
				return markBatch(c, batch, answers, out)
			}
			if item == "" || answer == "" {
				return usageError{errors.New("--item FILE and --answer FILE are both needed")}
			}
			data, err := os.ReadFile(item)
			if err != nil {
				return usageError{err}
			}
			card, err := kinds.Parse(data)
			if err != nil {
				return usageError{fmt.Errorf("%s: %w", item, err)}
			}
			if data, err = os.ReadFile(answer); err != nil {
				return usageError{err}
			}
			given, err := exercise.ParseAnswer(data)
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
	c.Flags().StringVar(&answer, "answer", "", "what the student wrote, by field (JSON file)")
	c.Flags().StringVar(&batch, "batch", "", "cards by name (JSON file)")
	c.Flags().StringVar(&answers, "answers", "", "answers: student, card and a column for each field (CSV file)")
	c.Flags().StringVar(&out, "out", "", "marks to write (CSV file)")
	return c
}

// markBatch marks a stack. Rows that could not be read are named on stderr, and make it exit with 1.
func markBatch(c *cobra.Command, batch, answers, out string) error {
	data, err := os.ReadFile(batch)
	if err != nil {
		return usageError{err}
	}
	cards, err := kinds.All.ParseCards(data)
	if err != nil {
		return usageError{fmt.Errorf("%s: %w", batch, err)}
	}
	in, err := os.Open(answers)
	if err != nil {
		return usageError{err}
	}
	defer in.Close()
	if err := apart(out, batch, answers); err != nil {
		return err
	}
	marked := 0
	var bad []transfer.BadRow
	err = writeWhole(out, private, func(to io.Writer) (err error) {
		bad, err = transfer.MarkBatch(cards, in, to, func(done int) {
			marked = done
			fmt.Fprintf(c.ErrOrStderr(), "%d rows\n", done)
		})
		return err
	})
	if err != nil {
		return usageError{fmt.Errorf("%s: %w", answers, err)}
	}
	for _, b := range bad {
		fmt.Fprintf(c.ErrOrStderr(), "%s, %s\n", answers, b)
	}
	fmt.Fprintf(c.OutOrStdout(), "%d of %d rows marked\n", marked-len(bad), marked)
	if len(bad) > 0 {
		return fmt.Errorf("%d rows could not be read; the others are marked in %s", len(bad), out)
	}
	return nil
}

func simulateCommand() *cobra.Command {
	var files []string
	var ask string
	var cards, rounds, awkward int
	var noise float64
	var seed uint64
	c := &cobra.Command{
		Use:   "simulate --instrument FILE [--instrument FILE …]",
		Short: "Let simulated students answer a sheet, and report which slips it can identify",
		Example: "  cavix simulate --instrument caliper.json --ask main,fine_line,observed,corrected\n  cavix " +
			"simulate --instrument caliper.json --ask corrected --noise 0.1",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			if rounds < 1 || rounds > 1000 || noise < 0 || noise > 1 {
				return usageError{errors.New("--rounds must be from 1 to 1000 and --noise from 0 to 1")}
			}
			block := exercise.Block{Kind: kinds.All[0].Name(), Cards: cards, Settings: map[string]string{
				"zero": "varied", "awkward": strconv.Itoa(awkward),
				"ask": strings.Join(strings.FieldsFunc(ask, isSeparator), " ")}}
			for _, f := range files {
				data, err := os.ReadFile(f)
				if err != nil {
					return usageError{err}
				}
				in, err := instrument.Parse(data)
				if err != nil {
					return usageError{fmt.Errorf("%s: %w", f, err)}
				}
				block.Instruments = append(block.Instruments, in)
			}
			sheet := exercise.Sheet{Blocks: []exercise.Block{block}}
			if err := sheet.Check(kinds.All); err != nil {
				return usageError{err}
			}
			d, err := sheet.Simulate(kinds.All, kinds.Slips(), rounds, noise, seed)
			if err != nil {
				return err
			}
			return printDiagnosis(c.OutOrStdout(), d)
		},
	}
	c.Flags().StringSliceVar(&files, "instrument", nil, "instrument document (JSON file); may be given several times")
	c.Flags().StringVar(&ask, "ask", "main,fine_line,observed,zero_error,corrected", "steps to ask")
	c.Flags().IntVar(&cards, "cards", 10, "number of cards")
	c.Flags().IntVar(&rounds, "rounds", 20, "how often the sheet is dealt to one student for each slip")
	c.Flags().IntVar(&awkward, "awkward", 30, "share of tricky positions, in per cent")
	c.Flags().Float64Var(&noise, "noise", 0, "share of answers in which another entry is wrong too, from 0 to 1")
	c.Flags().Uint64Var(&seed, "seed", 1, "the same seed gives the same students")
	return c
}

// isSeparator reports whether a rune stands between the steps of a list.
func isSeparator(r rune) bool { return r == ',' || r == ' ' }

// printDiagnosis writes a table: each slip, how often it was made and named, and what it was taken for.
func printDiagnosis(w io.Writer, d exercise.Diagnosis) error {
	t := tabwriter.NewWriter(w, 0, 4, 2, ' ', 0)
	fmt.Fprintln(t, "slip\tmade\tnamed first\tin the first three\ttaken for")
	perCent := func(n, of int) string { return fmt.Sprintf("%.1f %%", 100*float64(n)/float64(max(of, 1))) }
	for _, s := range kinds.Slips() {
		n := d.ByCode[s.Code]
		if n == nil {
			continue
		}
		var taken []string
		for code, k := range n.TakenFor {
			if code == "" {
				code = "no slip"
			}
			taken = append(taken, fmt.Sprintf("%s %d", code, k))
		}
		slices.Sort(taken)
		fmt.Fprintf(t, "%s\t%d\t%s\t%s\t%s\n", s.Code, n.Made, perCent(n.First, n.Made), perCent(n.Three, n.Made),
			strings.Join(taken, ", "))
	}
	fmt.Fprintf(t, "all\t%d\t%s\t%s\t\n", d.Answers, perCent(d.First, d.Answers), perCent(d.Three, d.Answers))
	if err := t.Flush(); err != nil {
		return err
	}
	_, err := fmt.Fprintf(w, "not first but a synonym, which gives the same value: %d of %d\n"+
		"named first where no other slip gives the same value: %s of %d\n"+
		"both of two slips listed: %s of %d\n",
		d.Synonyms, d.Answers-d.First, perCent(d.Named, d.Apart), d.Apart, perCent(d.Listed, d.Pairs), d.Pairs)
	return err
}

// writers write a scene by the ending of the file's name.
var writers = map[string]func(*figure.Scene) ([]byte, error){
	".svg": func(s *figure.Scene) ([]byte, error) { return s.SVG("", ""), nil },
	".pdf": (*figure.Scene).PDF,
	".png": func(s *figure.Scene) ([]byte, error) { return s.PNG(2) },
}

func figureCommand() *cobra.Command {
	var at position
	var out string
	var lens, look int
	c := &cobra.Command{
		Use:   "figure --instrument FILE (--indicated Y | --size X | --closed) --out FILE.svg|.pdf|.png",
		Short: "Draw an instrument at a position",
		Example: "  cavix figure --instrument caliper.json --indicated 31.40 --out caliper.svg\n  cavix figure " +
			"--instrument caliper.json --closed --lens 8 --out zero.svg",
		Args: noArguments,
		RunE: func(c *cobra.Command, _ []string) error {
			write, known := writers[filepath.Ext(out)]
			if !known {
				return usageError{fmt.Errorf("--out must name a file that ends in .svg, .pdf or .png; it is %q", out)}
			}
			if lens < 0 || lens > 2000 {
				return usageError{fmt.Errorf("--lens must be a whole magnification from 1 to 2000; it is %d", lens)}
			}
			in, y, err := at.open()
			if err != nil {
				return err
			}
			if n := in.Lines(); look < -1 || look > n {
				return usageError{fmt.Errorf("--look must name a line from 0 to %d, or -1; it is %d", n, look)}
			}
			d, err := figure.Lay(in, y, figure.Wide)
			if err != nil {
				return usageError{err}
			}
			sc := d.Scene(figure.Options{})
			if lens > 0 {
				sc = figure.WithLens(d, d.LensOn(lens, look), locale.Documents())
			}
			b, err := write(sc)
			if err != nil {
				return err
			}
			if err := apart(out, at.file); err != nil {
				return err
			}
			return writeWhole(out, 0o644, func(w io.Writer) error {
				_, err := w.Write(b)
				return err
			})
		},
	}
	at.flags(c)
	c.Flags().StringVar(&out, "out", "", "file to write, ending in .svg, .pdf or .png")
	c.Flags().IntVar(&lens, "lens", 0, "add the lens, with this magnification")
	c.Flags().IntVar(&look, "look", -1, "line that the lens shows; -1 is where a reading begins")
	return c
}

func printJSON(w io.Writer, v any) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	return enc.Encode(v)
}
