package logbook_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/core/refusal"
)

func number(t *testing.T, text string) length.Number {
	t.Helper()
	x, err := length.Parse(text)
	require.NoError(t, err)
	return x
}

// micrometer is one from 25 to 50 mm, so that it shows 25 when it is closed.
func micrometer(t *testing.T) *instrument.Instrument {
	t.Helper()
	for _, p := range instrument.Patterns() {
		if p.Name == "Micrometer 0.01 mm, 25–50" {
			in, err := instrument.New(p)
			require.NoError(t, err)
			return in
		}
	}
	t.Fatal("there is no such pattern")
	return nil
}

func day(n int) time.Time { return time.Date(2026, time.March, n, 0, 0, 0, 0, time.UTC) }

func TestWhatACheckFinds(t *testing.T) {
	in := micrometer(t)
	closed := number(t, "24.98")
	assert.Equal(t, "-0.02", logbook.Entry{Closed: &closed}.Zero(in).String(), "less the base")
	on := func(pairs ...string) (e logbook.Entry) {
		for i := 0; i < len(pairs); i += 2 {
			e.Standards = append(e.Standards, logbook.Standard{Size: number(t, pairs[i]),
				Indicated: number(t, pairs[i+1])})
		}
		return e
	}
	assert.Equal(t, "0.03", on("30", "30.03").Zero(in).String())
	assert.Equal(t, "0.02", on("30", "30.03", "40", "40.01", "50", "50.01").Zero(in).String(),
		"the mean, to the least count")
}

// A later entry corrects an earlier one, whatever its day; what was corrected counts no more, and stays in the book.
func TestTheStateOfAnInstrument(t *testing.T) {
	in := micrometer(t)
	entry := func(id int64, at int, closed string, d logbook.Decision, due int) logbook.Entry {
		x := number(t, closed)
		e := logbook.Entry{ID: id, At: day(at), Closed: &x, Who: "M", Condition: logbook.Clean, Decision: d}
		if due > 0 {
			e.Due = day(due)
		}
		return e
	}
	limit := number(t, "0.02")
	assert.Empty(t, logbook.StateOf(in, nil, &limit, day(20)).Warning(), "never checked: nothing is known against it")
	for _, tt := range []struct {
		list []logbook.Entry
		says string
	}{
		{[]logbook.Entry{entry(1, 3, "25.01", logbook.InUse, 0)}, ""},
		{[]logbook.Entry{entry(1, 3, "25.02", logbook.InUse, 0)}, ""},
		{[]logbook.Entry{entry(1, 3, "24.97", logbook.InUse, 0)}, "logbook.zero-error-beyond-its"},
		{[]logbook.Entry{entry(1, 3, "24.97", logbook.Carry, 0)}, ""},
		{[]logbook.Entry{entry(1, 3, "25", logbook.InUse, 20)}, "logbook.check-due"},
		{[]logbook.Entry{entry(1, 3, "25", logbook.InUse, 21)}, ""},
		{[]logbook.Entry{entry(1, 3, "25", logbook.Aside, 20)}, "logbook.warning"},
		// the later day counts
		{[]logbook.Entry{entry(1, 9, "25", logbook.Aside, 0), entry(2, 3, "25", logbook.InUse, 0)}, "logbook.warning"},
		{[]logbook.Entry{entry(1, 9, "25", logbook.Aside, 0),
			{ID: 2, At: day(4), Closed: entry(0, 1, "25", "", 0).Closed, Decision: logbook.InUse, Corrects: 1}}, ""},
	} {
		assert.Equal(t, tt.says, logbook.StateOf(in, tt.list, &limit, day(20)).Warning().Key(), "%+v", tt.list)
	}
}

func TestEntriesThatSayNothing(t *testing.T) {
	in := micrometer(t)
	x := number(t, "25")
	good := logbook.Entry{At: day(3), Closed: &x, Who: "Maren", Condition: logbook.Clean, Decision: logbook.InUse}
	require.NoError(t, good.Check(in))
	far := number(t, "2.5")
	for field, spoil := range map[string]func(*logbook.Entry){
		"closed":    func(e *logbook.Entry) { e.Closed = nil },
		"who":       func(e *logbook.Entry) { e.Who = "" },
		"condition": func(e *logbook.Entry) { e.Condition = "shiny" },
		"decision":  func(e *logbook.Entry) { e.Decision = "" },
		"due":       func(e *logbook.Entry) { e.Due = day(3) },
		"standards": func(e *logbook.Entry) { e.Standards = make([]logbook.Standard, 9) },
		"note":      func(e *logbook.Entry) { e.Note = string(make([]byte, 300)) },
	} {
		e := good
		spoil(&e)
		assert.Contains(t, refusal.By(e.Check(in)), field)
	}
	e := good
	e.Closed = &far
	assert.Contains(t, refusal.By(e.Check(in)), "closed", "2.5 is cm")
}
