package instrument

import (
	"encoding/json"

	"cavix/core/length"
	"cavix/core/schema"
)

// document is the JSON form of an instrument: formats "cavix/instrument", version 1.
type document struct {
	Format    string        `json:"format"`
	Version   int           `json:"version"`
	Name      string        `json:"name"`
	Family    Family        `json:"family"`
	Unit      length.Unit   `json:"unit"`
	Main      mainDocument  `json:"main"`
	Fine      fineDocument  `json:"fine"`
	Base      length.Number `json:"base"`
	ZeroError length.Number `json:"zero_error"`
}

type mainDocument struct {
	Division    string        `json:"division"` // as written: a fraction makes a fraction instrument
	From        length.Number `json:"from"`
	To          length.Number `json:"to"`
	NumberEvery int           `json:"number_every,omitempty"`
	NumberStep  length.Number `json:"number_step,omitzero"`
	Runs        string        `json:"runs,omitempty"`
}

type fineDocument struct {
	Kind        FineKind `json:"kind"`
	Divisions   int      `json:"divisions"`
	Spans       int      `json:"spans"`
	NumberEvery int      `json:"number_every,omitempty"`
	NumberStep  int      `json:"number_step,omitempty"`
}

// Parse reads an instrument document. What does not fit its schema, or cannot exist, comes back as a
// schema.Refusal with the path of each field.
func Parse(data []byte) (*Instrument, error) {
	var d document
	if err := schema.Decode("instrument", data, &d); err != nil {
		return nil, err
	}
	return d.build()
}

// build makes the instrument of a decoded document.
func (d document) build() (*Instrument, error) {
	division, fractional, err := ParseDivision(d.Main.Division)
	if err != nil {
		return nil, schema.Refusal{{Field: "main.division", Reason: err.Error()}}
	}
	return New(Spec{
		Name: d.Name, Family: d.Family, Unit: d.Unit,
		Main: Main{
			Division: division, From: d.Main.From, To: d.Main.To,
			NumberEvery: d.Main.NumberEvery, NumberStep: d.Main.NumberStep,
			Fractional: fractional,
		},
		Fine: Fine{
			Kind: d.Fine.Kind, Divisions: d.Fine.Divisions, Spans: d.Fine.Spans,
			NumberEvery: d.Fine.NumberEvery, NumberStep: d.Fine.NumberStep,
		},
		Base: d.Base, ZeroError: d.ZeroError,
	})
}

// ParseDivision reads a main division and tells whether it is written as a fraction, which makes an
// instrument that is read in fractions.
func ParseDivision(s string) (d length.Number, fractional bool, err error) {
	d, err = length.Parse(s)
	for _, r := range s {
		fractional = fractional || r == '/'
	}
	return d, fractional, err
}

// MarshalJSON writes the instrument document; Parse reads it back to an equal instrument.
func (i *Instrument) MarshalJSON() ([]byte, error) {
	s := i.spec
	return json.Marshal(document{
		Format: "cavix/instrument", Version: 1,
		Name: s.Name, Family: s.Family, Unit: s.Unit,
		Main: mainDocument{
			Division: s.Main.Written(), From: s.Main.From, To: s.Main.To,
			NumberEvery: s.Main.NumberEvery, NumberStep: s.Main.NumberStep, Runs: "forward",
		},
		Fine: fineDocument{s.Fine.Kind, s.Fine.Divisions, s.Fine.Spans, s.Fine.NumberEvery, s.Fine.NumberStep},
		Base: s.Base, ZeroError: s.ZeroError,
	})
}

// UnmarshalJSON reads an instrument that MarshalJSON wrote, without the schema's strictness: it is for
// what Cavix itself has stored. Documents from outside go through Parse.
func (i *Instrument) UnmarshalJSON(b []byte) error {
	var d document
	if err := json.Unmarshal(b, &d); err != nil {
		return err
	}
	made, err := d.build()
	if err != nil {
		return err
	}
	*i = *made
	return nil
}

// Written returns the division as people write it: "0.025", or "1/16" where the scale is in fractions.
func (m Main) Written() string {
	if m.Fractional {
		return m.Division.Fraction()
	}
	return m.Division.String()
}

// Report is a reading as `cavix read` prints it.
type Report struct {
	LeastCount     string      `json:"least_count"`
	Unit           length.Unit `json:"unit"`
	Decimals       *int        `json:"decimals"` // null on an instrument that writes fractions
	Indicated      string      `json:"indicated"`
	Base           string      `json:"base"`
	Main           string      `json:"main"`
	FineLine       int         `json:"fine_line"`
	Fine           string      `json:"fine"`
	FinerLine      *int        `json:"finer_line"`
	Finer          *string     `json:"finer"`
	Observed       string      `json:"observed"`
	ZeroError      string      `json:"zero_error"`
	ZeroCorrection string      `json:"zero_correction"`
	Corrected      string      `json:"corrected"`
}

// Report writes the parts of r the instrument's way.
func (i *Instrument) Report(r Reading) Report {
	rep := Report{
		LeastCount: i.FormatMain(i.leastCount), Unit: i.Unit(),
		Indicated: i.Format(r.Indicated), Base: i.FormatMain(r.Base), Main: i.FormatMain(r.Main),
		FineLine: r.Line, Fine: i.Format(r.Fine),
		Observed: i.Format(r.Observed), ZeroError: i.Format(r.ZeroError),
		ZeroCorrection: i.Format(r.ZeroError.Neg()), Corrected: i.Format(r.Corrected),
	}
	if p, ok := i.Decimals(); ok {
		rep.Decimals = &p
	}
	return rep
}
