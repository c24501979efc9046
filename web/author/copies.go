package author

import (
	"fmt"
	"net/http"
	"time"

	"cavix/core/instrument"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/web/bench"
	"cavix/web/ui"
)

// sendView is the form with which a copy of an instrument or a sheet is sent to a colleague.
type sendView struct {
	What, Name, Href string // what is sent, its name, and its page
	Login            string
	Note             text.Text
	Errors           map[string]text.Text
}

// sendInstrument sends a copy of an instrument of the Rack to a colleague.
func (h Handler) sendInstrument(w http.ResponseWriter, r *http.Request) error {
	k, err := h.racked(r)
	if err != nil {
		return err
	}
	v := sendView{What: "instrument", Name: k.Name, Href: fmt.Sprintf("/workshop/%d", k.ID)}
	return h.send(w, r, v, func(by access.Actor, login string) (string, error) {
		return h.School.Rack.SendInstrument(r.Context(), by, k.ID, login)
	})
}

// sendSheet sends a copy of a sheet to a colleague.
func (h Handler) sendSheet(w http.ResponseWriter, r *http.Request) error {
	sh, err := h.named(r)
	if err != nil {
		return err
	}
	v := sendView{What: "sheet", Name: sh.Title, Href: fmt.Sprintf("/sheets/%d", sh.ID)}
	return h.send(w, r, v, func(by access.Actor, login string) (string, error) {
		return h.School.Rack.SendSheet(r.Context(), by, sh.ID, login)
	})
}

func (h Handler) send(w http.ResponseWriter, r *http.Request, v sendView, send func(access.Actor, string) (string,
	error)) error {
	if r.Method == http.MethodPost {
		var f struct {
			Login string `form:"login"`
		}
		if err := ui.Decode(r, &f); err != nil {
			return err
		}
		login := ui.OneLine(f.Login)
		to, err := send(ui.ActorOf(r), login)
		var bad ui.Faults
		if err := bad.Take("", err); err != nil {
			return err
		}
		if v.Errors = bad.By(); len(v.Errors) > 0 {
			v.Login = ui.Clip(login, 60)
		} else {
			v.Note = text.New("author.copies.send", "to", to)
		}
	}
	return h.Render(w, r, ui.Status(v.Errors), "send", text.New("author.copies.send-copy", "name", v.Name), v)
}

// receivedView is a copy that a colleague has sent.
type receivedView struct {
	ID          int64
	From, Title string
	Kind        string
	Sent        time.Time
	Made        []text.Text // what it is, line by line
	Pictures    []pictureView
	Unread      bool
}

type pictureView struct{ Name, Href string }

// received finds the copy that the address names, and its instruments.
func (h Handler) received(r *http.Request) (rack.SentCopy, []*instrument.Instrument, error) {
	n, err := ui.ID(r, "copy")
	if err != nil {
		return rack.SentCopy{}, nil, err
	}
	c, err := h.School.Rack.Copy(r.Context(), ui.UserOf(r).ID, n)
	if c.Instrument != nil {
		return c, []*instrument.Instrument{c.Instrument}, err
	}
	var list []*instrument.Instrument
	known := map[string]bool{}
	if c.Sheet != nil {
		for _, b := range c.Sheet.Blocks {
			for _, in := range b.Instruments {
				if !known[in.Name()] {
					known[in.Name()] = true
					list = append(list, in)
				}
			}
		}
	}
	return c, list, err
}

// copy shows a copy that a colleague has sent, before it is kept.
func (h Handler) copy(w http.ResponseWriter, r *http.Request) error {
	c, list, err := h.received(r)
	if err != nil {
		return err
	}
	v := receivedView{ID: c.ID, From: c.From, Title: c.Title, Kind: c.Kind, Sent: c.Sent}
	switch {
	case c.Instrument != nil:
		row := newRacked(rack.Racked{Instrument: c.Instrument})
		v.Made = []text.Text{text.New("author.copies.copy", "least_count", row.LeastCount), row.Made,
			text.Numbers(row.Range), row.Zero}
	case c.Sheet != nil:
		v.Made = blocksOf(*c.Sheet)
	default:
		v.Unread = true
	}
	for i, in := range list {
		v.Pictures = append(v.Pictures, pictureView{in.Name(), fmt.Sprintf("/received/%d/picture/%d", c.ID, i+1)})
	}
	return h.Render(w, r, http.StatusOK, "received", text.New("author.copies.from-colleague", "title", c.Title), v)
}

// copyPicture draws one of the instruments of a copy.
func (h Handler) copyPicture(w http.ResponseWriter, r *http.Request) error {
	_, list, err := h.received(r)
	if err != nil {
		return err
	}
	n, err := ui.ID(r, "n")
	if err != nil {
		return err
	}
	if n < 1 || int(n) > len(list) {
		return school.ErrNotFound
	}
	return bench.Hang(w, r, list[n-1])
}

// answerCopy keeps a copy that a colleague has sent, or declines it.
func (h Handler) answerCopy(w http.ResponseWriter, r *http.Request) error {
	c, _, err := h.received(r)
	if err != nil {
		return err
	}
	me := ui.UserOf(r).ID
	if r.PostFormValue("do") == "decline" {
		return h.Redirect(w, r, "/desk", text.Text{}, h.School.Rack.DeclineCopy(r.Context(), me, c.ID))
	}
	kept, err := h.School.Rack.KeepCopy(r.Context(), me, c.ID)
	if c.Kind == rack.CopyOfSheet {
		return h.Redirect(w, r, fmt.Sprintf("/sheets/%d", kept), text.Text{}, err)
	}
	return h.Redirect(w, r, fmt.Sprintf("/workshop/%d?kept", kept), text.Text{}, err)
}
