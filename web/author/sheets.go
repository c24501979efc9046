package author

import (
	"net/http"

	"cavix/core/text"
	"cavix/web/ui"
)

// sheetsView lists an instructor's sheets.
type sheetsView struct {
	ui.Turn
	Sheets []ui.SheetView
	All    int
	Racked int // instruments on the Rack
}

// sheetsPage is the number of sheets on a page of the list.
const sheetsPage = 50

func (h Handler) sheets(w http.ResponseWriter, r *http.Request) error {
	owner := ui.UserOf(r).ID
	part, turn := ui.PartOf(r, "/sheets", sheetsPage,
		[]ui.OptionView{{Value: "", Text: text.New("author.sheets.all-sheets")},
			{Value: "given", Text: text.New("author.sheets.sheets.given-class")},
			{Value: "new", Text: text.New("author.sheets.sheets.not-given-yet")}})
	list, more, err := h.School.Rack.SheetsPart(r.Context(), owner, part)
	if err != nil {
		return err
	}
	v := sheetsView{Turn: turn(more)}
	if v.All, err = h.School.Rack.CountSheets(r.Context(), owner); err != nil {
		return err
	}
	for _, sh := range list {
		if sh.Err != nil {
			h.Log.Error("a sheet cannot be read", "err", sh.Err)
		}
		v.Sheets = append(v.Sheets, ui.NewSheetView(sh))
	}
	if v.Racked, err = h.School.Rack.CountRacked(r.Context(), owner); err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "sheets", text.New("author.sheets.sheets"), v)
}
