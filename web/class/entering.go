package class

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/ledgers"
	"cavix/school/sitting"
	"cavix/transfer"
	"cavix/transfer/paper"
	"cavix/web/ui"
)

// typingView is the table into which what a student wrote on paper is typed.
type typingView struct {
	sitting.Given
	Version int
	Label   string // of the version, as it stands on its pages
	Lines   string // one line a card, as typed
	Student int64
	Who     string
	People  []typingPerson
	Cards   []typingCard
	Columns int
	After   []typingNext // who comes next
	Errors  map[string]text.Text
	Bad     int // entries that cannot be read
	Again   bool
}

type typingPerson struct {
	ID    int64
	Name  string
	Typed bool
}

type typingNext struct {
	Version int
	Name    string
}

// typingCard is a row of the table.
type typingCard struct {
	N     int
	About text.Text
	Boxes []typingBox
}

// typingBox is a box of the table.
type typingBox struct {
	Name    string
	Label   text.Text
	Value   string
	Error   text.Text
	Options []ui.OptionView
	Worded  bool
}

// typing shows the table for a version, and for a student who has it.
func (h Handler) typing(w http.ResponseWriter, r *http.Request) error {
	version, ok := paper.ReadLabel(ui.Clip(r.URL.Query().Get("version"), 10))
	if !ok {
		return h.showPapers(w, r, papersView{Errors: map[string]text.Text{
			"version": text.New("class.typing.typing.errors")}})
	}
	student, _ := strconv.ParseInt(r.URL.Query().Get("student"), 10, 64)
	return h.showTyping(w, r, typingView{Version: version, Student: student}, nil)
}

// showTyping lays the table out, with what was typed where that was refused, and else with what is kept.
func (h Handler) showTyping(w http.ResponseWriter, r *http.Request, v typingView, typed map[int]exercise.Answer) error {
	g := ui.SheetOf(r)
	me := ui.UserOf(r).ID
	p, err := h.School.Ledgers.Paper(r.Context(), me, g.ID, v.Version)
	if errors.Is(err, school.ErrNotFound) {
		return h.showPapers(w, r, papersView{Errors: map[string]text.Text{
			"version": text.New("class.typing.show-typing.errors", "version", v.Version)}})
	}
	if err != nil {
		return err
	}
	v.Given, v.Label = g, paper.Version{Number: v.Version, For: p.For()}.Label()
	if err := h.whoTyped(r, &v, p); err != nil {
		return err
	}
	if typed == nil && v.Student != 0 {
		if typed, err = h.School.Ledgers.EnteredAnswers(r.Context(), me, g.ID, v.Student, v.Version); err != nil {
			return err
		}
		v.Again = len(typed) > 0
	}
	for i, it := range p.Items {
		c := newTypingCard(i+1, it, typed[i+1], v.Errors)
		for _, b := range c.Boxes {
			if !b.Error.IsZero() {
				v.Bad++
			}
		}
		v.Cards, v.Columns = append(v.Cards, c), max(v.Columns, len(c.Boxes))
	}
	return h.Render(w, r, ui.Status(v.Errors), "typing", text.New("class.typing.show-typing", "title", g.Title), v)
}

// whoTyped lists who may have written on the version, and who comes after.
func (o Handler) whoTyped(r *http.Request, v *typingView, p ledgers.Paper) error {
	for _, h := range p.Has {
		v.People = append(v.People, typingPerson{h.ID, h.Name, h.Typed})
		if v.Student == 0 && !h.Typed {
			v.Student = h.ID
		}
	}
	all, err := o.School.Roster.Students(r.Context(), ui.UserOf(r).ID, v.Class)
	if err != nil {
		return err
	}
	for _, st := range all { // a sheet can have gone to somebody else
		known := false
		for _, h := range v.People {
			known = known || h.ID == st.ID
		}
		if !known {
			v.People = append(v.People, typingPerson{st.ID, st.Name, false})
		}
	}
	if v.Student == 0 && len(v.People) > 0 {
		v.Student = v.People[0].ID
	}
	for _, h := range v.People {
		if h.ID == v.Student {
			v.Who = h.Name
		}
	}
	return nil
}

// newTypingCard is a row of boxes. What is moved is typed as the reading that was drawn.
func newTypingCard(n int, it exercise.Item, typed exercise.Answer, faults map[string]text.Text) typingCard {
	c := typingCard{N: n, About: text.Row(it.Facts().About...)}
	for _, f := range it.Fields() {
		name := fmt.Sprintf("%d.%s", n, f.Name)
		b := typingBox{Name: name, Label: f.Label, Value: typed[f.Name], Error: faults[name], Worded: f.Worded}
		if f.Input == exercise.Position && b.Error.IsZero() {
			if says, ok := paper.Shown(it, f, b.Value); ok {
				b.Value = says
			}
		}
		if f.Input == exercise.Options {
			for i, option := range f.Options {
				b.Options = append(b.Options, ui.OptionView{Value: option, Text: exercise.OptionText(f, i, option),
					On: option == b.Value})
			}
		}
		c.Boxes = append(c.Boxes, b)
	}
	return c
}

// typeBack keeps what was typed, and goes on to the next student whose paper is not typed yet.
func (h Handler) typeBack(w http.ResponseWriter, r *http.Request) error {
	g := ui.SheetOf(r)
	if err := r.ParseForm(); err != nil {
		return ui.Unread(err)
	}
	version, _ := strconv.Atoi(r.PostFormValue("version"))
	student, _ := strconv.ParseInt(r.PostFormValue("student"), 10, 64)
	me := ui.UserOf(r).ID
	p, err := h.School.Ledgers.Paper(r.Context(), me, g.ID, version)
	if err != nil {
		return err
	}
	if r.PostFormValue("do") == "lines" {
		lines := ui.Clip(r.PostFormValue("lines"), 20_000)
		typed, bad := typedInLines(lines, p.Items)
		v := typingView{Version: version, Student: student, Errors: bad, Lines: lines}
		return h.showTyping(w, r, v, typed)
	}
	typed, bad := typedOn(r, p.Items)
	if len(bad) == 0 {
		err = h.School.Ledgers.EnterAnswers(r.Context(), ui.ActorOf(r), g.ID,
			[]ledgers.EnteredPaper{{Student: student, Version: version, Answers: typed}})
	}
	var refused refusal.Refusal
	if errors.As(err, &refused) {
		for _, f := range refused {
			bad[f.Field] = f.Reason
		}
		err = nil
	}
	if err != nil {
		return err
	}
	if len(bad) > 0 {
		return h.showTyping(w, r, typingView{Version: version, Student: student, Errors: bad}, typed)
	}
	next, err := h.nextPaper(r, g, version)
	if err != nil {
		return err
	}
	if next.Version == 0 {
		return h.Redirect(w, r, fmt.Sprintf("/ledger/%d/paper", g.ID), text.New("class.papers.paper-notes"), nil)
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d/paper/type?version=%d", g.ID, next.Version),
		text.New("class.papers.paper-notes"), nil)
}

// nextPaper is the version to be typed after one: the same where others have it too, else the next.
func (o Handler) nextPaper(r *http.Request, g sitting.Given, version int) (typingNext, error) {
	list, err := o.School.Ledgers.Papers(r.Context(), ui.UserOf(r).ID, g.ID)
	if err != nil {
		return typingNext{}, err
	}
	var first typingNext
	for _, p := range list {
		for _, h := range p.Has {
			if h.Typed || !h.Here() {
				continue
			}
			at := typingNext{p.Version, h.Name}
			if p.Version >= version {
				return at, nil
			}
			if first.Version == 0 {
				first = at
			}
		}
	}
	return first, nil
}

// typedOn reads the boxes of the table. A reading that was drawn becomes the movement that leads there.
func typedOn(r *http.Request, items []exercise.Item) (typed map[int]exercise.Answer, bad map[string]text.Text) {
	typed, bad = map[int]exercise.Answer{}, map[string]text.Text{}
	for i, it := range items {
		a := exercise.Answer{}
		for _, f := range it.Fields() {
			name := fmt.Sprintf("%d.%s", i+1, f.Name)
			says := ui.Clip(r.PostForm.Get(name), 60)
			if a[f.Name] = says; f.Input != exercise.Position || exercise.Blank(says) {
				continue
			}
			moved, err := movedTo(it, f, says)
			if err != nil {
				bad[name] = text.Says(err)
				continue
			}
			a[f.Name] = moved
		}
		typed[i+1] = a
	}
	return typed, bad
}

// typedInLines reads what was typed as one line a card. What is wrong with a line is said at the first box of its card.
func typedInLines(lines string, items []exercise.Item) (typed map[int]exercise.Answer, bad map[string]text.Text) {
	typed, bad = map[int]exercise.Answer{}, map[string]text.Text{}
	for i, line := range strings.Split(strings.ReplaceAll(strings.TrimRight(lines, "\r\n "), "\r\n", "\n"), "\n") {
		if i >= len(items) {
			bad["lines"] = text.New("class.typing.typed-in-lines", "items", len(items))
			break
		}
		a, err := transfer.Entries(line, items[i].Fields())
		if err != nil {
			bad[fmt.Sprintf("%d.%s", i+1, items[i].Fields()[0].Name)] = text.New("class.typing.line", "line", i+1,
				"why", err)
			continue
		}
		for _, f := range items[i].Fields() {
			if says, given := a[f.Name]; given && f.Input == exercise.Position {
				if a[f.Name], err = movedTo(items[i], f, says); err != nil {
					bad[fmt.Sprintf("%d.%s", i+1, f.Name)] = text.Says(err)
				}
			}
		}
		typed[i+1] = a
	}
	return typed, bad
}

// movedTo is the movement that leads to a reading that was drawn on paper.
func movedTo(it exercise.Item, f exercise.Field, says string) (string, error) {
	read, err := f.Unit.Read(says)
	if err != nil {
		return "", err
	}
	n, ok := paper.Moves(it, f, read.Value)
	if !ok {
		return "", text.Error("class.typing.off-scale")
	}
	return strconv.Itoa(n), nil
}
