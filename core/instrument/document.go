package instrument

import (
	"bytes"
	"encoding/json"
	"sync"

	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/schema"
	"cavix/core/text"
)

// document is the JSON form of an instrument: formats "cavix/instrument", version 1.
type document struct {
	Format    string         `json:"format"`
	Version   int            `json:"version"`
	Name      string         `json:"name"`
	Family    Family         `json:"family"`
	Unit      length.Unit    `json:"unit"`
	Main      mainDocument   `json:"main"`
	Fine      *fineDocument  `json:"fine,omitempty"`
	Finer     *finerDocument `json:"finer,omitempty"`
	Base      length.Number  `json:"base"`
	ZeroError length.Number  `json:"zero_error"`

	Second *secondDocument `json:"second,omitempty"`
}

// secondDocument is a second vernier of the same instrument.
type secondDocument struct {
	Role      Role          `json:"role"`
	Unit      length.Unit   `json:"unit"`
	Main      mainDocument  `json:"main"`
	Fine      *fineDocument `json:"fine"`
	Base      length.Number `json:"base"`
	ZeroError length.Number `json:"zero_error"`
}

type mainDocument struct {
	Division    string        `json:"division,omitempty"` // as written: a fraction makes a fraction instrument
	From        length.Number `json:"from"`
	To          length.Number `json:"to"`
	NumberEvery int           `json:"number_every,omitempty"`
	NumberStep  length.Number `json:"number_step,omitzero"`
	Runs        string        `json:"runs,omitempty"` // forward or reverse
	HalfMarks   bool          `json:"half_marks,omitempty"`
}

type fineDocument struct {
	Kind        FineKind                      `json:"kind"`
	Divisions   int                           `json:"divisions,omitempty"`
	Spans       int                           `json:"spans,omitempty"`
	Travel      length.Number                 `json:"travel,omitzero"`
	Zeros       int                           `json:"zeros,omitempty"`
	Runs        string                        `json:"runs,omitempty"` // of a drum: up or down
	NumberEvery int                           `json:"number_every,omitempty"`
	NumberStep  int                           `json:"number_step,omitempty"`
	Step        map[length.Unit]length.Number `json:"step,omitempty"`
}

type finerDocument struct {
	Kind      FineKind `json:"kind"`
	Divisions int      `json:"divisions"`
	Spans     int      `json:"spans"`
}

// Parse reads an instrument document. What does not fit its schema, or cannot exist, comes back as a
// schema.Refusal with the path of each field.
func Parse(data []byte) (*Instrument, error) {
	var d document
	if err := schema.Decode("instrument", data, &d); err != nil {
		return nil, err
	}
	return d.build(New)
}

// build makes the instrument of a decoded document: anew, or as it was made before.
func (d document) build(make func(Spec) (*Instrument, error)) (*Instrument, error) {
	s, err := d.spec()
	if err != nil {
		return nil, err
	}
	if e := d.Second; e != nil {
		second, err := document{Family: VernierCaliper, Unit: e.Unit, Main: e.Main, Fine: e.Fine, Base: e.Base,
			ZeroError: e.ZeroError}.spec()
		if err != nil {
			return nil, refusal.Within("second", err)
		}
		s.Role, s.Second = e.Role, &second
	}
	return make(s)
}

// spec reads a document's scales.
func (d document) spec() (Spec, error) {
	s := Spec{
		Name: d.Name, Family: d.Family, Unit: d.Unit,
		Main: Main{
			From: d.Main.From, To: d.Main.To, NumberEvery: d.Main.NumberEvery, NumberStep: d.Main.NumberStep,
			Reverse: d.Main.Runs == "reverse", HalfMarks: d.Main.HalfMarks,
		},
		Base: d.Base, ZeroError: d.ZeroError,
	}
	if d.Main.Division != "" {
		var err error
		if s.Main.Division, s.Main.Fractional, err = ParseDivision(d.Main.Division); err != nil {
			return Spec{}, refusal.Because("main.division", err)
		}
	} else if f, known := definitionOf(d.Family); !known || f.Scale.Traits().HasMarks {
		return Spec{}, refusal.New("main.division", "instrument.missing-give-length-one")
	}
	if f := d.Fine; f != nil {
		s.Fine = Fine{
			Kind: f.Kind, Divisions: f.Divisions, MainDivisions: f.Spans, Travel: f.Travel, Zeros: f.Zeros,
			Down:        f.Runs == "down",
			NumberEvery: f.NumberEvery, NumberStep: f.NumberStep, Steps: f.Step,
		}
	}
	if d.Finer != nil {
		s.ThimbleVernier = ThimbleVernier{d.Finer.Divisions, d.Finer.Spans}
	}
	return s, nil
}

// ParseDivision reads a main division and tells whether it is written as a fraction, which makes an
// instrument that is read in fractions.
func ParseDivision(s string) (d length.Number, fractional bool, err error) {
	err = d.UnmarshalText([]byte(s))
	for _, r := range s {
		fractional = fractional || r == '/'
	}
	return d, fractional, err
}

// MarshalJSON writes the instrument document; Parse reads it back to an equal instrument.
func (i *Instrument) MarshalJSON() ([]byte, error) {
	d := i.spec.document()
	if s := i.spec; s.Second != nil {
		e := s.Second.document()
		d.Second = &secondDocument{Role: s.Role, Unit: e.Unit, Main: e.Main, Fine: e.Fine, Base: e.Base,
			ZeroError: e.ZeroError}
	}
	return json.Marshal(d)
}

// traits are those of its family; none where there is no such family.
func (s Spec) traits() Traits {
	if d, known := definitionOf(s.Family); known {
		return d.Scale.Traits()
	}
	return Traits{}
}

// document writes the scales.
func (s Spec) document() document {
	d := document{
		Format: "cavix/instrument", Version: 1,
		Name: s.Name, Family: s.Family, Unit: s.Unit,
		Main: mainDocument{
			Division: s.Main.Written(), From: s.Main.From, To: s.Main.To,
			NumberEvery: s.Main.NumberEvery, NumberStep: s.Main.NumberStep, Runs: "forward",
			HalfMarks: s.Main.HalfMarks,
		},
		Base: s.Base, ZeroError: s.ZeroError,
	}
	if s.Main.Reverse {
		d.Main.Runs = "reverse"
	}
	if f := s.Fine; f.Kind != None {
		d.Fine = &fineDocument{Kind: f.Kind, Divisions: f.Divisions, Spans: f.MainDivisions, Travel: f.Travel,
			NumberEvery: f.NumberEvery, NumberStep: f.NumberStep, Step: f.Steps}
		switch has := s.traits(); {
		case has.HasThimble:
			d.Fine.Runs = "up"
			if f.Down {
				d.Fine.Runs = "down"
			}
		case has.CountsTurns:
			d.Fine.Zeros = f.Zeros
		}
	}
	if v := s.ThimbleVernier; v != (ThimbleVernier{}) {
		d.Finer = &finerDocument{Vernier, v.Divisions, v.ThimbleDivisions}
	}
	return d
}

// UnmarshalJSON reads an instrument that was stored before. A key or version that this program does not
// know is an error, since passing over it could change a reading; what a newer rule would refuse to make
// stays readable. Documents from outside go through Parse.
func (i *Instrument) UnmarshalJSON(b []byte) error {
	if known := lately.find(b); known != nil {
		*i = *known
		return nil
	}
	var d document
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&d); err != nil {
		return err
	}
	if d.Format != "cavix/instrument" || d.Version != 1 {
		return text.Error("instrument.unmarshal", "format", d.Format, "version", d.Version)
	}
	made, err := d.build(restored)
	if err != nil {
		return err
	}
	*i = *made
	lately.keep(b, made)
	return nil
}

// lately are the instruments that were read of late: the cards of a sheet repeat a few of them, word for word. An
// instrument never changes, so all of its cards share what was made of it.
var lately = memory{made: map[string]*Instrument{}}

// mostLately bounds how many instruments are remembered.
const mostLately = 1000

type memory struct {
	mu   sync.RWMutex
	made map[string]*Instrument // by the document
}

func (m *memory) find(document []byte) *Instrument {
	m.mu.RLock()
	defer m.mu.RUnlock()
	return m.made[string(document)]
}

func (m *memory) keep(document []byte, made *Instrument) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if len(m.made) >= mostLately {
		clear(m.made)
	}
	m.made[string(document)] = made
}

// Written returns the division as people write it: "0.025", or "1/16" where the scale is in fractions.
func (m Main) Written() string {
	if m.Fractional {
		return m.Division.Fraction()
	}
	return m.Division.String()
}

// Report is a reading as `cavix read` prints it. What an instrument does not have is null.
type Report struct {
	LeastCount     string      `json:"least_count"`
	Unit           length.Unit `json:"unit"`
	Decimals       *int        `json:"decimals"` // null on an instrument that writes fractions
	Indicated      string      `json:"indicated"`
	Base           string      `json:"base"`
	Main           *string     `json:"main"`
	FineLine       any         `json:"fine_line"` // a number, or text where a tenth is estimated
	Fine           *string     `json:"fine"`
	FinerLine      *int        `json:"finer_line"`
	Finer          *string     `json:"finer"`
	Observed       string      `json:"observed"`
	ZeroError      string      `json:"zero_error"`
	ZeroCorrection string      `json:"zero_correction"`
	Corrected      string      `json:"corrected"`
	Second         *Report     `json:"second,omitempty"` // what a second scale on the beam reads at the same opening
}

// Report writes the parts of r the instrument's way.
func (i *Instrument) Report(r Reading) Report {
	write := func(x length.Number) string { return i.FormatBy(x, r.By) }
	rep := Report{
		LeastCount: i.FormatMain(i.leastCount), Unit: i.Unit(),
		Indicated: write(r.Indicated), Base: i.FormatMain(r.Base),
		Observed: write(r.Observed), ZeroError: write(r.ZeroError),
		ZeroCorrection: write(r.ZeroError.Neg()), Corrected: write(r.Corrected),
	}
	if p, ok := i.Decimals(); ok {
		if i.Tenths(r.By) {
			p++
		}
		rep.Decimals = &p
	}
	if i.traits.HasMarks {
		main := i.FormatMain(r.Main)
		rep.Main = &main
	}
	if i.HasFine() {
		fine := write(r.Fine)
		rep.FineLine, rep.Fine = r.Line, &fine
		if i.Tenths(r.By) {
			rep.FineLine = r.LineNumber().Text(1)
		}
	}
	if i.HasFiner() {
		finer := write(r.ThimbleVernier)
		rep.FinerLine, rep.Finer = &r.FinerLine, &finer
	}
	if i.second != nil && i.spec.Role != ToothDepthScale {
		if r2, err := i.second.Read(i.OnSecond(r.Indicated)); err == nil {
			second := i.second.Report(r2)
			rep.Second = &second
		}
	}
	return rep
}
