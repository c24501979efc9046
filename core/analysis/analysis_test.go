package analysis_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/analysis"
	"cavix/core/exercise"
	"cavix/core/length"
)

func on(student int64, card int, earned int64, slip exercise.Code) analysis.Outcome {
	return analysis.Outcome{Student: student, Card: card, Earned: length.Int(earned), Of: length.Int(2), Slip: slip}
}

// Nine students: card 1 is right for the upper six, card 2 for everybody, card 3 only for the lower three.
func sheet() (out []analysis.Outcome) {
	for st := int64(1); st <= 9; st++ {
		slip := func(wrong bool, code exercise.Code) (int64, exercise.Code) {
			if wrong {
				return 0, code
			}
			return 2, ""
		}
		e1, s1 := slip(st <= 3, "half-mark-missed")
		e3, s3 := slip(st > 3, "")
		e4, s4 := slip(st <= 2, "half-mark-missed")
		e5, s5 := slip(st == 4, "neighbour-line")
		out = append(out, on(st, 5, e5, s5), on(st, 1, e1, s1), on(st, 2, 2, ""), on(st, 3, e3, s3), on(st, 4, e4, s4))
		out = append(out, on(st, 6, e1, s1))
	}
	return out
}

func TestCards(t *testing.T) {
	cards := analysis.Cards(sheet())
	want := []string{"1 6 0 1", "2 9 0 0", "3 3 6 -1", "4 7 0 0.67", "5 8 0 0", "6 6 0 1"}
	for i, c := range cards {
		assert.Equal(t, want[i], fmt.Sprint(c.N, c.Right, c.Unnamed, " ", c.Apart.Round(2)))
		assert.True(t, c.Told)
		assert.Equal(t, 9, c.Answered)
	}
	assert.Equal(t, exercise.Code("half-mark-missed"), cards[0].Slips[0].Code)
	assert.Empty(t, cards[1].Slips)

	few := analysis.Cards(sheet()[:4*6])
	assert.False(t, few[0].Told, "four students have no thirds to compare")
	assert.Empty(t, analysis.Cards(nil))
}

func TestSlips(t *testing.T) {
	got := analysis.Slips(sheet())
	assert.Len(t, got, 2)
	assert.Equal(t, analysis.Slip{Code: "half-mark-missed", Made: 8, Students: []int64{1, 2, 3}, Cards: []int{1, 4, 6}},
		got[0])
	assert.Equal(t, []int{5}, got[1].Cards)
}

// In whatever order answers come in, the same is said of them; and no card tells more than fully apart.
func TestOrderDoesNotMatter(t *testing.T) {
	draws := rand.New(rand.NewPCG(1, 2))
	var list []analysis.Outcome
	for st := range int64(20) {
		for card := range 8 {
			list = append(list, on(st, card+1, draws.Int64N(3), []exercise.Code{"", "a", "b"}[draws.IntN(3)]))
		}
	}
	first := analysis.Cards(list)
	draws.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	for i, c := range analysis.Cards(list) {
		assert.True(t, c.Apart.Equal(first[i].Apart))
		assert.Equal(t, first[i].Right, c.Right)
		assert.False(t, length.Int(1).Less(c.Apart.Abs()))
		made := c.Right + c.Unnamed
		for _, o := range c.Students {
			if !o.Right() && o.Slip != "" {
				made++
			}
		}
		assert.Equal(t, c.Answered, made)
	}
}

func ExampleCards() {
	for _, c := range analysis.Cards(sheet())[:1] {
		fmt.Println(c.Right, "of", c.Answered, "right; tells apart", c.Apart)
	}
	// Output: 6 of 9 right; tells apart 1
}
