// Load runs the benchmarks that the README's figures come from, and writes a line of a table for each figure as soon as
// it is there: what was measured, what is wanted of it, and by how much it differs from the last run on this machine,
// where that is more than a tenth. The figures of the last run stand in a file.
//
// Usage, from the root of the repository: go run ./cmd/load [-last FILE] [-only REGEXP]
package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"math"
	"os"
	"os/exec"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// run is a call of go test.
type run struct{ bench, time, packages string }

// runs are all calls. What the README states comes from runs of 30 seconds, pages from 20 requests each.
var runs = []run{
	{"^BenchmarkSubmissions$", "30s", "./web"},
	{"^BenchmarkSubmissionCost$", "5x", "./cmd/cavix"},
	{"^(BenchmarkStart|BenchmarkFiveHundred|BenchmarkDemo)$", "2x", "./cmd/cavix"},
	{"^BenchmarkTerm$", "20x", "./web"},
	{"^(BenchmarkRounds|BenchmarkStreams|BenchmarkThousandPeople)$", "1x", "./web"},
	{"^BenchmarkPapers$", "1x", "./transfer/..."},
	{"^BenchmarkMark$", "5s", "./core/kinds"},
	{"^BenchmarkSVG$", "5s", "./figure"},
}

// wanted says of figures how large they may be at most, or, with a minus, must be at least: by what they are of, or by
// their unit alone.
var wanted = map[string]float64{
	"of-plain": -3, "of-bare": -0.5, "p99-ms": 60, "µs-of-processor": 400, "MB-at-most": 90, "Start ns/op": 300e6,
	"Demo ns/op": 3e9, "Mark/slips ns/op": 30e3, "SVG ns/op": 200e3, "Papers ns/op": 20e9,
}

func init() {
	for _, page := range strings.Fields("ledger wrong wrong-term desk people class person sheet watch paper composer") {
		wanted["Term/"+page+" median-ms"] = 50
	}
	wanted["Term/answers.csv median-ms"], wanted["Term/answers.xlsx median-ms"] = 500, 1500
}

// figure is a figure of a benchmark.
type figure struct {
	of, unit string
	value    float64
}

func (f figure) key() string { return f.of + " " + f.unit }

// change is the share from which a figure is marked that differs from the last run's.
const change = 0.1

func main() {
	last := flag.String("last", ".load.json", "the file of the last run's figures")
	only := flag.String("only", "", "run only the calls whose benchmarks match")
	flag.Parse()
	if err := measure(os.Stdout, *last, regexp.MustCompile(*only)); err != nil {
		fmt.Fprintln(os.Stderr, "load:", err)
		os.Exit(1)
	}
}

func measure(w io.Writer, file string, only *regexp.Regexp) error {
	before := map[string]float64{}
	if doc, err := os.ReadFile(file); err == nil {
		if err := json.Unmarshal(doc, &before); err != nil {
			return fmt.Errorf("%s: %w", file, err)
		}
	} else if !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	now := maps.Clone(before)
	began := time.Now()
	fmt.Fprintf(w, "%-28s %14s %-16s %-14s %s\n", "what", "measured", "", "wanted", "since the last run")
	var failed error
	for _, r := range runs {
		if only.MatchString(r.bench) {
			failed = errors.Join(failed, r.measure(w, before, now))
		}
	}
	fmt.Fprintf(w, "%s in all\n", time.Since(began).Round(time.Second))
	doc, err := json.MarshalIndent(now, "", "\t")
	if err == nil {
		err = os.WriteFile(file, append(doc, '\n'), 0o644)
	}
	return errors.Join(failed, err)
}

// measure runs a call and writes its figures as they come; -v has go test hand on each line.
func (r run) measure(w io.Writer, before, now map[string]float64) error {
	args := []string{"test", "-v", "-run", "^$", "-bench", r.bench, "-benchtime", r.time, "-timeout", "30m"}
	c := exec.Command("go", append(args, r.packages)...)
	c.Stderr = os.Stderr
	out, err := c.StdoutPipe()
	if err != nil {
		return err
	}
	if err := c.Start(); err != nil {
		return err
	}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		line := lines.Text()
		if strings.Contains(line, "FAIL") || strings.Contains(line, "panic:") || strings.HasPrefix(line, "    ") {
			fmt.Fprintln(w, line)
		}
		for _, f := range figuresOf(line) {
			fmt.Fprintln(w, f.line(before))
			now[f.key()] = f.value
		}
	}
	if err := errors.Join(lines.Err(), c.Wait()); err != nil {
		return fmt.Errorf("%s: %w", r.bench, err)
	}
	return nil
}

// figuresOf reads the figures of a line of go test's: "BenchmarkName-2  20  5 ns/op  7 p99-ms"; none of another line.
func figuresOf(line string) (out []figure) {
	parts := strings.Fields(line)
	if len(parts) < 4 || !strings.HasPrefix(parts[0], "Benchmark") {
		return nil
	}
	name := strings.TrimPrefix(parts[0], "Benchmark")
	if i := strings.LastIndexByte(name, '-'); i > 0 {
		name = name[:i]
	}
	for pair := range slices.Chunk(parts[2:], 2) {
		value, err := strconv.ParseFloat(pair[0], 64)
		if err == nil && len(pair) == 2 && value != 0 {
			out = append(out, figure{name, pair[1], value})
		}
	}
	return out
}

// line is the line of the table.
func (f figure) line(before map[string]float64) string {
	want, since := "", ""
	bound, ok := wanted[f.key()]
	if !ok {
		bound, ok = wanted[f.unit]
	}
	switch {
	case ok && bound < 0:
		want = fmt.Sprintf("at least %g", -bound)
	case ok:
		want = fmt.Sprintf("at most %g", bound)
	}
	if ok && (bound < 0 && f.value < -bound || bound > 0 && f.value > bound) {
		want += " ✗"
	}
	if was := before[f.key()]; was != 0 && math.Abs(f.value-was) > change*math.Abs(was) {
		since = fmt.Sprintf("%+.0f %%", 100*(f.value-was)/was)
	}
	return strings.TrimRight(fmt.Sprintf("%-28s %14.6g %-16s %-14s %s", f.of, f.value, f.unit, want, since), " ")
}
