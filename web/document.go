package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"

	"cavix/core/instrument"
)

// document gives an instrument of the Rack as a file.
func (s *Server) document(w http.ResponseWriter, r *http.Request) error {
	k, err := s.racked(r)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/json; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="instrument-%d.json"`, k.ID))
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	return enc.Encode(k.Instrument)
}

// importView is the import form with what was wrong in a document, by field.
type importView struct {
	Document string
	Faults   []string
}

func (s *Server) importForm(w http.ResponseWriter, r *http.Request) error {
	return s.render(w, r, http.StatusOK, "import", "Import an instrument", importView{})
}

// importDocument hangs an instrument from a document on the Rack: pasted, or as a file.
func (s *Server) importDocument(w http.ResponseWriter, r *http.Request) error {
	if err := r.ParseMultipartForm(maxBody); err != nil && !errors.Is(err, http.ErrNotMultipart) {
		return badForm{err}
	}
	v := importView{Document: r.PostFormValue("document")}
	if file, _, err := r.FormFile("file"); err == nil {
		defer file.Close()
		b, err := io.ReadAll(file)
		if err != nil {
			return badForm{err}
		}
		if len(b) > 0 {
			v.Document = string(b)
		}
	}
	in, err := instrument.Parse([]byte(v.Document))
	if err == nil && in.Name() == "" {
		v.Faults = []string{"name: is missing; give it the name it has in the cupboard"}
	}
	if err != nil {
		f := &form{}
		if err := f.take(err); err != nil {
			return err
		}
		for _, bad := range f.bad {
			line := bad.Reason
			if bad.Field != "" {
				line = bad.Field + ": " + line
			}
			v.Faults = append(v.Faults, line)
		}
	}
	if v.Faults != nil {
		return s.render(w, r, http.StatusUnprocessableEntity, "import", "Import an instrument", v)
	}
	n, err := s.Store.KeepInstrument(r.Context(), userOf(r).instructor.ID, 0, in)
	if err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/workshop/%d?kept", n), http.StatusSeeOther)
	return nil
}
