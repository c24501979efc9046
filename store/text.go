package store

import (
	"fmt"

	"cavix/core/text"
)

// keptText reads a text that is kept.
type keptText text.Text

// Scan reads what text.Stored has written.
func (t *keptText) Scan(v any) error {
	s, is := v.(string)
	if !is {
		return fmt.Errorf("a text cannot be a %T", v)
	}
	*t = keptText(text.ReadStored(s))
	return nil
}
