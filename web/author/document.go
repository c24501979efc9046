package author

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"

	"cavix/core/instrument"
	"cavix/core/text"
	"cavix/web/ui"
)

// document gives an instrument of the Rack as a file.
func (h Handler) document(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "instrument")
	if err != nil {
		return err
	}
	k, err := h.School.Rack.Racked(r.Context(), ui.UserOf(r).ID, n)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/json; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="instrument-%d.json"`, k.ID))
	var b bytes.Buffer // as it is kept, also where this program cannot read it
	if err := json.Indent(&b, []byte(k.Document), "", "  "); err != nil {
		return err
	}
	_, err = b.WriteTo(w)
	return err
}

// importView is the import form with what was wrong in a document, by field.
type importView struct {
	Document string
	Faults   []text.Text
}

func (h Handler) importForm(w http.ResponseWriter, r *http.Request) error {
	return h.Render(w, r, http.StatusOK, "import", text.New("author.document.import-form"), importView{})
}

// importDocument hangs an instrument from a document on the Rack: pasted, or as a file.
func (h Handler) importDocument(w http.ResponseWriter, r *http.Request) error {
	data, err := ui.Upload(r, "file", "document")
	if err != nil {
		return err
	}
	v := importView{Document: ui.Clip(string(data), 100_000)}
	in, err := instrument.Parse(data)
	if err == nil && in.Name() == "" {
		v.Faults = []text.Text{text.New("author.document.import-document")}
	}
	if err != nil {
		var bad ui.Faults
		if err := bad.Take("", err); err != nil {
			return err
		}
		for _, b := range bad.Refusal {
			v.Faults = append(v.Faults, b.Text())
		}
	}
	if v.Faults != nil {
		return h.Render(w, r, http.StatusUnprocessableEntity, "import", text.New("author.document.import-instrument"),
			v)
	}
	n, err := h.School.Rack.KeepInstrument(r.Context(), ui.UserOf(r).ID, 0, in)
	if err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/workshop/%d?kept", n), http.StatusSeeOther)
	return nil
}
