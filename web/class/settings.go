package class

import (
	"cmp"
	"net/http"
	"strings"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/words"
	"cavix/store"
	"cavix/web/ui"
)

// settingsForm are the settings of a class as its form sends them. What a form leaves out stays as it is.
type settingsForm struct {
	Name    string            `form:"name"`
	Method  ui.MethodForm     `form:"method"`
	Base    string            `form:"base"`
	Own     map[string]string `form:"own"`
	Seen    store.Sight       `form:"seen"`
	Joining store.Joining     `form:"joining"`
	Guests  string            `form:"guests"` // "yes" or "no"
	Zone    string            `form:"zone"`
}

func newSettingsForm(s classroom.Settings) settingsForm {
	f := settingsForm{Name: s.Name, Method: ui.NewMethodForm(s.Convention), Base: string(s.Words.Base), Own: map[string]string{},
		Seen: s.Practice, Joining: s.Joining, Guests: "no", Zone: s.Zone}
	if s.Guests {
		f.Guests = "yes"
	}
	for term, word := range s.Words.Own {
		f.Own[string(term)] = word
	}
	return f
}

// settings reads the form.
func (f settingsForm) settings(bad *ui.Faults) classroom.Settings {
	s := classroom.Settings{Name: ui.OneLine(f.Name), Convention: f.Method.Method(bad), Practice: f.Seen, Joining: f.Joining,
		Guests: f.Guests == "yes", Zone: strings.TrimSpace(f.Zone), Words: words.Set{Base: words.Base(f.Base), Own: map[words.Term]string{}}}
	bad.Name("name", s.Name)
	for term, word := range f.Own {
		if word = ui.OneLine(word); word != "" {
			s.Words.Own[words.Term(term)] = word
		}
	}
	return s
}

// settingsView is the page with the settings of a class.
type settingsView struct {
	ID      int64
	Class   string // its name, as it is kept
	Name    string
	Method  ui.MethodView
	Speech  wordsView
	Seen    choiceList
	Joining choiceList
	Guests  choiceList
	Zone    string
	Zones   []string
	Clock   string
	Note    string
	Errors  map[string]string
}

// choiceList is a field with a few choices, each with what it means.
type choiceList struct {
	Field string
	Now   any
	List  []choiceView
}

type choiceView struct {
	Value      any
	Text, Says string
}

// settings shows the settings of a class that the instructor owns, and saves them.
func (o Office) settings(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "class")
	if err != nil {
		return err
	}
	c, err := o.Room.Store().Read(r.Context()).Class(ui.UserOf(r).ID, n)
	if err != nil {
		return err
	}
	if !c.Role.May(store.Leads) {
		return classroom.ErrMayNot
	}
	now, err := classroom.SettingsOf(c)
	if err != nil {
		return err
	}
	v := settingsView{ID: n, Class: c.Name, Note: ui.Said(r, notes)}
	f := newSettingsForm(now)
	if r.Method == http.MethodPost {
		if err := ui.Decode(r, &f); err != nil {
			return err
		}
		var bad ui.Faults
		now = f.settings(&bad)
		if len(bad.Refusal) == 0 {
			if err := bad.Take("", o.Room.SaveSettings(r.Context(), ui.HandOf(r), n, now)); err != nil {
				return err
			}
		}
		if len(bad.Refusal) == 0 {
			http.Redirect(w, r, r.URL.Path+"?saved", http.StatusSeeOther)
			return nil
		}
		v.Errors, v.Note = bad.By(), ""
	}
	ui.Speak(r, words.Set{Base: now.Words.Base})
	v.fill(f, now)
	return o.Render(w, r, ui.Status(v.Errors), "settings", c.Name+" · Settings", v)
}

// fill shows what the form holds.
func (v *settingsView) fill(f settingsForm, s classroom.Settings) {
	v.Name, v.Zone, v.Zones, v.Clock = f.Name, f.Zone, zones, zoneName(s.Zone)
	v.Method = ui.MethodOf(s.Convention, false, v.Errors)
	v.Speech = newWords(s.Words, v.Errors)
	v.Seen = choiceList{"seen", f.Seen, []choiceView{
		{store.SeesNothing, "Only the student", "No page and no file of yours shows practice."},
		{store.SeesSum, "A summary for instructors", "How many cards the class practised, and which slips it made, without names."},
		{store.SeesEach, "Each student's practice for instructors",
			"You see it in the student's progress and in the data that you export. The Practice page tells students which of the three it is."},
	}}
	v.Joining = choiceList{"joining", f.Joining, []choiceView{
		{store.JoinOpen, "Anyone who has the code", "For a first lesson, when there is no class list yet."},
		{store.JoinAsked, "Anyone who has the code, once you let them in",
			"They wait on the page People. Students on an imported list join at once."},
		{store.JoinShut, "Nobody new", "Students on an imported list still join."},
	}}
	v.Guests = choiceList{"guests", f.Guests, []choiceView{
		{"no", "No guests", ""},
		{"yes", "Guests may answer questions on the Board", "They need the joining code and a name, but no passphrase, and are gone twelve hours later."},
	}}
}

// joinings says who can join a class.
var joinings = map[store.Joining]string{
	store.JoinOpen:  "anyone who has the code",
	store.JoinAsked: "anyone who has the code, once you let them in",
	store.JoinShut:  "nobody new",
}

// summary is the settings of a class in a few lines.
func summary(c store.Class, s classroom.Settings) []ui.OptionView {
	seen := map[store.Sight]string{store.SeesNothing: "only the student sees it", store.SeesSum: "you see a summary",
		store.SeesEach: "you see each student's"}
	guests := "none"
	if c.Guests {
		guests = "may answer questions on the Board"
	}
	return []ui.OptionView{
		{Value: "Reading conventions", Text: differing(s.Convention)},
		{Value: "Words", Text: wordsName(s.Words)},
		{Value: "Practice", Text: seen[c.Practice]},
		{Value: "Joining", Text: joinings[c.Joining]},
		{Value: "Guests", Text: guests},
		{Value: "Clock", Text: zoneName(c.Zone)},
	}
}

// differing lists the conventions that are other than usual.
func differing(m exercise.Method) string {
	var out []string
	for _, s := range exercise.MethodSettings {
		for i, c := range s.Choices {
			if i > 0 && c.Value == s.Get(m) {
				out = append(out, s.Name+": "+c.Words)
			}
		}
	}
	if len(out) == 0 {
		return "the usual ones"
	}
	return strings.Join(out, "; ")
}

// wordsName says which words a class sees.
func wordsName(s words.Set) string {
	var name string
	for _, b := range words.Bases {
		if b.Base == cmp.Or(s.Base, words.Workshop) {
			name = b.Name
		}
	}
	if n := len(s.Own); n > 0 {
		name += ", with own words"
	}
	return name
}
