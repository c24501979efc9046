package class

import (
	"cmp"
	"net/http"
	"strings"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/web/ui"
)

// settingsForm are the settings of a class as its form sends them. What a form leaves out stays as it is.
type settingsForm struct {
	Name     string              `form:"name"`
	Method   ui.MethodForm       `form:"method"`
	Base     string              `form:"base"`
	Language string              `form:"language"`
	Own      map[string]string   `form:"own"`
	Seen     roster.PracticeView `form:"seen"`
	Joining  roster.Joining      `form:"joining"`
	Guests   string              `form:"guests"` // "yes" or "no"
	Zone     string              `form:"zone"`
}

func newSettingsForm(s roster.Settings) settingsForm {
	f := settingsForm{Name: s.Name, Method: ui.NewMethodForm(s.Convention), Base: string(s.Words.Base),
		Language: s.Words.Language, Own: map[string]string{}, Seen: s.Practice, Joining: s.Joining, Guests: "no",
		Zone: s.Zone}
	if s.Guests {
		f.Guests = "yes"
	}
	for term, word := range s.Words.Own {
		f.Own[string(term)] = word
	}
	return f
}

// settings reads the form.
func (f settingsForm) settings(bad *ui.Faults) roster.Settings {
	s := roster.Settings{Name: ui.OneLine(f.Name), Convention: f.Method.Method(bad), Practice: f.Seen,
		Joining: f.Joining, Guests: f.Guests == "yes", Zone: strings.TrimSpace(f.Zone),
		Words: words.Set{Base: words.Base(f.Base), Language: f.Language, Own: map[text.Term]string{}}}
	bad.Name("name", s.Name)
	for term, word := range f.Own {
		if word = ui.OneLine(word); word != "" {
			s.Words.Own[text.Term(term)] = word
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
	Clock   text.Text
	Errors  map[string]text.Text
}

// choiceList is a field with a few choices, each with what it means.
type choiceList struct {
	Field string
	Now   any
	List  []choiceView
}

type choiceView struct {
	Value      any
	Text, Says text.Text
}

// settings shows the settings of a class that the instructor owns, and saves them.
func (h Handler) settings(w http.ResponseWriter, r *http.Request) error {
	n := ui.ClassOf(r).ID
	c, err := h.School.Roster.Class(r.Context(), ui.UserOf(r).ID, n)
	if err != nil {
		return err
	}
	if !access.SaveSettings.Allows(c.Role) {
		return access.ErrForbidden
	}
	now, err := roster.SettingsOf(c)
	if err != nil {
		return err
	}
	v := settingsView{ID: n, Class: c.Name}
	f := newSettingsForm(now)
	if r.Method == http.MethodPost {
		if err := ui.Decode(r, &f); err != nil {
			return err
		}
		var bad ui.Faults
		now = f.settings(&bad)
		if len(bad.Refusal) == 0 {
			if err := bad.Take("", h.School.Roster.SaveSettings(r.Context(), ui.ActorOf(r), n, now)); err != nil {
				return err
			}
		}
		if len(bad.Refusal) == 0 {
			return h.Redirect(w, r, r.URL.Path, text.New("class.settings-saved-words-joining"), nil)
		}
		v.Errors = bad.By()
	}
	ui.Speak(r, words.Set{Base: now.Words.Base})
	v.fill(ui.Said(r), f, now)
	return h.Render(w, r, ui.Status(v.Errors), "settings", text.Row(text.Typed(c.Name), text.New("title.settings")), v)
}

// fill shows what the form holds.
func (v *settingsView) fill(say *text.Printer, f settingsForm, s roster.Settings) {
	v.Name, v.Zone, v.Zones, v.Clock = f.Name, f.Zone, zones, zoneName(s.Zone)
	v.Method = ui.MethodOf(s.Convention, false, v.Errors)
	v.Speech = newWords(say, s.Words, v.Errors)
	v.Seen = choiceList{"seen", f.Seen, []choiceView{
		{roster.SeesNothing, text.New("class.settings.fill"), text.New("class.settings.no-page-no-file")},
		{roster.SeesSum, text.New("class.settings.summary-instructors"),
			text.New("class.settings.how-many-cards-class")},
		{roster.SeesEach, text.New("class.settings.each-students-practice-instructors"),
			text.New("class.settings.see-students-progress-data")},
	}}
	v.Joining = choiceList{"joining", f.Joining, []choiceView{
		{roster.JoinOpen, text.New("class.settings.anyone-who-code"),
			text.New("class.settings.first-lesson-when-there")},
		{roster.JoinAsked, text.New("class.settings.anyone-who-code-once"),
			text.New("class.settings.they-wait-page-people")},
		{roster.JoinShut, text.New("class.settings.nobody-new"),
			text.New("class.settings.students-imported-list-still")},
	}}
	v.Guests = choiceList{"guests", f.Guests, []choiceView{
		{"no", text.New("class.settings.no-guests-b"), text.Text{}},
		{"yes", text.New("class.settings.guests-may-answer-questions"),
			text.New("class.settings.they-need-joining-code")},
	}}
}

// joinings says who can join a class.
var joinings = map[roster.Joining]text.Text{
	roster.JoinOpen:  text.New("class.settings.joinings"),
	roster.JoinAsked: text.New("class.settings.anyone-who-code-once-b"),
	roster.JoinShut:  text.New("class.settings.nobody-new-b"),
}

// summaryLine is a setting of a class, as it is.
type summaryLine struct{ Name, Says text.Text }

// summary is the settings of a class in a few lines.
func summary(c roster.Class, s roster.Settings) []summaryLine {
	seen := map[roster.PracticeView]text.Text{roster.SeesNothing: text.New("class.settings.summary"),
		roster.SeesSum:  text.New("class.settings.see-summary"),
		roster.SeesEach: text.New("class.settings.see-each-students")}
	guests := text.New("class.settings.no-guests")
	if c.Guests {
		guests = text.New("class.settings.may-answer-questions-board")
	}
	return []summaryLine{
		{text.New("class.settings.conventions"), differing(s.Convention)},
		{text.New("class.settings.words"), wordsName(s.Words)},
		{text.New("class.settings.practice"), seen[c.Practice]},
		{text.New("class.settings.joining"), joinings[c.Joining]},
		{text.New("class.settings.guests"), guests},
		{text.New("class.settings.clock"), zoneName(c.Zone)},
	}
}

// differing lists the conventions that are other than usual.
func differing(m exercise.Method) text.Text {
	var out []text.Text
	for _, s := range exercise.MethodSettings {
		for i, c := range s.Choices {
			if i > 0 && c.Value == s.Get(m) {
				out = append(out, text.New("class.settings.setting", "setting", s.Name, "choice", c.Words))
			}
		}
	}
	if len(out) == 0 {
		return text.New("class.settings.differing")
	}
	return text.Steps(out...)
}

// wordsName says which words a class sees.
func wordsName(s words.Set) text.Text {
	name := text.New("words." + string(cmp.Or(s.Base, words.Workshop)))
	if len(s.Own) > 0 {
		return text.New("class.settings.with-own-words", "words", name)
	}
	return name
}
