package exercise_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
)

func TestHelp(t *testing.T) {
	hints := []exercise.Hint{{Text: text.Typed("where")}, {Text: text.Typed("mark")},
		{Text: text.Typed("worked"), Worked: true}}
	for _, c := range []struct {
		of      exercise.Delivery
		offered int
	}{
		{exercise.Delivery{}, 3},
		{exercise.Delivery{Help: exercise.HelpNone}, 0},
		{exercise.Delivery{Help: exercise.HelpWhere}, 1},
		{exercise.Delivery{Help: exercise.HelpMark}, 2},
		{exercise.Delivery{Help: exercise.HelpWorked}, 3},
		{exercise.Delivery{Help: exercise.HelpWorked, Mode: exercise.Test}, 0},
	} {
		assert.Len(t, c.of.HintSteps(hints), c.offered, "%+v", c.of)
	}
	short := []exercise.Hint{{Text: text.Typed("worked"), Worked: true}}
	assert.Empty(t, exercise.Delivery{Help: exercise.HelpMark}.HintSteps(short), "a single hint that gives all away")

	sheet := exercise.Sheet{Delivery: exercise.Delivery{Help: exercise.HelpWorked}, HintCost: 1}
	for taken, want := range []string{"3", "2 1/2", "2", "0"} {
		assert.Equal(t, want, sheet.Earned(length.Int(3), hints[:taken]).Fraction(), "%d hints", taken)
	}
	before := exercise.Sheet{HintCost: 1} // given when there was no choice: the cost alone
	assert.Equal(t, "1 1/2", before.Earned(length.Int(3), hints).Fraction())
}

func TestWhichAttemptCounts(t *testing.T) {
	marks := []length.Number{length.Int(3), length.Int(6), length.Int(6), length.Int(4)}
	for counts, want := range map[exercise.Counts]struct {
		marks   length.Number
		attempt int
	}{
		exercise.CountsBest: {length.Int(6), 2}, exercise.CountsLast: {length.Int(4), 3},
		exercise.CountsMean: {length.Frac(19, 4), 3},
	} {
		got, attempt := exercise.Delivery{Counts: counts}.Counting(marks, false)
		assert.True(t, want.marks.Equal(got), "%q: %s", counts, got)
		assert.Equal(t, want.attempt, attempt, counts)

		got, attempt = exercise.Delivery{Counts: counts}.Counting(append(marks, length.Int(1)), true)
		assert.True(t, want.marks.Equal(got), "%q with another under way: %s", counts, got)
		assert.Equal(t, want.attempt, attempt, counts)
	}
	only, attempt := exercise.Delivery{}.Counting(marks[:1], true)
	assert.Equal(t, "3", only.String(), "the only one counts while it is under way")
	assert.Zero(t, attempt)
}

func TestWhenAnAttemptEnds(t *testing.T) {
	at := func(hour, minute int) time.Time { return time.Date(2026, 11, 25, hour, minute, 0, 0, time.UTC) }
	never := time.Time{}
	for _, c := range []struct {
		name         string
		of           exercise.Delivery
		closes, want time.Time
		extra        int
	}{
		{"as long as one likes", exercise.Delivery{}, never, never, 10},
		{"minutes from first sight", exercise.Delivery{Minutes: 20}, never, at(9, 20), 0},
		{"and extra ones", exercise.Delivery{Minutes: 20}, never, at(9, 30), 10},
		{"but not past the close", exercise.Delivery{Minutes: 20}, at(9, 10), at(9, 10), 0},
		{"which the extra minutes move", exercise.Delivery{Minutes: 20}, at(9, 10), at(9, 15), 5},
		{"the close alone", exercise.Delivery{}, at(12, 0), at(12, 0), 0},
		{"late work goes on", exercise.Delivery{Late: true}, at(8, 0), never, 0},
		{"though not longer than its minutes", exercise.Delivery{Late: true, Minutes: 20}, at(8, 0), at(9, 20), 0},
	} {
		assert.Equal(t, c.want, c.of.Ends(at(9, 0), c.closes, c.extra), c.name)
	}
}
