package web_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/store/storetest"
)

// The tests of pages name what the demo holds by its numbers: this is what they stand for.
func TestNumbersOfTheDemo(t *testing.T) {
	_, db := demoStore(t)
	for query, want := range map[string][]string{
		"SELECT id || ' ' || name FROM classes ORDER BY id": {"1 Mill parts, Monday", "2 Mill parts, evening"},
		"SELECT id || ' ' || title FROM sheets ORDER BY id": {"1 First readings", "2 Sluice pins",
			"3 Weir shims, fine lines", "4 Arbors and bushes", "5 Before the bench test", "6 Paddle shafts",
			"7 Good or not", "8 Half-term test", "9 Second sitting", "10 Backward and half", "11 Paddle bolts",
			"12 The gate hinge's angle", "13 Bore of the sight glass", "14 Runout of the worn shaft"},
		"SELECT id || ' of ' || class || ' ' || title FROM assignments ORDER BY id": {"1 of 1 First readings",
			"2 of 1 Sluice pins", "3 of 1 Weir shims, fine lines", "4 of 1 Arbors and bushes",
			"5 of 1 Before the bench test", "6 of 1 Good or not", "7 of 1 Half-term test", "8 of 1 Second sitting",
			"9 of 2 Paddle shafts", "10 of 2 Backward and half", "11 of 2 The gate hinge's angle",
			"12 of 2 Bore of the sight glass", "13 of 2 Runout of the worn shaft", "14 of 1 Paddle bolts"},
		"SELECT id || ' ' || title FROM surveys ORDER BY id": {"1 Arbor, five places",
			"2 Who reads the sluice pins how", "3 Wallower, four teeth", "4 Pivot bushes in the plug"},
		"SELECT id || ' ' || name FROM students WHERE id < 10 ORDER BY id": {"1 Wren A.", "2 Tobin F.", "3 Elspeth O.",
			"4 Caspian R.", "5 Linnet D.", "6 Osric T.", "7 Fenella K.", "8 Bram H.", "9 Sorrel P."},
	} {
		assert.Equal(t, want, storetest.Texts(t, db, query), query)
	}
}
