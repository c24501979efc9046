package refusal_test

import (
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/refusal"
	"cavix/core/text"
)

func ExampleRefusal_Within() {
	err := fmt.Errorf("caliper.json: %w",
		refusal.Refusal{{Field: "division", Reason: text.Typed("must be more than 0")}})
	fmt.Println(refusal.Within("main", err))
	// Output: main.division: must be more than 0
}

func TestGathering(t *testing.T) {
	var r refusal.Refusal
	assert.NoError(t, r.Err(), "nothing is at fault yet")
	assert.NoError(t, r.Take("", nil))
	disk := errors.New("disk")
	assert.Equal(t, disk, r.Take("", disk), "an error that is no refusal is handed back")
	assert.NoError(t, r.Take("body", refusal.Refusal{{Reason: text.Typed("is empty")},
		{Field: "ask", Reason: text.Typed("is missing")}, {Field: "ask", Reason: text.Typed("and again")}}))
	r.Put("title", text.Typed("is missing"))
	assert.EqualError(t, r.Err(), "body: is empty; body.ask: is missing; body.ask: and again; title: is missing")
	assert.Equal(t, map[string]text.Text{"body": text.Typed("is empty"), "body.ask": text.Typed("is missing"),
		"title": text.Typed("is missing")}, refusal.By(r))
	assert.Empty(t, refusal.By(disk))
}
