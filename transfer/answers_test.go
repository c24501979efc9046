package transfer_test

import (
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/length"
	"cavix/transfer"
)

// What is written is read back by anybody's CSV reader, numbers as numbers and what looks like a formula as text.
func TestAnswersAsCSV(t *testing.T) {
	var b strings.Builder
	w, err := transfer.NewAnswers(transfer.CSV, &b)
	require.NoError(t, err)
	a := transfer.Answer{Class: "Mill", Block: 2, Student: "Wren A.", Seconds: 61, Sheet: `=HYPERLINK("x")`, Card: 3,
		Kind: "read", Instrument: "Arbor, \"fine\"\nmicrometer", LeastCount: "0.01", Field: "zero_error",
		Given: "-0.03", Expected: "+0.03", Outcome: "wrong",
		Marks: length.Frac(1, 2), Of: length.Int(1), Slip: "zero-sign-flipped", Hints: 1,
		Answered: time.Date(2026, 11, 25, 9, 5, 0, 0, time.FixedZone("", 3600)), Attempt: 2, Late: true}
	require.NoError(t, w.Write(a))
	cells := []struct{ given, written string }{{"-0.5 mm", "'-0.5 mm"}, {"@now", "'@now"}, {"+1+1", "'+1+1"},
		{"7,60", "7,60"}, {"−0.03", "−0.03"}, {"", ""}, {"-1/64", "-1/64"}}
	for _, c := range cells {
		require.NoError(t, w.Write(transfer.Answer{Given: c.given}))
	}
	require.NoError(t, w.Close())
	rows, err := csv.NewReader(strings.NewReader(b.String())).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"Mill", `'=HYPERLINK("x")`, "2", "3", "read", "Arbor, \"fine\"\nmicrometer", "0.01",
		"Wren A.", "zero_error", "-0.03", "+0.03", "wrong", "0.5", "1", "zero-sign-flipped", "1", "61",
		"2026-11-25T08:05:00Z", "2", "yes", ""}, rows[1])
	for i, c := range cells {
		assert.Equal(t, c.written, rows[2+i][9])
	}
}
