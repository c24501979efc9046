package ui

import (
	"html/template"
	"time"
)

// Day, Date, Moment and LongMoment write a time that stands by itself in a page: the browser then writes it anew in its reader's
// manner. The time is what the clock of its zone shows, and stays that.
func Day(t time.Time) template.HTML { return stamp(t, "day", "2006-01-02", "2 Jan") }

// Date is a day with its year.
func Date(t time.Time) template.HTML { return stamp(t, "date", "2006-01-02", "2 Jan 2006") }

// Moment is a day with its hour and minute.
func Moment(t time.Time) template.HTML { return stamp(t, "moment", "2006-01-02T15:04", "2 Jan, 15:04") }

// LongMoment is a date with its hour and minute.
func LongMoment(t time.Time) template.HTML {
	return stamp(t, "long", "2006-01-02T15:04", "2 Jan 2006, 15:04")
}

func stamp(t time.Time, manner, machine, text string) template.HTML {
	if t.IsZero() {
		return ""
	}
	return template.HTML(`<time datetime="` + t.Format(machine) + `" data-manner="` + manner + `">` + t.Format(text) + `</time>`) //nolint:gosec // a time
}
