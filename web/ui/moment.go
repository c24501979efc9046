package ui

import (
	"fmt"
	"html/template"
	"time"

	"cavix/core/text"
)

// Stamp is a time of a page.
type Stamp struct {
	at     time.Time
	manner string // the end of the key by which it is written
	here   bool   // the browser writes it anew by its own clock
}

// Day, Date, Moment and LongMoment are a day, a day with its year, and both with the hour and minute.
func Day(t time.Time) Stamp        { return Stamp{at: t, manner: "day"} }
func Date(t time.Time) Stamp       { return Stamp{at: t, manner: "date"} }
func Moment(t time.Time) Stamp     { return Stamp{at: t, manner: "moment"} }
func LongMoment(t time.Time) Stamp { return Stamp{at: t, manner: "long"} }

// Here is a moment by the clock of the reader's computer, for what concerns no class.
func Here(t time.Time) Stamp { return Stamp{t, "long", true} }

// Month names the month of a time in short.
func Month(t time.Time) text.Text { return text.New(fmt.Sprintf("month.%d", int(t.Month()))) }

// Text is the time without the mark for the browser.
func (s Stamp) Text() text.Text {
	if s.at.IsZero() {
		return text.Text{}
	}
	clock := text.Math(s.at.Format("15:04"))
	switch s.manner {
	case "day":
		return text.New("date.day", "day", s.at.Day(), "month", Month(s.at))
	case "date":
		return text.New("date.date", "day", s.at.Day(), "month", Month(s.at), "year", s.at.Year())
	case "moment":
		return text.New("date.moment", "day", s.at.Day(), "month", Month(s.at), "clock", clock)
	}
	return text.New("date.long", "day", s.at.Day(), "month", Month(s.at), "year", s.at.Year(), "clock", clock)
}

// html writes the time for a page.
func (s Stamp) html(said *text.Printer) template.HTML {
	if s.at.IsZero() {
		return ""
	}
	machine, mark := "2006-01-02", ""
	switch {
	case s.here:
		machine, mark = "2006-01-02T15:04:05Z07:00", " data-here"
	case s.manner == "moment" || s.manner == "long":
		machine += "T15:04"
	}
	at := `<time datetime="` + s.at.Format(machine) + `"` + mark + `>`
	return template.HTML(at + said.HTML(s.Text()) + `</time>`) //nolint:gosec // a time
}

// Weekday is a time with its weekday.
func Weekday(t time.Time) text.Text {
	return text.New("date.weekday-moment", "weekday", weekday(t), "day", t.Day(), "month", Month(t), "clock",
		text.Math(t.Format("15:04")))
}

// WeekdayYear is a time with its weekday and year.
func WeekdayYear(t time.Time) text.Text {
	return text.New("date.weekday-long", "weekday", weekday(t), "day", t.Day(), "month", Month(t), "year", t.Year(),
		"clock", text.Math(t.Format("15:04")))
}

func weekday(t time.Time) text.Text { return text.New(fmt.Sprintf("weekday.%d", int(t.Weekday()))) }

// Until is when something ends that ends soon: the time of day, with the day where that is not today.
func Until(ends, now time.Time) text.Text {
	clock := text.Math(ends.Format("15:04"))
	switch {
	case ends.Format(time.DateOnly) == now.Format(time.DateOnly):
		return text.Numbers(clock)
	case ends.Sub(now) < 6*24*time.Hour:
		return text.New("date.weekday-clock", "weekday", weekday(ends), "clock", clock)
	}
	return Moment(ends).Text()
}

// Duration writes how long something took; "" where that is not known.
func Duration(d time.Duration) text.Text {
	switch {
	case d == 0:
		return text.Text{}
	case d < time.Minute:
		return text.Typed(fmt.Sprintf("%d s", int(d.Seconds())))
	case d < 2*time.Hour:
		return text.New("class.ledger.duration-text", "minutes", int(d.Round(time.Minute).Minutes()))
	case d < 48*time.Hour:
		return text.Typed(fmt.Sprintf("%d h", int(d.Round(time.Hour).Hours())))
	}
	return text.New("class.ledger.days", "hours", int(d.Hours()/24))
}
