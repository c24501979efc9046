package class

import (
	"net/http"
	"strings"
	"time"

	"cavix/classroom"
	"cavix/web/ui"
)

// timesForm says when a sheet can be taken, on the class's clock.
type timesForm struct {
	Opens  string `form:"opens"`
	Closes string `form:"closes"`
}

// asTyped is how a page's date and time field writes a time.
const asTyped = "2006-01-02T15:04"

// times reads when a sheet can be taken.
func (f timesForm) times(zone string, bad *ui.Faults) (opens, closes time.Time) {
	read := func(field, text string) (t time.Time) {
		if text = strings.TrimSpace(text); text == "" {
			return t
		}
		t, err := time.ParseInLocation(asTyped, text, classroom.Clock(zone))
		if err != nil || t.Year() < 2000 || t.Year() > 2199 {
			bad.Add(field, "must be a day and a time, as 2026-11-30T09:00")
			return time.Time{}
		}
		return t
	}
	opens, closes = read("opens", f.Opens), read("closes", f.Closes)
	if !opens.IsZero() && !closes.IsZero() && !opens.Before(closes) {
		bad.Add("closes", "must be later than the opening")
	}
	return opens, closes
}

// timesView is when a sheet can be taken, as a form holds it.
type timesView struct {
	Opens, Closes string
	Zone          string // whose clock it is, in words
	Errors        map[string]string
}

func newTimes(opens, closes time.Time, zone string) timesView {
	write := func(t time.Time) string {
		if t.IsZero() {
			return ""
		}
		return t.In(classroom.Clock(zone)).Format(asTyped)
	}
	return timesView{Opens: write(opens), Closes: write(closes), Zone: zoneName(zone)}
}

// zoneName says whose clock counts.
func zoneName(zone string) string {
	if zone == "" {
		return "the server's clock, " + time.Now().Format("15:04 MST") + " just now"
	}
	return zone + ", " + time.Now().In(classroom.Clock(zone)).Format("15:04") + " just now"
}

// setTimes changes when a given sheet can be taken.
func (o Office) setTimes(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	var f timesForm
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	owner := ui.UserOf(r).ID
	a, err := o.given(r, n)
	if err != nil {
		return err
	}
	var bad ui.Faults
	opens, closes := f.times(a.Zone, &bad)
	if len(bad.Refusal) > 0 {
		return o.showLedger(w, r, a, ledgerView{Times: timesView{f.Opens, f.Closes, zoneName(a.Zone), bad.By()}})
	}
	if err := o.Room.SetTimes(r.Context(), owner, n, opens, closes); err != nil {
		return err
	}
	return ledgerSays(w, r, n, "times")
}

// release tells the students of a test what it came to.
func (o Office) release(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	if err := o.Room.Release(r.Context(), ui.UserOf(r).ID, n, time.Now()); err != nil {
		return err
	}
	return ledgerSays(w, r, n, "released")
}

// setClock sets the clock that a class's times are meant by.
func (o Office) setClock(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "class")
	if err != nil {
		return err
	}
	var f struct {
		Zone string `form:"zone"`
	}
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	zone := strings.TrimSpace(f.Zone)
	if _, err := time.LoadLocation(zone); err != nil || zone == "Local" || len(zone) > 60 {
		return o.showClass(w, r, classView{Zoned: &f.Zone, Errors: map[string]string{
			"zone": "is no place of the time zone list; write one as Europe/Lisbon, or leave it empty for the server's clock"}})
	}
	if err := o.Room.SetZone(r.Context(), ui.UserOf(r).ID, n, zone); err != nil {
		return err
	}
	return back(w, r, n, "clock")
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
