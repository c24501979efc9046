package class

import (
	"net/http"
	"strconv"

	"cavix/web/ui"
)

func (h Handler) renewCode(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "class")
	if err != nil {
		return err
	}
	if err := h.School.Roster.RenewCode(r.Context(), ui.ActorOf(r), n); err != nil {
		return err
	}
	return back(w, r, n, "renewed")
}

// letIn lets those in who were chosen of the ones who wait, or sends them away.
func (h Handler) letIn(w http.ResponseWriter, r *http.Request) error {
	c, err := h.ofClass(r)
	if err != nil {
		return err
	}
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
		return backTo(w, r, "/classes/%d/people?letin", c.ID)
	}
	return backTo(w, r, "/classes/%d/people?sentaway", c.ID)
}

// drop puts a class into the bin.
func (h Handler) drop(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "class")
	if err != nil {
		return err
	}
	if err := h.School.Roster.DropClass(r.Context(), ui.ActorOf(r), n); err != nil {
		return err
	}
	http.Redirect(w, r, "/bin?put", http.StatusSeeOther)
	return nil
}
