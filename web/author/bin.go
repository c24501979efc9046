package author

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/bin"
	"cavix/school/roster"
	"cavix/web/ui"
)

// binView lists what an instructor has removed and can restore.
type binView struct {
	Days   int // how long it is kept
	Things []binnedView
	Taken  text.Text // why something could not be brought back
}

// binnedView is something in the bin.
type binnedView struct {
	bin.Binned
	Left int // days until it is removed for good
}

func (h Handler) bin(w http.ResponseWriter, r *http.Request) error {
	v := binView{}
	return h.showBin(w, r, v, http.StatusOK)
}

func (h Handler) showBin(w http.ResponseWriter, r *http.Request, v binView, status int) error {
	const day = 24 * time.Hour
	list, err := h.School.Bin.Bin(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	v.Days = int(bin.Keeps / day)
	for _, b := range list {
		left := max(0, int((time.Until(b.At.Add(bin.Keeps))+day-1)/day))
		v.Things = append(v.Things, binnedView{b, left})
	}
	return h.Render(w, r, status, "bin", text.New("author.bin.show-bin"), v)
}

// fromBinForm is the form of fromBin.
type fromBinForm struct {
	Sort bin.Sort `form:"sort"`
	ID   int64    `form:"id"`
	Do   string   `form:"do"`
}

// fromBin brings something back, or removes it for good.
func (h Handler) fromBin(w http.ResponseWriter, r *http.Request, f fromBinForm) error {
	note, err := text.New("author.bin.back-where-all-belongs"), error(nil)
	if f.Do == "remove" {
		note, err = text.New("author.bin.removed-good"), h.School.Bin.Remove(r.Context(), ui.ActorOf(r), f.Sort, f.ID)
	} else {
		err = h.School.Bin.Restore(r.Context(), ui.ActorOf(r), f.Sort, f.ID)
	}
	if errors.Is(err, roster.ErrNameTaken) {
		return h.showBin(w, r, binView{Taken: text.New("author.bin.from-bin.taken")}, http.StatusUnprocessableEntity)
	}
	return h.Redirect(w, r, "/bin", note, err)
}

func (h Handler) dropInstrument(w http.ResponseWriter, r *http.Request) error {
	return h.drop(w, r, "instrument",
		func(by access.Actor, id int64) error { return h.School.Rack.DropInstrument(r.Context(), by, id) })
}

func (h Handler) dropSheet(w http.ResponseWriter, r *http.Request) error {
	return h.drop(w, r, "sheet", func(by access.Actor, id int64) error {
		return h.School.Rack.DropSheet(r.Context(), by,
			id)
	})
}

// drop puts what the address names into the bin.
func (h Handler) drop(w http.ResponseWriter, r *http.Request, name string, put func(access.Actor, int64) error) error {
	n, err := ui.ID(r, name)
	if err != nil {
		return err
	}
	if err := put(ui.ActorOf(r), n); err != nil {
		return fmt.Errorf("putting into the bin: %w", err)
	}
	return h.Redirect(w, r, "/bin", text.New("author.bin.bin-notes"), nil)
}
