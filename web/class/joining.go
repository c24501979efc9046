package class

import (
	"net/http"
	"strconv"

	"cavix/core/text"
	"cavix/web/ui"
)

func (h Handler) renewCode(w http.ResponseWriter, r *http.Request) error {
	n := ui.ClassOf(r).ID
	if err := h.School.Roster.RenewCode(r.Context(), ui.ActorOf(r), n); err != nil {
		return err
	}
	return h.Redirect(w, r, classPath(n), text.New("class.class-another-code-old"), nil)
}

// letIn lets those in who were chosen of the ones who wait, or sends them away.
func (h Handler) letIn(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	var chosen []int64
	for _, says := range r.PostForm["student"] {
		if n, err := strconv.ParseInt(says, 10, 64); err == nil && len(chosen) < 1000 {
			chosen = append(chosen, n)
		}
	}
	in := r.PostForm.Get("do") != "away"
	if err := h.School.Roster.Admit(r.Context(), ui.ActorOf(r), c.ID, chosen, in); err != nil {
		return err
	}
	if in {
		return h.Redirect(w, r, classPath(c.ID)+"/people", text.New("class.people.they-class"), nil)
	}
	return h.Redirect(w, r, classPath(c.ID)+"/people", text.New("class.people.they-sent-away-nothing"), nil)
}

// drop puts a class into the bin.
func (h Handler) drop(w http.ResponseWriter, r *http.Request) error {
	n := ui.ClassOf(r).ID
	if err := h.School.Roster.DropClass(r.Context(), ui.ActorOf(r), n); err != nil {
		return err
	}
	return h.Redirect(w, r, "/bin", text.New("author.bin.bin-notes"), nil)
}
