package exercise_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/text"
)

// caliper is the twentieth with a negative zero.
func caliper(t testing.TB) *instrument.Instrument {
	t.Helper()
	in, err := instrument.New(instrument.Spec{Family: instrument.VernierCaliper, Unit: length.Millimetre,
		Main:      instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine:      instrument.Fine{Kind: instrument.Vernier, Divisions: 20, MainDivisions: 39},
		ZeroError: length.Frac(-1, 10)})
	require.NoError(t, err)
	return in
}

func entry(text string) *exercise.Entry {
	fields := []exercise.Field{{Name: "observed", Input: exercise.Length, Unit: length.Millimetre}}
	entries, err := exercise.Read(fields, exercise.Answer{"observed": text})
	if err != nil {
		panic(err)
	}
	return &entries[0]
}

func TestTargets(t *testing.T) {
	n := func(s string) length.Number { v, _ := length.ReadTyped(s); return v.Value }
	exactly := exercise.Exactly{Is: n("7.60"), Written: "7.60", Near: n("0.025")}
	turn := exercise.Within{Exactly: exercise.Exactly{Is: n("0")}, Of: n("0.1"), By: n("0.2"), Turn: n("50")}
	for _, tt := range []struct {
		target exercise.Target
		typed  string
		meets  bool
		on     string // what later entries go on with
	}{
		{exactly, "7.60", true, "7.6"}, {exactly, "7,6", true, "7.6"}, {exactly, "7.61", false, ""},
		{exactly, "0.76 cm", true, "7.6"}, {exactly, "0.299 in", true, "7.6"}, {exactly, "0.301 in", false, ""},
		{turn, "0.3", true, "0.3"}, {turn, "0.4", false, ""}, {turn, "49.9", true, "49.9"}, {turn, "49.8", false, ""},
		{turn, "50.1", false, ""}, {turn, "-0.1", false, ""},
		{exercise.With{Target: exactly, Also: exercise.Exactly{Is: n("8.60")}}, "8.60", true, "7.6"},
		{exercise.With{Target: exactly, Also: exercise.Exactly{Is: n("8.60")}}, "9.60", false, ""},
	} {
		on, meets := tt.target.Meets(entry(tt.typed))
		assert.Equal(t, tt.meets, meets, "%s for %T", tt.typed, tt.target)
		if tt.meets {
			assert.Equal(t, tt.on, on.String(), tt.typed)
		}
	}
}

// What cannot be read is handed back at its box, and never marked.
func TestEntriesThatCannotBeRead(t *testing.T) {
	fields := []exercise.Field{{Name: "main", Term: text.Word("main reading"), Input: exercise.Length,
		Unit: length.Millimetre}, {
		Name:  "line",
		Term:  text.Word("line"),
		Input: exercise.Count,
	}, {Name: "pick", Input: exercise.Options, Options: []string{"a", "b"}}}
	for field, wrong := range map[string][]string{"main": {"forty", "1/0", "7..6", "7 kg", strings.Repeat("9", 50)},
		"line": {"x", "1e99"}, "pick": {"c"}} {
		for _, text := range wrong {
			_, err := exercise.Read(fields, exercise.Answer{field: text})
			require.Error(t, err, "%s: %s", field, text)
			assert.Contains(t, err.Error(), field)
		}
	}
	_, err := exercise.Read(fields, exercise.Answer{"main": " ", "line": "", "colour": "red"})
	assert.ErrorContains(t, err, "colour", "a box that is not there")
}

func TestAMethodOverAnother(t *testing.T) {
	two := 2
	class := exercise.Method{ZeroTerm: "correction", Decimals: "lenient", TenthsTolerance: &two}
	sheet := exercise.Method{Decimals: "strict"}.Over(class)
	assert.Equal(t, exercise.Method{ZeroTerm: "correction", Decimals: "strict", TenthsTolerance: &two}, sheet)
	for _, s := range exercise.MethodSettings {
		var m exercise.Method
		for _, c := range s.Choices {
			require.NoError(t, s.Set(&m, c.Value))
			assert.Equal(t, c.Value, s.Get(m))
		}
		assert.ErrorContains(t, s.Set(&m, "nonsense"), s.Field)
		assert.Equal(t, s.Choices[len(s.Choices)-1].Value, s.Get(m), "a refused choice changes nothing")
	}
}

func TestSheetsThatCannotBeDealt(t *testing.T) {
	good := func() exercise.Sheet {
		return exercise.Sheet{Blocks: []exercise.Block{{Kind: "read", Cards: 3, Settings: map[string]string{},
			Instruments: []*instrument.Instrument{caliper(t)}}}}
	}
	s := good()
	require.NoError(t, s.Check(kinds.All))
	for says, spoil := range map[string]func(*exercise.Sheet){
		"blocks": func(s *exercise.Sheet) { s.Blocks = nil },
		"cards":  func(s *exercise.Sheet) { s.Blocks[0].Cards = 0 },
		"60":     func(s *exercise.Sheet) { s.Blocks[0].Cards = 61 },
		"of all blocks": func(s *exercise.Sheet) {
			s.Blocks[0].Cards = 40
			s.Blocks = append(s.Blocks,
				s.Blocks[0])
		},
		"instruments":          func(s *exercise.Sheet) { s.Blocks[0].Instruments = nil },
		"hint_cost":            func(s *exercise.Sheet) { s.HintCost = -1 },
		"dealer":               func(s *exercise.Sheet) { s.Dealer = exercise.Dealing + 1 },
		"blocks.0.kind":        func(s *exercise.Sheet) { s.Blocks[0].Kind = "weigh" },
		"blocks.0.colour":      func(s *exercise.Sheet) { s.Blocks[0].Settings["colour"] = "red" },
		"blocks.0.zero":        func(s *exercise.Sheet) { s.Blocks[0].Settings["zero"] = "none of them" },
		"blocks.0.ask":         func(s *exercise.Sheet) { s.Blocks[0].Settings["ask"] = "main weight" },
		"blocks.0.marks.main":  func(s *exercise.Sheet) { s.Blocks[0].Marks = map[string]int{"main": 101} },
		"from 1 to 20":         func(s *exercise.Sheet) { s.Blocks = make([]exercise.Block, 21) },
		"blocks.0.instruments": func(s *exercise.Sheet) { s.Blocks[0].Instruments = []*instrument.Instrument{} },
	} {
		s := good()
		spoil(&s)
		assert.ErrorContains(t, s.Check(kinds.All), says)
	}
}

// suiting are instruments that a kind can be dealt with: calipers, or of a pattern where it asks for others.
func suiting(t *testing.T, kind string) []*instrument.Instrument {
	t.Helper()
	candidates := []*instrument.Instrument{caliper(t)}
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err)
		candidates = append(candidates, in)
	}
	for _, in := range candidates {
		with := []*instrument.Instrument{in, in, in}
		sheet := exercise.Sheet{
			Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: kind, Cards: 1, Instruments: with}},
		}
		if sheet.Check(kinds.All) == nil {
			return with
		}
	}
	require.Fail(t, "nothing suits "+kind)
	return nil
}

// One seed gives the same cards for ever, another student other ones; no card hangs on the blocks after it.
func TestDealingIsFixedByItsSeed(t *testing.T) {
	block := func(kind string, cards int) exercise.Block {
		return exercise.Block{Kind: kind, Cards: cards, Instruments: suiting(t, kind)}
	}
	documents := func(s exercise.Sheet, student int64) []string {
		t.Helper()
		items, err := s.Deal(kinds.All, exercise.StudentSeed(7, student))
		require.NoError(t, err)
		out := make([]string, len(items))
		for i, it := range items {
			d, err := exercise.Document(it)
			require.NoError(t, err)
			out[i] = string(d)
		}
		return out
	}
	for _, k := range kinds.All {
		short := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{block(k.Name(), 6)}}
		long := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{block(k.Name(), 6), block("read", 3)}}
		first := documents(short, 1)
		assert.Equal(t, first, documents(short, 1), k.Name())
		assert.Equal(t, first, documents(long, 1)[:6], "%s: what comes after changes nothing", k.Name())
		if k.Name() != "least_count" { // there the instrument is all that is asked
			assert.NotEqual(t, first, documents(short, 2), k.Name())
			seen := map[string]bool{}
			for _, d := range first {
				seen[d] = true
			}
			assert.Len(t, seen, 6, "%s: no student has the same twice", k.Name())
		}
	}
}

// Another method changes how an item is marked and nothing that is asked.
func TestWithMethod(t *testing.T) {
	s := exercise.Sheet{
		Blocks: []exercise.Block{{Kind: "read", Cards: 2, Instruments: []*instrument.Instrument{caliper(t)}}},
	}
	items, err := s.Deal(kinds.All, 3)
	require.NoError(t, err)
	before, err := exercise.Document(items[0])
	require.NoError(t, err)
	after, err := exercise.WithMethod(before, exercise.Method{Decimals: "lenient"})
	require.NoError(t, err)
	it, err := kinds.Open(after)
	require.NoError(t, err)
	assert.Equal(t, items[0].Lines(), it.Lines())
	var a, b map[string]any
	require.NoError(t, json.Unmarshal(before, &a))
	require.NoError(t, json.Unmarshal(after, &b))
	delete(a["body"].(map[string]any), "method")
	delete(b["body"].(map[string]any), "method")
	assert.Equal(t, a, b)
}

// Whatever is written into any card of any kind: marks stay between nothing and all, the cause is said, and
// nothing fails.
func TestWhateverIsWritten(t *testing.T) {
	draws := rand.New(rand.NewPCG(5, 5))
	words := []string{
		"",
		"0",
		"-0.10",
		"−0,1",
		"12",
		"31.40",
		"31,4",
		"1/3",
		"3.14 cm",
		"5",
		"20",
		"none",
		"1",
		"7.6 in",
		"+100v",
		"99999",
	}
	for _, k := range kinds.All {
		s := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: k.Name(), Cards: 20,
			Instruments: suiting(t, k.Name())}}}
		items, err := s.Deal(kinds.All, 11)
		require.NoError(t, err)
		marked := 0
		for range 20 {
			for _, it := range items {
				a := exercise.Answer{}
				for _, f := range it.Fields() {
					a[f.Name] = words[draws.IntN(len(words))]
					if len(f.Options) > 0 {
						a[f.Name] = f.Options[draws.IntN(len(f.Options))]
					}
				}
				r, err := it.Mark(a)
				if err != nil {
					continue // handed back
				}
				marked++
				require.False(t, r.Marks.Sign() < 0 || r.Of.Less(r.Marks), "%s: %s of %s", k.Name(), r.Marks, r.Of)
				e, err := it.Explain(a, exercise.Wording{})
				require.NoError(t, err)
				require.NotEmpty(t, e.Headline, "%s answered %v", k.Name(), a)
				require.NotContains(t, fmt.Sprint(e.Headline, e.Body), "%!", "a sentence whose gaps are filled")
			}
		}
		assert.Greater(t, marked, 20, k.Name())
	}
}

// An answer that was stored is read as JSON has it, however it is written.
func FuzzOpenAnswer(f *testing.F) {
	for _, doc := range []string{`{"main":"31","observed":"31.40"}`, `{}`, `{"":""}`, `{"a":"b","a":"c"}`,
		`{"a":"\u0031"}`, `{"a": "1"}`, `{"a":"x","b"}`, `{"a":"1",}`, `{"a":"½"}`, `{"a","b":"c"}`,
		`null`, `{"a":1}`, `{"a":"b":"c"}`, `{"a":"","":"b"}`} {
		f.Add(doc)
	}
	f.Fuzz(func(t *testing.T, doc string) {
		var want exercise.Answer
		bad := json.Unmarshal([]byte(doc), &want)
		got, err := exercise.OpenAnswer(doc)
		require.Equal(t, bad == nil, err == nil, "%v", err)
		if bad == nil {
			require.Equal(t, want, got)
		}
	})
}
