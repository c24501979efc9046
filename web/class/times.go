package class

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"cavix/core/names"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// timesForm says when a sheet can be taken, on the class's clock.
type timesForm struct {
	Opens  string `form:"opens"`
	Closes string `form:"closes"`
}

// asTyped is the format of a date and time field of a page.
const asTyped = "2006-01-02T15:04"

// times reads when a sheet can be taken.
func (f timesForm) times(zone string, bad *ui.Faults) (opens, closes time.Time) {
	read := func(field, says string) (t time.Time) {
		if says = strings.TrimSpace(says); says == "" {
			return t
		}
		t, err := time.ParseInLocation(asTyped, says, roster.Clock(zone))
		if err != nil || t.Year() < 2000 || t.Year() > 2199 {
			bad.Add(field, "class.times.times")
			return time.Time{}
		}
		return t
	}
	opens, closes = read("opens", f.Opens), read("closes", f.Closes)
	if !opens.IsZero() && !closes.IsZero() && !opens.Before(closes) {
		bad.Add("closes", "class.times.later-than-opening")
	}
	return opens, closes
}

// timesView is when a sheet can be taken, as a form holds it.
type timesView struct {
	Opens, Closes string
	Zone          text.Text // whose clock it is, in words
	Errors        map[string]text.Text
}

func newTimes(opens, closes time.Time, zone string) timesView {
	write := func(t time.Time) string {
		if t.IsZero() {
			return ""
		}
		return t.In(roster.Clock(zone)).Format(asTyped)
	}
	return timesView{Opens: write(opens), Closes: write(closes), Zone: zoneName(zone)}
}

// zoneName says whose clock counts.
func zoneName(zone string) text.Text {
	if zone == "" {
		return text.New("class.times.zone-name", "x", text.Math(time.Now().Format("15:04 MST")))
	}
	return text.New("class.times.just-now", "zone", zone, "x",
		text.Math(time.Now().In(roster.Clock(zone)).Format("15:04")))
}

// setTimes changes when a given sheet can be taken.
func (h Handler) setTimes(w http.ResponseWriter, r *http.Request, f timesForm) error {
	n := ui.SheetOf(r).ID
	owner := ui.UserOf(r).ID
	a := ui.SheetOf(r)
	var bad ui.Faults
	opens, closes := f.times(a.Zone, &bad)
	if len(bad.Refusal) > 0 {
		return h.showLedger(w, r, a, ledgerView{Times: timesView{f.Opens, f.Closes, zoneName(a.Zone), bad.By()}})
	}
	if err := h.School.Sitting.SetDates(r.Context(), owner, n, opens, closes); err != nil {
		return err
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d", n), text.New("class.ledger.times-kept"), nil)
}

// datesView are the dates that a group or a student has of their own.
type datesView struct {
	Who, Value string
	When       text.Text
}

// datesFor fills in who has dates of their own, and who can have them.
func (h Handler) datesFor(r *http.Request, a sitting.Given, people []roster.Student, v *ledgerView) error {
	list, err := h.School.Sitting.SheetDates(r.Context(), ui.UserOf(r).ID, a.ID)
	if err != nil {
		return err
	}
	for _, d := range list {
		row := datesView{Who: d.Name, Value: fmt.Sprintf("s%d", d.Student)}
		if d.Student == 0 {
			row = datesView{Who: "group " + d.Team, Value: "g" + d.Team}
		}
		own := a
		own.Opens, own.Closes = d.Opens, d.Closes
		row.When = whenTaken(own)
		v.Dates = append(v.Dates, row)
	}
	for _, team := range groupsOf(people) {
		v.Whom = append(v.Whom, ui.OptionView{Value: "g" + team, Text: text.New("class.times.group", "group", team)})
	}
	for _, s := range people {
		if s.Left.IsZero() && s.Class == a.Class {
			v.Whom = append(v.Whom, ui.OptionView{Value: fmt.Sprintf("s%d", s.ID), Text: text.Typed(s.Name)})
		}
	}
	return nil
}

// setDatesForm is the form of setDates.
type setDatesForm struct {
	timesForm
	Who string `form:"who"`
	Do  string `form:"do"`
}

// setDates gives a group or a student other dates of a sheet than the class has.
func (h Handler) setDates(w http.ResponseWriter, r *http.Request, f setDatesForm) error {
	n := ui.SheetOf(r).ID
	var err error
	a := ui.SheetOf(r)
	d := sitting.SheetDates{Assignment: n}
	if team, isGroup := strings.CutPrefix(f.Who, "g"); isGroup && team != "" {
		d.Team = ui.Clip(ui.OneLine(team), names.Longest)
	} else if d.Student, err = strconv.ParseInt(strings.TrimPrefix(f.Who, "s"), 10, 64); err != nil {
		return school.ErrNotFound
	}
	if f.Do != "drop" {
		var bad ui.Faults
		if d.Opens, d.Closes = f.times(a.Zone, &bad); d.Opens.IsZero() && d.Closes.IsZero() && len(bad.Refusal) == 0 {
			bad.Add("closes", "class.times.set-dates")
		}
		if len(bad.Refusal) > 0 {
			return h.showLedger(w, r, a, ledgerView{Own: timesView{f.Opens, f.Closes, zoneName(a.Zone), bad.By()}})
		}
	}
	if err := h.School.Sitting.SetSheetDates(r.Context(), ui.ActorOf(r), d); err != nil {
		return err
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d", n), text.New("class.ledger.dates-were-changed-attempts"), nil)
}

// moreMinutesForm is the form of moreMinutes.
type moreMinutesForm struct {
	Student int64  `form:"student"`
	Minutes string `form:"minutes"`
}

// moreMinutes gives a student's attempt at a test more minutes.
func (h Handler) moreMinutes(w http.ResponseWriter, r *http.Request, f moreMinutesForm) error {
	n := ui.SheetOf(r).ID
	a := ui.SheetOf(r)
	var bad ui.Faults
	minutes := bad.Whole("minutes", f.Minutes)
	if len(bad.Refusal) == 0 && (minutes < 1 || minutes > sitting.MostMore) {
		bad.Add("minutes", "class.times.more-minutes", "most_more", sitting.MostMore)
	}
	if len(bad.Refusal) == 0 {
		switch err := h.School.Sitting.MoreMinutes(r.Context(), ui.ActorOf(r), n, f.Student, minutes); {
		case errors.Is(err, school.ErrNotFound):
			bad.Add("minutes", "class.times.student-not-begun-extra")
		case errors.Is(err, sitting.ErrNoEnd):
			bad.Add("minutes", "class.times.attempt-does-not-end")
		case errors.Is(err, sitting.ErrTold):
			bad.Add("minutes", "class.times.student-seen-results-already")
		case err != nil:
			return err
		default:
			return h.Redirect(w, r, fmt.Sprintf("/ledger/%d", n), text.New("class.ledger.student-can-go-test"), nil)
		}
	}
	return h.showLedger(w, r, a, ledgerView{More: ui.Clip(f.Minutes, 10), Errors: bad.By()})
}

// release tells the students of a test what it came to.
func (h Handler) release(w http.ResponseWriter, r *http.Request) error {
	n := ui.SheetOf(r).ID
	if err := h.School.Marking.Release(r.Context(), ui.UserOf(r).ID, n, time.Now()); err != nil {
		return err
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d", n), text.New("class.ledger.results-released-every-student"), nil)
}

// maxExtra is the most extra minutes.
const maxExtra = 240

// zones are places for the time zone's list; any other of the list can be written.
var zones = []string{
	"Europe/London",
	"Europe/Lisbon",
	"Europe/Berlin",
	"Europe/Athens",
	"Africa/Lagos",
	"Africa/Nairobi",
	"Asia/Dubai",
	"Asia/Kolkata",
	"Asia/Dhaka",
	"Asia/Manila",
	"Asia/Tokyo",
	"Australia/Sydney",
	"Pacific/Auckland",
	"America/Sao_Paulo",
	"America/New_York",
	"America/Chicago",
	"America/Denver",
	"America/Los_Angeles",
	"UTC",
}
