package web

import (
	"fmt"
	"html/template"
	"net/http"

	"cavix/core/marking"
	"cavix/figure"
	"cavix/store"
)

// rackedView is one instrument as the Rack shows it.
type rackedView struct {
	ID                                  int64
	Name, Made, LeastCount, Range, Zero string
	Drawing                             template.HTML
}

func (s *Server) rack(w http.ResponseWriter, r *http.Request) error {
	list, err := s.Store.Rack(r.Context(), userOf(r).instructor.ID)
	if err != nil {
		return err
	}
	views := make([]rackedView, len(list))
	for i, k := range list {
		if views[i], err = newRacked(k); err != nil {
			return err
		}
	}
	return s.render(w, r, http.StatusOK, "rack", "Rack", views)
}

// racked finds the instrument of the Rack that the address names.
func (s *Server) racked(r *http.Request) (store.Racked, error) {
	n, err := id(r, "instrument")
	if err != nil {
		return store.Racked{}, err
	}
	return s.Store.Racked(r.Context(), userOf(r).instructor.ID, n)
}

func newRacked(k store.Racked) (rackedView, error) {
	in := k.Instrument
	d, err := figure.Lay(in, startPosition(in), figure.Narrow)
	if err != nil {
		return rackedView{}, err
	}
	sp, unit := in.Spec(), " "+string(in.Unit())
	v := rackedView{
		ID: k.ID, Name: in.Name(), Made: in.Describe(), LeastCount: in.FormatMain(in.LeastCount()) + unit,
		Range:   marking.Show(in.FormatMain(sp.Main.From.Add(sp.Base))) + "–" + in.FormatMain(sp.Main.To.Add(sp.Base)) + unit,
		Zero:    "no zero error",
		Drawing: drawing(d.Scene(figure.Options{}), fmt.Sprintf("k%d", k.ID), "fig"),
	}
	if sp.ZeroError.Sign() != 0 {
		v.Zero = "closed, it shows " + marking.Show(in.Format(sp.ZeroError)) + unit
	}
	return v, nil
}

func (s *Server) dropInstrument(w http.ResponseWriter, r *http.Request) error {
	n, err := id(r, "instrument")
	if err != nil {
		return err
	}
	if err := s.Store.DropInstrument(r.Context(), userOf(r).instructor.ID, n); err != nil {
		return err
	}
	http.Redirect(w, r, "/rack", http.StatusSeeOther)
	return nil
}
