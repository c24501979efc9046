package class

import (
	"cmp"
	"context"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/analysis"
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/names"
	"cavix/core/text"
	"cavix/plot"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// wrongRoutes adds the pages that say what went wrong.
func (h Handler) wrongRoutes(r chi.Router) {
	r.With(h.OnSheet(access.ViewClass)).Get("/wrong/{assignment}", h.Page(h.wrongSheet))
	r.With(h.InClass(access.ViewClass)).Get("/classes/{class}/wrong", h.Page(h.wrongClass))
	r.With(h.InClass(access.ViewClass)).Post("/classes/{class}/train", h.Page(h.train))
}

// wrongView shows the mistakes on a sheet: card by card, and the slips behind them.
type wrongView struct {
	ID           int64
	Class        int64
	May          bool // the instructor may download answers
	Title, Name  string
	Students     int
	Said         text.Text // in a sentence
	Shown        ui.Shown
	Cards        []wrongCard
	Slips        []wrongSlip
	Given        []sitting.Assignment // the other sheets of the class
	ThirdsTooFew bool
}

// wrongCard is one card of a sheet.
type wrongCard struct {
	N     int
	What  text.Text
	Kind  text.Text
	Rule  template.HTML // slips, by how far they lead astray
	Right text.Math     // share
	Apart string        // in per cent of all; "" where it cannot be told
	Width int           // of its bar
	Back  bool          // those who cannot do better on it than those who can
}

// wrongSlip is a slip behind wrong answers.
type wrongSlip struct {
	Code     string
	Slip     text.Text
	Students int
	Width    int // of its bar, in per cent of those who answered
	Who      []personLink
	More     int
	On       string // the cards
}

type personLink struct{ Name, Href string }

// whoSeen is the number of names beside a slip.
const whoSeen = 5

func (h Handler) wrongSheet(w http.ResponseWriter, r *http.Request) error {
	n := ui.SheetOf(r).ID
	a, err := h.School.Ledgers.Mistakes(r.Context(), ui.UserOf(r).ID, n)
	if err != nil {
		return err
	}
	v := newWrong(r, a)
	if ui.Continues(r) {
		return h.Fragment(w, r, "wrong", "wrongcards", v)
	}
	me := ui.UserOf(r).ID
	v.May = ui.Allows(r, access.RemarkSheet)
	if v.Given, err = h.School.Sitting.Term(r.Context(), me, v.Class); err != nil {
		return err
	}
	slices.Reverse(v.Given)
	return h.Render(w, r, http.StatusOK, "wrong", text.Row(text.Typed(v.Title), text.New("title.mistakes")), v)
}

func newWrong(r *http.Request, a ledgers.Analysis) wrongView {
	g := a.Given
	v := wrongView{ID: g.ID, Class: g.Class, Title: g.Title, Name: g.ClassName}
	answered := map[int64]bool{}
	bad := 0
	v.Shown = ui.ShownOf(r, len(a.Cards), 0, 5, ui.TallRows)
	for i, c := range a.Cards {
		for st := range c.Students {
			answered[st] = true
		}
		if 4*(c.Answered-c.Right) >= c.Answered {
			bad++
		}
		if i >= v.Shown.From && i < v.Shown.To {
			v.Cards = append(v.Cards, newWrongCard(ui.Said(r), a, c))
		}
		v.ThirdsTooFew = v.ThirdsTooFew || !c.Told
	}
	v.Students = len(answered)
	switch {
	case len(a.Cards) == 0:
	case bad == 0:
		v.Said = text.New("class.wrong.new-wrong")
	case bad == 1:
		v.Said = text.New("class.wrong.one-cards-wrong-one", "cards", len(a.Cards))
	default:
		v.Said = text.New("class.wrong.cards-were-wrong-one", "bad", bad, "cards", len(a.Cards))
	}
	for _, s := range a.Slips {
		v.Slips = append(v.Slips, newWrongSlip(a, s, v.Students))
	}
	return v
}

func newWrongCard(say *text.Printer, a ledgers.Analysis, c analysis.Card) wrongCard {
	shown := a.Shown[c.N]
	v := wrongCard{N: c.N, What: text.Typed(shown.Instrument), Right: ui.PerCent(length.Int(int64(c.Right)),
		length.Int(int64(c.Answered)))}
	if kind, known := kinds.All.Find(shown.Kind); known {
		v.Kind = kind.Title()
	}
	if v.What.IsZero() {
		v.What, v.Kind = v.Kind, text.Text{}
	}
	if c.Told {
		v.Apart = c.Apart.MulInt(100).Text(0)
		v.Width, v.Back = int(c.Apart.Abs().MulInt(100).Float()), c.Apart.Sign() < 0
	}
	var list []plot.Astray
	for _, s := range c.Slips {
		list = append(list, plot.Astray{Text: say.Print(s.Code.Short()), By: a.Led(c.N, s.Code), Count: s.Made})
	}
	if c.Unnamed > 0 {
		list = append(list, plot.Astray{Text: say.Say("class.wrong.no-known-mistake"), By: 1e9, Count: c.Unnamed})
	}
	v.Rule = ui.Plot(plot.SlipRule(say, c.Right, list, plot.Row), fmt.Sprintf("w%d", c.N))
	return v
}

func newWrongSlip(a ledgers.Analysis, s analysis.Slip, students int) wrongSlip {
	v := wrongSlip{Code: string(s.Code), Slip: s.Code.Name(), Students: len(s.Students),
		Width: 100 * len(s.Students) / max(1, students)}
	ids := slices.Clone(s.Students)
	slices.SortFunc(ids, func(x, y int64) int { return names.Compare(a.Names[x], a.Names[y]) })
	for _, id := range ids[:min(whoSeen, len(ids))] {
		v.Who = append(v.Who, personLink{a.Names[id], fmt.Sprintf("/classes/%d/people/%d", a.Given.Class, id)})
	}
	v.More = len(ids) - len(v.Who)
	cards := make([]string, len(s.Cards))
	for i, n := range s.Cards {
		cards[i] = fmt.Sprint(n)
	}
	v.On = strings.Join(cards, " ")
	return v
}

// wrongTerm shows the mistakes of a class over a term.
type wrongTerm struct {
	roster.Class
	Weeks    template.HTML
	Begins   []string
	Slips    []ui.SlipWeeks
	Families []text.Text
	ByFamily []familyRow
	Makers   []wrongSlip
	Sheets   []givenView
}

// familyRow is a slip over the families of instruments.
type familyRow struct {
	Slip  text.Text
	Cells []familyCell
	All   int
}

// familyCell tells how often a slip was made on a family, and the share of the answered cards.
type familyCell struct {
	Cards int
	Share text.Math
	Shade int // 0 to 5
}

const (
	termWeeks    = 16
	familySlips  = 12
	makersListed = 10
)

func (h Handler) wrongClass(w http.ResponseWriter, r *http.Request) error {
	c := ui.ClassOf(r)
	who, ahead := ui.UserOf(r).ID, ui.Ahead(c.Zone)
	v := wrongTerm{Class: c}
	weeks, err := h.School.Ledgers.ClassWeeks(r.Context(), who, c.ID, ahead, termWeeks)
	if err != nil {
		return err
	}
	if len(weeks) > 0 {
		if err := v.weeks(r.Context(), ui.Said(r), h.School.Ledgers, who, ahead, weeks); err != nil {
			return err
		}
	}
	families, err := h.School.Ledgers.FamilySlips(r.Context(), who, c.ID)
	if err != nil {
		return err
	}
	v.families(families)
	makers, err := h.School.Ledgers.SlipMakers(r.Context(), who, c.ID)
	if err != nil {
		return err
	}
	v.makers(makers)
	given, err := h.School.Sitting.GivenTo(r.Context(), who, c.ID)
	if err != nil {
		return err
	}
	v.Sheets = h.newGiven(given)
	return h.Render(w, r, http.StatusOK, "wrongterm", text.Row(text.Typed(c.Name), text.New("title.mistakes")), v)
}

func (v *wrongTerm) weeks(ctx context.Context, say *text.Printer, from *ledgers.Service, who int64, ahead int,
	weeks []ledgers.Week) error {
	var columns []plot.Column
	begins := make([]time.Time, len(weeks))
	for i, w := range weeks {
		name := say.Print(ui.Day(w.Begins).Text())
		begins[i] = w.Begins
		v.Begins = append(v.Begins, name)
		columns = append(columns, plot.Column{Name: name, Count: w.Cards, Share: ui.Share(w.Half, w.Of)})
	}
	v.Weeks = ui.Plot(plot.Columns(say, columns, say.Say("way.share")), "weeks")
	slips, err := from.ClassSlipWeeks(ctx, who, v.ID, ahead, weeks[0].Begins.AddDate(0, 0, -1))
	v.Slips = ui.NewSlipWeeks(slips, begins)
	return err
}

// families lays slips out over the families on which they were made.
func (v *wrongTerm) families(list []ledgers.FamilySlip) {
	answered, made, all := map[string]int{}, map[string]map[string]int{}, map[string]int{}
	for _, f := range list {
		answered[f.Family] += f.Cards
		if f.Slip == "" {
			continue
		}
		if made[f.Slip] == nil {
			made[f.Slip] = map[string]int{}
		}
		made[f.Slip][f.Family] += f.Cards
		all[f.Slip] += f.Cards
	}
	order := slices.Sorted(maps.Keys(answered))
	for _, f := range order {
		v.Families = append(v.Families, instrument.Family(f).Name())
	}
	codes := slices.SortedFunc(maps.Keys(all),
		func(a, b string) int { return cmp.Or(cmp.Compare(all[b], all[a]), cmp.Compare(a, b)) })
	for _, code := range codes[:min(familySlips, len(codes))] {
		row := familyRow{Slip: exercise.Code(code).Name(), All: all[code]}
		for _, f := range order {
			n := made[code][f]
			cell := familyCell{Cards: n}
			if n > 0 {
				cell.Share = ui.PerCent(length.Int(int64(n)), length.Int(int64(answered[f])))
				cell.Shade = min(5, 1+25*n/answered[f])
			}
			row.Cells = append(row.Cells, cell)
		}
		v.ByFamily = append(v.ByFamily, row)
	}
}

// makers lists who makes which slips, those made by most first.
func (v *wrongTerm) makers(list []ledgers.SlipMaker) {
	by := map[string]*wrongSlip{}
	for _, m := range list {
		s := by[m.Slip]
		if s == nil {
			s = &wrongSlip{Code: m.Slip, Slip: exercise.Code(m.Slip).Name()}
			by[m.Slip] = s
		}
		if s.Students++; s.Students <= whoSeen {
			s.Who = append(s.Who, personLink{fmt.Sprintf("%s %d", m.Name, m.Cards),
				fmt.Sprintf("/classes/%d/people/%d", v.ID, m.Student)})
		} else {
			s.More++
		}
	}
	for _, s := range by {
		s.Width = 100 * s.Students / max(1, v.Students)
		v.Makers = append(v.Makers, *s)
	}
	slices.SortFunc(v.Makers, func(a, b wrongSlip) int {
		return cmp.Or(cmp.Compare(b.Students, a.Students), cmp.Compare(a.Code, b.Code))
	})
	v.Makers = v.Makers[:min(makersListed, len(v.Makers))]
}
