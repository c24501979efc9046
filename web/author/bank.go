package author

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/rack"
	"cavix/web/ui"
)

// bankView is an instructor's bank of a kind.
type bankView struct {
	Kind    string
	Title   text.Text
	Items   []bankLine
	Own     int // changed, added or taken out
	Retired int
}

// bankLine is one item of a bank.
type bankLine struct {
	At      string // its address in the bank
	Says    text.Text
	Own     bool // written or changed by the instructor
	New     bool // not one that came with the program
	Retired bool
	ID      int64
}

// bankItem is the form of an item.
type bankItem struct {
	Kind   string
	Title  text.Text
	Action string
	Fields []bankField
	New    bool
}

// bankField is one field of the form.
type bankField struct {
	exercise.Setting
	Value   string
	Options []ui.OptionView
	Error   text.Text
}

// banked finds the kind that the address names, whose items come from a bank.
func banked(r *http.Request) (exercise.Banked, error) {
	kind, _ := kinds.All.Find(chi.URLParam(r, "kind"))
	k, ok := kind.(exercise.Banked)
	if !ok {
		return nil, school.ErrNotFound
	}
	return k, nil
}

// at returns the address of an item: a shipped one by its fingerprint, an own one by its number.
func at(b rack.Banked) string {
	if b.Key != "" {
		return b.Key
	}
	return fmt.Sprintf("own-%d", b.ID)
}

// item finds an item of the bank by its address; "new" is the zero value.
func (h Handler) item(r *http.Request, k exercise.Banked) (rack.Banked, error) {
	key := chi.URLParam(r, "item")
	if key == "new" {
		return rack.Banked{}, nil
	}
	list, err := h.School.Rack.Bank(r.Context(), ui.UserOf(r).ID, k)
	if err != nil {
		return rack.Banked{}, err
	}
	for _, b := range list {
		if at(b) == key {
			return b, nil
		}
	}
	return rack.Banked{}, school.ErrNotFound
}

// bank lists an instructor's bank.
func (h Handler) bank(w http.ResponseWriter, r *http.Request) error {
	k, err := banked(r)
	if err != nil {
		return err
	}
	list, err := h.School.Rack.Bank(r.Context(), ui.UserOf(r).ID, k)
	if err != nil {
		return err
	}
	v := bankView{Kind: k.Name(), Title: k.Title()}
	for _, b := range list {
		l := bankLine{At: at(b), Says: k.Says(b.Body), Own: b.ID != 0, New: b.Key == "", Retired: b.Retired, ID: b.ID}
		if l.Own {
			v.Own++
		}
		if l.Retired {
			v.Retired++
		}
		v.Items = append(v.Items, l)
	}
	return h.Render(w, r, http.StatusOK, "bank", text.New("author.bank.bank-b"), v)
}

// bankItem shows the form of an item.
func (h Handler) bankItem(w http.ResponseWriter, r *http.Request) error {
	k, err := banked(r)
	if err != nil {
		return err
	}
	b, err := h.item(r, k)
	if err != nil {
		return err
	}
	form := map[string]string{}
	if b.Body != nil {
		if form, err = k.Form(b.Body, ui.Said(r)); err != nil {
			return err
		}
	}
	return h.bankForm(w, r, k, b, form, nil)
}

func (h Handler) bankForm(
	w http.ResponseWriter,
	r *http.Request,
	k exercise.Banked,
	b rack.Banked,
	form map[string]string,
	errs map[string]text.Text,
) error {
	v := bankItem{
		Kind:   k.Name(),
		Title:  k.Title(),
		New:    b.Body == nil,
		Action: fmt.Sprintf("/bank/%s/%s", k.Name(), chi.URLParam(r, "item")),
	}
	for _, f := range k.Bank() {
		bf := bankField{Setting: f, Value: form[f.Name], Error: errs[f.Name]}
		for _, c := range f.Choices {
			bf.Options = append(bf.Options, ui.OptionView{Value: c.Value, Text: c.Words, On: c.Value == bf.Value})
		}
		v.Fields = append(v.Fields, bf)
	}
	return h.Render(w, r, ui.Status(errs), "bankitem", text.New("author.bank.bank-form"), v)
}

// maxBankText is the most characters of a field.
const maxBankText = 2000

// bankPost keeps an item, takes it out, brings it back, or forgets the instructor's version.
func (h Handler) bankPost(w http.ResponseWriter, r *http.Request) error {
	k, err := banked(r)
	if err != nil {
		return err
	}
	b, err := h.item(r, k)
	if err != nil {
		return err
	}
	owner := ui.UserOf(r).ID
	switch r.PostFormValue("do") {
	case "retire", "return":
		if b.Body == nil {
			return school.ErrNotFound
		}
		b.Retired = r.PostFormValue("do") == "retire"
		err = h.School.Rack.KeepBanked(r.Context(), owner, k, b)
	case "forget":
		err = h.School.Rack.DropBanked(r.Context(), owner, b.ID)
	default:
		form := map[string]string{}
		for _, f := range k.Bank() {
			form[f.Name] = ui.Clip(strings.ReplaceAll(r.PostFormValue(f.Name), "\r\n", "\n"), maxBankText)
		}
		b.Body, err = k.Write(form)
		if err == nil {
			err = h.School.Rack.KeepBanked(r.Context(), owner, k, b)
		}
		if refused := (refusal.Refusal)(nil); errors.As(err, &refused) {
			was, err := h.item(r, k)
			if err != nil {
				return err
			}
			return h.bankForm(w, r, k, was, form, refusal.By(refused))
		}
	}
	return h.Redirect(w, r, "/bank/"+k.Name(), text.New("author.bank.bank"), err)
}
