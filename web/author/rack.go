package author

import (
	"fmt"
	"net/http"

	"cavix/core/instrument"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/rack"
	"cavix/web/bench"
	"cavix/web/ui"
)

// rackedView is one instrument as the Rack shows it.
type rackedView struct {
	Warning    text.Text // what its book says against using it
	Numbers    text.Text // which number on its scale misleads
	ID         int64
	Name       string
	Made       text.Text
	LeastCount text.Math
	Range      text.Math
	Zero       text.Text
	Picture    string // its address
	Shared     bool   // with the owner's students
	Unread     bool   // this program cannot read it
}

// rackView is a part of the Rack.
type rackView struct {
	ui.Turn
	Hung []rackedView
	All  int // instruments on the Rack
}

// racksPage is the number of instruments on a page of the Rack.
const racksPage = 24

func (h Handler) rack(w http.ResponseWriter, r *http.Request) error {
	filters := []ui.OptionView{{Value: "", Text: text.New("author.rack.all-families")}}
	for _, f := range instrument.Families {
		filters = append(filters, ui.OptionView{Value: string(f.Family), Text: f.Name})
	}
	part, turn := ui.PartOf(r, "/rack", racksPage, filters)
	list, more, err := h.School.Rack.RackPart(r.Context(), ui.UserOf(r).ID, part)
	if err != nil {
		return err
	}
	v := rackView{Turn: turn(more)}
	for _, k := range list {
		if k.Err != nil {
			h.Log.Error("an instrument cannot be read", "err", k.Err)
			v.Hung = append(v.Hung, rackedView{ID: k.ID, Name: k.Name, Unread: true})
			continue
		}
		v.Hung = append(v.Hung, newRacked(k))
	}
	if v.All, err = h.School.Rack.CountRacked(r.Context(), ui.UserOf(r).ID); err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "rack", text.New("author.rack.rack"), v)
}

// hung sends the small picture of an instrument of the Rack.
func (h Handler) hung(w http.ResponseWriter, r *http.Request) error {
	k, err := h.racked(r)
	if err != nil {
		return err
	}
	return bench.Hang(w, r, k.Instrument)
}

// racked finds the instrument of the Rack that the address names. One that cannot be read is not there
// to work on.
func (h Handler) racked(r *http.Request) (rack.Racked, error) {
	n, err := ui.ID(r, "instrument")
	if err != nil {
		return rack.Racked{}, err
	}
	k, err := h.School.Rack.Racked(r.Context(), ui.UserOf(r).ID, n)
	if err == nil && k.Err != nil {
		h.Log.Error("an instrument cannot be read", "err", k.Err)
		err = school.ErrNotFound
	}
	return k, err
}

func newRacked(k rack.Racked) rackedView {
	in := k.Instrument
	sp, unit := in.Spec(), in.Unit()
	v := rackedView{
		ID: k.ID, Shared: k.Shared, Warning: k.Warning, Name: in.Name(), Made: in.Describe(),
		LeastCount: text.Math(unit.With(in.FormatMain(in.LeastCount()))),
		Range: text.Math(in.FormatMain(sp.Main.From.Add(sp.Base)) + "–" +
			unit.With(in.FormatMain(sp.Main.To.Add(sp.Base)))),
		Zero:    text.New("author.rack.new-racked.zero"),
		Picture: fmt.Sprintf("/rack/%d/hung?v=%s", k.ID, bench.Hung(k.Document)),
	}
	if said := in.Misnumbering(); !said.IsZero() {
		v.Numbers = said
	}
	if sp.ZeroError.Sign() != 0 {
		v.Zero = text.New("author.rack.new-racked", "zero_error", text.Math(in.Format(sp.ZeroError)), "unit", unit)
	}
	return v
}

// bench stands an instrument of the Rack on the Bench.
func (h Handler) bench(w http.ResponseWriter, r *http.Request) error {
	k, err := h.racked(r)
	if err != nil {
		return err
	}
	return bench.Serve(h.Site, w, r, bench.Stand{Instrument: k.Instrument, Action: fmt.Sprintf("/bench/%d", k.ID),
		Picture: fmt.Sprintf("/bench/%d/picture", k.ID), Back: ui.Link{Text: text.New("author.rack.rack-b"),
			Href: "/rack"}})
}

// picture sends an instrument of the Rack as it stands on the Bench, as a picture.
func (h Handler) picture(w http.ResponseWriter, r *http.Request) error {
	k, err := h.racked(r)
	if err != nil {
		return err
	}
	return bench.Picture(w, r, k.Instrument)
}

// share puts an instrument on the Bench of the owner's students, or takes it away from there.
func (h Handler) share(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "instrument")
	if err != nil {
		return err
	}
	if err := h.School.Rack.Share(r.Context(), ui.UserOf(r).ID, n, r.PostForm.Get("shared") != ""); err != nil {
		return err
	}
	http.Redirect(w, r, "/rack", http.StatusSeeOther)
	return nil
}
