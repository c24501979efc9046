package notice_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/notice"
)

func TestNotices(t *testing.T) {
	made := []notice.Made{
		{1, 10, "neighbour-line", 1, 0}, {2, 10, "neighbour-line", 2, 0}, {3, 10, "neighbour-line", 1, 0},
		{4, 10, "neighbour-line", 1, 0},
		{1, 11, "neighbour-line", 1, 0}, {2, 11, "neighbour-line", 1, 0}, {3, 11, "neighbour-line", 1, 0},
		{4, 11, "neighbour-line", 1, 0},
		{5, 10, "zero-sign-flipped", 3, 3}, {5, 11, "zero-sign-flipped", 2, 2}, // again on two sheets
		{6, 10, "half-mark-missed", 7, 16}, // less than half of those that could show it
		{7, 10, "place-shift", 4, 8},
		{8, 10, "place-shift", 2, 2}, // too few to say
	}
	answered := []notice.Answered{{10, 16}, {11, 12}}
	got := notice.Notices(made, answered, []notice.Lost{{8, 6}, {9, 4}}, 10)
	assert.Equal(t, []notice.Notice{
		{Kind: notice.Many, Slip: "neighbour-line", Sheet: 10, Students: []int64{1, 2, 3, 4}, Times: 5, Of: 16},
		{Kind: notice.Form, Students: []int64{8}, Times: 6},
		{Kind: notice.Again, Slip: "zero-sign-flipped", Students: []int64{5}, Times: 5, Of: 2},
		{Kind: notice.Habit, Slip: "place-shift", Sheet: 10, Students: []int64{7}, Times: 4, Of: 8},
	}, got)
	assert.Len(t, notice.Notices(made, answered, nil, 1), 1)
	assert.Empty(t, notice.Notices(nil, nil, nil, 5))
	few := notice.Notices(made[:4], []notice.Answered{{10, 17}}, nil, 5)
	assert.Empty(t, few, "four of seventeen are less than a quarter")
}

func ExampleNotices() {
	for _, n := range notice.Notices(nil, nil, []notice.Lost{{Student: 3, Times: 7}}, 4) {
		fmt.Println(n.Students, n.Times)
	}
	// Output: [3] 7
}
