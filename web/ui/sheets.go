package ui

import (
	"cavix/school/rack"
)

// SheetView is a sheet in a list.
type SheetView struct {
	ID          int64
	Title       string
	Cards       int
	Instruments []string
	Unread      bool // this program cannot read it
}

// NewSheetView lays a sheet out for a list.
func NewSheetView(sh rack.Sheet) SheetView {
	v := SheetView{ID: sh.ID, Title: sh.Title, Cards: sh.Definition.Cards(), Unread: sh.Err != nil}
	known := map[string]bool{}
	for _, b := range sh.Definition.Blocks {
		for _, in := range b.Instruments {
			if !known[in.Name()] {
				known[in.Name()] = true
				v.Instruments = append(v.Instruments, in.Name())
			}
		}
	}
	return v
}
