package refusal_test

import (
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/refusal"
)

func ExampleRefusal_Within() {
	err := fmt.Errorf("caliper.json: %w", refusal.New("division", "must be more than 0; it is %d", 0))
	fmt.Println(refusal.Within("main", err))
	// Output: main.division: must be more than 0; it is 0
}

func TestGathering(t *testing.T) {
	var r refusal.Refusal
	assert.NoError(t, r.Err(), "nothing is at fault yet")
	assert.NoError(t, r.Take("", nil))
	disk := errors.New("disk")
	assert.Equal(t, disk, r.Take("", disk), "an error that is no refusal is handed back")
	assert.NoError(t, r.Take("body", refusal.Refusal{{Reason: "is empty"}, {Field: "ask", Reason: "is missing"},
		{Field: "ask", Reason: "and again"}}))
	r.Add("title", "is missing")
	assert.EqualError(t, r.Err(), "body: is empty; body.ask: is missing; body.ask: and again; title: is missing")
	assert.Equal(t, map[string]string{"body": "is empty", "body.ask": "is missing", "title": "is missing"},
		refusal.By(r))
	assert.Empty(t, refusal.By(disk))
}
