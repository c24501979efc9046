package author

import (
	"net/http"

	"cavix/web/ui"
)

// sheetsView lists an instructor's sheets.
type sheetsView struct {
	Sheets []ui.SheetView
	Racked int // instruments on the Rack
}

func (s Shop) sheets(w http.ResponseWriter, r *http.Request) error {
	owner := ui.UserOf(r).ID
	list, err := s.Room.Sheets(r.Context(), owner)
	if err != nil {
		return err
	}
	var v sheetsView
	for _, sh := range list {
		if sh.Err != nil {
			s.Log.Error("a sheet cannot be read", "err", sh.Err)
		}
		v.Sheets = append(v.Sheets, ui.NewSheetView(sh))
	}
	if v.Racked, err = s.Room.Store().Read(r.Context()).CountRacked(owner); err != nil {
		return err
	}
	return s.Render(w, r, http.StatusOK, "sheets", "Sheets", v)
}
