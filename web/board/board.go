package board

import (
	"github.com/go-chi/chi/v5"

	"cavix/web/ui"
)

// Stage is where the Board stands.
type Stage struct{ *ui.Site }

// Streams adds the addresses that stay open.
func (s Stage) Streams(r chi.Router) {}
