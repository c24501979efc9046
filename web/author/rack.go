package author

import (
	"fmt"
	"html/template"
	"net/http"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/figure"
	"cavix/store"
	"cavix/web/bench"
	"cavix/web/ui"
)

// rackedView is one instrument as the Rack shows it.
type rackedView struct {
	Warning                             string // what its book says against using it
	ID                                  int64
	Name, Made, LeastCount, Range, Zero string
	Drawing                             template.HTML
	Shared                              bool // with the owner's students
	Unread                              bool // this program cannot read it
}

func (s Shop) rack(w http.ResponseWriter, r *http.Request) error {
	list, err := s.Room.Rack(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	views := make([]rackedView, len(list))
	for i, k := range list {
		if k.Err != nil {
			s.Log.Error("an instrument cannot be read", "err", k.Err)
			views[i] = rackedView{ID: k.ID, Name: k.Name, Unread: true}
			continue
		}
		if views[i], err = newRacked(k); err != nil {
			return err
		}
	}
	return s.Render(w, r, http.StatusOK, "rack", "Rack", views)
}

// racked finds the instrument of the Rack that the address names. One that cannot be read is not there
// to work on.
func (s Shop) racked(r *http.Request) (classroom.Racked, error) {
	n, err := ui.ID(r, "instrument")
	if err != nil {
		return classroom.Racked{}, err
	}
	k, err := s.Room.Racked(r.Context(), ui.UserOf(r).ID, n)
	if err == nil && k.Err != nil {
		s.Log.Error("an instrument cannot be read", "err", k.Err)
		err = store.ErrNotFound
	}
	return k, err
}

func newRacked(k classroom.Racked) (rackedView, error) {
	in := k.Instrument
	d, err := figure.Lay(in, bench.Start(in), figure.Narrow)
	if err != nil {
		return rackedView{}, err
	}
	sp, unit := in.Spec(), " "+string(in.Unit())
	v := rackedView{
		ID: k.ID, Shared: k.Shared, Warning: k.Warning, Name: in.Name(), Made: in.Describe(), LeastCount: in.FormatMain(in.LeastCount()) + unit,
		Range: exercise.Show(in.FormatMain(sp.Main.From.Add(sp.Base))) + "–" +
			in.FormatMain(sp.Main.To.Add(sp.Base)) + unit,
		Zero:    "no {zero error}",
		Drawing: ui.Drawing(d.Scene(figure.Options{}), fmt.Sprintf("k%d", k.ID), "fig"),
	}
	if sp.ZeroError.Sign() != 0 {
		v.Zero = "closed, it shows " + exercise.Show(in.Format(sp.ZeroError)) + unit
	}
	return v, nil
}

// bench stands an instrument of the Rack on the Bench.
func (s Shop) bench(w http.ResponseWriter, r *http.Request) error {
	k, err := s.racked(r)
	if err != nil {
		return err
	}
	return bench.Serve(s.Site, w, r, bench.Stand{Instrument: k.Instrument, Action: fmt.Sprintf("/bench/%d", k.ID),
		Picture: fmt.Sprintf("/bench/%d/picture", k.ID), Back: ui.Link{Text: "Rack", Href: "/rack"}})
}

// picture sends an instrument of the Rack as it stands on the Bench, as a picture.
func (s Shop) picture(w http.ResponseWriter, r *http.Request) error {
	k, err := s.racked(r)
	if err != nil {
		return err
	}
	return bench.Picture(w, r, k.Instrument)
}

// share puts an instrument on the Bench of the owner's students, or takes it away from there.
func (s Shop) share(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "instrument")
	if err != nil {
		return err
	}
	if err := s.Room.Share(r.Context(), ui.UserOf(r).ID, n, r.PostForm.Get("shared") != ""); err != nil {
		return err
	}
	http.Redirect(w, r, "/rack", http.StatusSeeOther)
	return nil
}
