package classroom

import (
	"fmt"

	"cavix/core/text"
)

// How much an instructor keeps, and a class holds.
const (
	MostInstruments = 300
	MostSheets      = 300
	MostClasses     = 60
)

// Full is for one more of something of which there are as many as may be.
type Full struct {
	What string // instruments
	Most int
}

func (f Full) Error() string { return fmt.Sprintf("there are %d %s already", f.Most, f.What) }

// Text says what is full and what can be done.
func (f Full) Text() text.Text {
	return text.New("error.full", "n", f.Most, "what", text.New("many."+f.What))
}

// room is a Full where there is no room for one more.
func room(has int, err error, what string, most int) error {
	if err == nil && has >= most {
		err = Full{what, most}
	}
	return err
}
