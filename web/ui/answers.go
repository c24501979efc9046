package ui

import (
	"cmp"
	"io"
	"net/http"

	"cavix/core/kinds"
	"cavix/school/ledgers"
	"cavix/school/sitting"
	"cavix/transfer"
)

// SendAnswers sends answers as a table.
func SendAnswers(w http.ResponseWriter, name string, f transfer.Format,
	all func(each func(ledgers.Answered) error) error) error {
	return Spooled(w, name, f.Type(), func(to io.Writer) error { return WriteAnswers(to, f, all) })
}

// WriteAnswers writes answers as a table, as they are read.
func WriteAnswers(w io.Writer, f transfer.Format, all func(each func(ledgers.Answered) error) error) error {
	out, err := transfer.NewAnswers(f, w)
	if err != nil {
		return err
	}
	var last ledgers.Answered // its instrument holds for the fields that follow
	if err := all(func(o ledgers.Answered) error {
		if o.Item != "" {
			if o.Item != last.Item {
				last = o
				// one that cannot be read: its answers are there all the same
				if it, err := kinds.Open([]byte(o.Item)); err == nil {
					_, last.Instrument, last.LeastCount = sitting.Shows(it)
				}
			}
			o.Instrument, o.LeastCount = last.Instrument, last.LeastCount
		}
		return out.Write(transfer.Answer{Class: o.Class, Sheet: cmp.Or(o.Sheet, "practice"), Block: o.Block,
			Card: o.Card, Kind: o.Kind, Instrument: o.Instrument, LeastCount: o.LeastCount, Student: o.Student,
			Field: o.Field, Given: o.Given,
			Expected: o.Expected, Outcome: o.Outcome, Marks: Halves(o.Half), Of: Halves(o.Of), Slip: o.Slip,
			Hints:   o.Hints,
			Seconds: o.Seconds, Answered: o.Answered, Attempt: o.Attempt, Late: o.Late, Number: o.Number})
	}); err != nil {
		return err
	}
	return out.Close()
}
