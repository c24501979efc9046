package author

import (
	"bytes"
	"fmt"
	"net/http"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school/rack"
	"cavix/transfer/paper"
	"cavix/web/ui"
)

// cardsOf deals the sheet that the address names to the student of a preview that it names.
func (h Handler) cardsOf(r *http.Request) (sh rack.Sheet, items []exercise.Item, seed int, err error) {
	if sh, err = h.named(r); err != nil {
		return sh, nil, 0, err
	}
	n, err := ui.ID(r, "seed")
	if err != nil {
		return sh, nil, 0, err
	}
	items, err = sh.Definition.Deal(kinds.All, ui.TrySeed(int(n)))
	return sh, items, int(n), err
}

// trial is the sheet that a request tries.
func (h Handler) trial(r *http.Request) (ui.Trial, error) {
	sh, items, seed, err := h.cardsOf(r)
	return ui.Trial{Title: text.Typed(sh.Title), Sub: text.New("author.try.tried.sub"), Items: items,
		At:   func(n int) string { return fmt.Sprintf("/sheets/%d/try/%d/%d", sh.ID, seed, n) },
		Next: text.New("author.try.tried.next-card"),
		Back: ui.Link{Text: text.New("author.try.back-sheet"), Href: fmt.Sprintf("/sheets/%d", sh.ID)}}, err
}

// try lets an instructor work a card of a sheet as a student would.
func (h Handler) try(w http.ResponseWriter, r *http.Request) error {
	t, err := h.trial(r)
	if err != nil {
		return err
	}
	return h.Try(w, r, t)
}

// tryFigure brings another figure of a tried card in sight, or moves it.
func (h Handler) tryFigure(w http.ResponseWriter, r *http.Request) error {
	t, err := h.trial(r)
	if err != nil {
		return err
	}
	return h.TryFigure(w, r, t)
}

// flash sends cards of a sheet to be cut out: the figure in front, what is right behind.
func (h Handler) flash(w http.ResponseWriter, r *http.Request) error {
	sh, items, seed, err := h.cardsOf(r)
	if err != nil {
		return err
	}
	sheet := paper.Sheet{Title: sh.Title, Said: ui.Said(r), Versions: []paper.Version{{Number: seed, Items: items}}}
	var b bytes.Buffer
	if err := sheet.WriteFlash(&b, func(int) error { return r.Context().Err() }); err != nil {
		return err
	}
	ui.Download(w, sh.Title+" flash cards.pdf", "application/pdf")
	_, err = b.WriteTo(w)
	return err
}
