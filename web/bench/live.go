package bench

import (
	"net/http"

	"cavix/web/ui"
)

// Live is a small Bench in the middle of a page: a figure to move, and what it reads.
type Live struct {
	ID, Action, Caption string
	Steps               int
	Figure              ui.FigureView
	Read                ui.Uncovered
}

// NewLive is a small Bench as it stands at first, its reading uncovered.
func NewLive(st Stand) (Live, error) { return live(st, form{Do: "all"}, true) }

func live(st Stand, f form, fresh bool) (Live, error) {
	v, err := newView(st, f, fresh)
	return Live{ID: st.ID, Action: st.Action, Caption: st.Caption, Steps: v.Steps, Figure: v.Figure, Read: v.Read}, err
}

// ServeLive answers a movement of a small Bench with it redrawn, or with its numbers alone.
func ServeLive(site *ui.Site, w http.ResponseWriter, r *http.Request, page string, st Stand) error {
	var f form
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	l, err := live(st, f, false)
	switch {
	case err != nil:
		return err
	case f.Only == "numbers":
		return site.Fragment(w, r, page, "numbers", l.Read)
	}
	return site.Fragment(w, r, page, "live", l)
}
