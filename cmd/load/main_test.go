package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestFiguresOfALine(t *testing.T) {
	assert.Equal(t, []figure{{"Term/ledger", "ns/op", 5e7}, {"Term/ledger", "median-ms", 48.5}},
		figuresOf("BenchmarkTerm/ledger-2   \t      20\t  50000000 ns/op\t        48.5 median-ms\t 0 B/op"))
	for _, line := range []string{"", "BenchmarkTerm", "PASS", "ok  \tcavix/web\t3.1s", "BenchmarkTerm/ledger-2"} {
		assert.Empty(t, figuresOf(line), line)
	}
}

// A line says what is wanted, and marks what differs by more than a tenth.
func TestALineIsComparedWithTheLastRun(t *testing.T) {
	before := map[string]float64{"Submissions p99-ms": 50, "Submissions of-bare": 0.6}
	for f, says := range map[figure]string{
		{"Submissions", "p99-ms", 54}: "Submissions                              54 p99-ms           at most 60",
		{"Submissions", "p99-ms", 66}: "Submissions                              66 p99-ms           " +
			"at most 60 ✗   +32 %",
		{"Submissions", "of-bare", 0.4}: "Submissions                             0.4 of-bare          " +
			"at least 0.5 ✗ -33 %",
		{"Streams", "KB-a-stream", 19.2345}: "Streams                             19.2345 KB-a-stream",
	} {
		assert.Equal(t, says, f.line(before))
	}
}
