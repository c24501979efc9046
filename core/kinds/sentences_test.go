package kinds_test

import (
	"fmt"
	"math/big"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/locale"
)

// account is what students are told, in English and in the words of one printer, for reading through.
type account struct {
	file string
	say  *text.Printer
	out  strings.Builder
}

// newAccounts returns those of the ready sets of words in English, and one of each other language. CAVIX_GOLDEN=write
// writes them anew.
func newAccounts() accounts {
	list := []*account{{file: "sentences.txt", say: locale.English(text.Words{})},
		{file: "sentences-laboratory.txt", say: locale.English(text.Words{Base: string(words.Laboratory)})}}
	for _, tag := range locale.Languages[1:] {
		list = append(list, &account{file: "sentences-" + tag.String() + ".txt",
			say: locale.Of(tag.String()).Printer(text.Words{}, tag)})
	}
	return accounts{list: list, met: map[string]bool{}}
}

type accounts struct {
	list []*account
	met  map[string]bool // what was told, without its numbers
}

func (a accounts) head(s string) {
	for _, one := range a.list {
		one.out.WriteString(s)
	}
}

// told writes down what is said, unless it was said before with other numbers. It returns what is said in documents'
// words.
func (a accounts) told(head string, e exercise.Explanation) {
	key := anyNum.ReplaceAllString(saysOf(e), "#")
	if a.met[key] {
		return
	}
	a.met[key] = true
	for _, one := range a.list {
		says := one.say.Print(text.Run(append([]text.Text{e.Headline}, e.Body...)...))
		fmt.Fprintf(&one.out, "%s\n    %s\n", head, says)
	}
}

// saysOf is all that an explanation says, in the words of documents.
func saysOf(e exercise.Explanation) string {
	return said(append([]text.Text{e.Headline}, e.Body...)...)
}

// schools are the ways of teaching that change what is said, the default first.
var schools = []struct {
	name   string
	method exercise.Method
}{
	{"", exercise.Method{}},
	{"the line fully passed", exercise.Method{Between: instrument.Whole}},
	{"tenths", exercise.Method{Between: instrument.Tenths}},
	{"straight off the numbers", exercise.Method{Route: "direct"}},
	{"the correction is recorded", exercise.Method{ZeroTerm: "correction"}},
	{"a signed main reading", exercise.Method{NegativeZero: "signed-main"}},
	{"units are written", exercise.Method{Unit: "required"}},
	{"the lower line of a tie", exercise.Method{Tie: "lower"}},
	{"the upper line of a tie", exercise.Method{Tie: "upper"}},
}

// told are instruments of every family, each with a zero error and positions to be read at: plain ones, on a mark,
// just past one, just before one, exactly midway.
var told = []struct{ pattern, zero, at string }{
	{"Caliper 0.05 mm, 20 over 39", "-0.15", "31.40 47.00 12.375"},
	{"Caliper 0.02 mm, 50 over 49", "0.08", "31.46 20.98"},
	{"Caliper 0.1 mm, 10 over 9", "0", "7.3"},
	{"Caliper 0.001 in, 25 over 24", "-0.003", "2.318"},
	{"Caliper 1/128 in, 8 over 7", "1/128", "2 51/128"},
	{"Gear-tooth vernier 0.02 mm", "-0.02", "7.42"},
	{"Dial caliper 0.02 mm, two zeros", "-0.04", "35.46"},
	{"Dial caliper 0.05 mm, a turn of 5 mm", "0.10", "78.40"},
	{"Dial caliper 0.001 in, 0.05 in beam", "-0.002", "2.379"},
	{"Micrometer 0.01 mm", "-0.03", "7.73 7.48 8.02 5.239 5.235"},
	{"Micrometer 0.01 mm, 25–50", "0.02", "38.16"},
	{"Screw gauge 0.01 mm, 1 mm a turn", "0.04", "6.27"},
	{"Micrometer 0.001 mm, vernier 10 over 9", "-0.004", "7.234"},
	{"Micrometer 0.0001 in, vernier 10 over 9", "0.0003", "0.3127"},
	{"Depth micrometer 0.01 mm", "-0.02", "7.73 7.48 8.02"},
	{"Inside micrometer 0.01 mm, head and rod 50", "0.01", "56.27"},
	{"Digital caliper", "0.03", "19.97"},
	{"Steel rule in mm", "0", "53.4"},
	{"Pointer scale that stands off 0", "2", "31.5"},
}

// named finds a pattern.
func pattern(t *testing.T, name, zero string) *instrument.Instrument {
	t.Helper()
	for _, s := range instrument.Patterns() {
		if s.Name == name {
			s.ZeroError = number(t, zero)
			in, err := instrument.New(s)
			require.NoError(t, err)
			return in
		}
	}
	require.Fail(t, "no pattern "+name)
	return nil
}

// Every slip of every family in every school is put in words: what is said is in a file that a person can read
// through, and contradicts neither the card nor itself.
func TestSentences(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("reads thousands of sentences; left out with -short")
	}
	out := newAccounts()
	for _, c := range told {
		in := pattern(t, c.pattern, c.zero)
		for _, at := range strings.Split(strings.ReplaceAll(c.at, "2 51", "2_51"), " ") {
			y := number(t, strings.ReplaceAll(at, "_", " "))
			out.head(fmt.Sprintf("\n== %s; closed it shows %s; it stands at %s %s\n", in.Name(), c.zero, y, in.Unit()))
			for _, school := range schools {
				if school.method.Between == instrument.Tenths && y.Quo(in.LeastCount()).IsInt() {
					continue // nothing to estimate
				}
				tellAll(t, out, school.name, &kinds.Reading{Instrument: in, Indicated: &y, Method: school.method})
			}
		}
		if in.Spec().ZeroError.Sign() < 0 && in.HasFine() {
			out.head(fmt.Sprintf("\n== %s; closed it shows %s; a card of the closed instrument\n", in.Name(), c.zero))
			for _, school := range schools {
				tellAll(t, out, school.name, &kinds.Reading{Instrument: in, Closed: true, Method: school.method})
			}
		}
	}
	for _, one := range out.list {
		file, text := "../../testdata/"+one.file, one.out.String()
		assert.NotRegexp(t, `[{}⟦]`, text, "a text that there is not")
		if os.Getenv("CAVIX_GOLDEN") == "write" {
			require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		}
		want, err := os.ReadFile(file)
		require.NoError(t, err)
		a, b := strings.Split(string(want), "\n"), strings.Split(text, "\n")
		for i := range min(len(a), len(b)) {
			require.Equal(t, a[i], b[i], "line %d of %s; CAVIX_GOLDEN=write writes it anew", i+1, file)
		}
		require.Equal(t, len(a), len(b))
	}
}

// tellAll tells what is said of wrong entries: of a step asked alone, and of the sums of a whole card. All of it is
// checked; what was said before with other numbers is not written down again.
func tellAll(t *testing.T, out accounts, school string, r *kinds.Reading) {
	t.Helper()
	var steps []string
	for _, s := range slips.Steps {
		if slips.Can(r.Instrument, s) && !(s == slips.LeastCount && r.Closed) {
			steps = append(steps, s)
		}
	}
	for _, step := range steps {
		if r.Method.UnitRequired() {
			break // of what is wrong it says the same
		}
		r.Ask = []string{step}
		tell(t, out, school, r, step, exercise.Answer{})
	}
	r.Ask = steps
	empty, err := r.Mark(nil)
	require.NoError(t, err)
	right := exercise.Answer{}
	for _, m := range empty.Fields {
		right[m.Field] = m.Expected
	}
	loose, unsigned, partly := exercise.Answer{}, exercise.Answer{}, exercise.Answer{}
	for k, v := range right {
		loose[k], unsigned[k] = v, strings.TrimPrefix(v, "+")
		if strings.Contains(v, ".") {
			loose[k] += "0"
		}
	}
	partly[r.Ask[0]] = right[r.Ask[0]]
	for _, whole := range []struct {
		name string
		exercise.Answer
	}{{"all right", right}, {"a 0 too many in every box", loose}, {"no sign", unsigned}, {"all empty", nil},
		{"only the first box", partly}} {
		e, err := r.Explain(whole.Answer, exercise.Wording{})
		require.NoError(t, err)
		assert.NotRegexp(t, empties, saysOf(e))
		out.told(strings.TrimPrefix(school+": "+whole.name, ": "), e)
	}
	for _, step := range []string{slips.Main, slips.FineLine, slips.Fine, slips.ZeroError, slips.Corrected} {
		if r.Method.UnitRequired() {
			break
		}
		if slips.Can(r.Instrument, step) && (r.Closed || step == slips.Corrected) {
			tell(t, out, school, r, step, right)
		}
	}
}

// tell tells what is said of each wrong value of a step, beside other entries.
func tell(t *testing.T, out accounts, school string, r *kinds.Reading, step string,
	others exercise.Answer) {
	t.Helper()
	empty, err := r.Mark(nil)
	require.NoError(t, err)
	expected := number(t, strings.TrimPrefix(empty.Field(step).Expected, "+"))
	single := *r
	single.Ask = []string{step}
	ps, err := single.Predictions()
	require.NoError(t, err)
	grain := r.Instrument.LeastCount()
	if slips.IsLine(step) {
		grain = length.Int(1)
	}
	values := []length.Number{
		expected.MulInt(10),
		expected.Add(grain.Mul(length.Frac(1, 2))),
		expected.Add(grain.MulInt(7)),
		r.Instrument.LineWorth(),
	}
	if r.Closed {
		values = append(values, length.Int(0), r.Instrument.ScaleInterval().Neg())
	}
	if len(others) > 0 && !r.Closed {
		values = values[2:3]
	}
	for _, p := range ps {
		if r.Closed || len(others) == 0 || strings.HasPrefix(string(p.Code), "zero") {
			values = append(values, p.Value)
		}
	}
	for _, x := range values {
		text := placeOf(r).Text(step, x)
		a := exercise.Answer{step: text}
		for k, v := range others {
			if k != step {
				a[k] = v
			}
		}
		result, err := r.Mark(a)
		require.NoError(t, err)
		m := result.Field(step)
		e, err := r.Explain(a, exercise.Wording{})
		require.NoError(t, err)
		if m.Outcome != exercise.Wrong || e.Field != step {
			continue
		}
		holdsTrue(t, r, *m, said(e.Headline), saysOf(e))
		var codes []string
		for _, c := range m.Slips {
			codes = append(codes, string(c))
		}
		head := step + " " + exercise.Show(text)
		if len(others) > 0 {
			head += ", all else right"
		}
		if school != "" {
			head = school + ": " + head
		}
		out.told(fmt.Sprintf("%s (%s)", head, strings.Join(codes, ", ")), e)
	}
}

var (
	numbers         = `−?\d+(?: \d+/\d+|/\d+|\.\d+)?`
	itIs            = regexp.MustCompile(`The right value is (` + numbers + `)`)
	youWrote        = regexp.MustCompile(`^You wrote (` + numbers + `)\. (.*)\.$`)
	someLine        = regexp.MustCompile(`[Ll]ines? (\d+)(?:\.\d)?(?: and (?:line )?(\d+))?`)
	equation        = regexp.MustCompile(`((?:` + numbers + `)(?: [×÷+−] (?:` + numbers + `))+) = (` + numbers + `)`)
	lessThanNothing = regexp.MustCompile(`−\((\d+) − (\d+)\)`)
	anyNum          = regexp.MustCompile(numbers)
	empties         = regexp.MustCompile(`  | \.|\(\)|%!|\.\.|<nil>`)
)

// holdsTrue fails on what contradicts the card or itself: a number said to be right that is not, or that is what
// was written; a line that the instrument does not have; an equation that does not hold; a gap.
func holdsTrue(t *testing.T, r *kinds.Reading, m exercise.Mark, headline, says string) {
	t.Helper()
	in := r.Instrument
	about := fmt.Sprintf("%s, %s %s, %+v: %s", in.Name(), m.Field, m.Given, r.Method, says)
	value := func(text string) *big.Rat { return rat(number(t, strings.ReplaceAll(text, "−", "-"))) }
	if is := itIs.FindStringSubmatch(headline); is != nil {
		assert.True(t, same(value(is[1]), value(strings.TrimPrefix(m.Due(), "+"))), about)
	}
	if wrote := youWrote.FindStringSubmatch(headline); wrote != nil {
		due := value(strings.TrimPrefix(m.Due(), "+"))
		assert.True(t, slices.ContainsFunc(anyNum.FindAllString(wrote[2], -1),
			func(claim string) bool { return same(value(claim), due) }), "the right value is named: %s", about)
		assert.True(t, same(value(wrote[1]), rat(m.Value)), about)
	}
	most := max(in.Lines()-1, in.FinerLines())
	if in.Kind() == instrument.Vernier {
		most = in.Lines()
	}
	for _, found := range someLine.FindAllStringSubmatch(says, -1) {
		for _, n := range found[1:] {
			if k, err := strconv.Atoi(n); err == nil {
				assert.LessOrEqual(t, k, most, "no such line: %s", about)
			}
		}
	}
	says = lessThanNothing.ReplaceAllStringFunc(says, func(s string) string { // −(20 − 17) is −3
		of := lessThanNothing.FindStringSubmatch(s)
		return "−" + minus(value(of[1]), value(of[2])).RatString()
	})
	for _, eq := range equation.FindAllStringSubmatch(says, -1) {
		terms := strings.Fields(eq[1])
		sum, product := new(big.Rat), value(terms[0])
		for i := 1; i+1 < len(terms); i += 2 {
			switch x := value(terms[i+1]); terms[i] {
			case "×":
				product = times(product, x)
			case "÷":
				product = over(product, x)
			case "+":
				sum, product = plus(sum, product), x
			case "−":
				sum, product = plus(sum, product), new(big.Rat).Neg(x)
			}
		}
		assert.True(t, same(plus(sum, product), value(eq[2])), "%s does not hold: %s", eq[0], about)
	}
	assert.NotRegexp(t, empties, says, about)
}
