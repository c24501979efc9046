package access

import (
	"fmt"

	"cavix/core/text"
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

// RoomFor is a Full where there is no room for one more.
func RoomFor(has int, err error, what string, most int) error {
	if err == nil && has >= most {
		err = Full{what, most}
	}
	return err
}
