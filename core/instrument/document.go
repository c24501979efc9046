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

// document is the JSON form of an instrument: formats "cavix/instrument", versions 1 and 2. What uses nothing of
// version 2 is written as version 1.
type document struct {
	Format    string         `json:"format"`
	Version   int            `json:"version"`
	Name      string         `json:"name"`
	Family    Family         `json:"family"`
	Unit      length.Unit    `json:"unit"`
	Written   Written        `json:"written,omitempty"`
	Main      *mainDocument  `json:"main,omitempty"` // none on a face that is numbered both ways
	Fine      *fineDocument  `json:"fine,omitempty"`
	Finer     *finerDocument `json:"finer,omitempty"`
	Base      length.Number  `json:"base"`
	ZeroError length.Number  `json:"zero_error"`

	Second *secondDocument `json:"second,omitempty"`
}

// secondDocument is a second vernier of the same instrument.
type secondDocument struct {
	Role      Role           `json:"role"`
	Unit      length.Unit    `json:"unit,omitempty"` // of an opposite plate nothing but the zero error
	Main      *mainDocument  `json:"main,omitempty"`
	Fine      *fineDocument  `json:"fine,omitempty"`
	Base      *length.Number `json:"base,omitempty"`
	ZeroError length.Number  `json:"zero_error"`
}

type mainDocument struct {
	Division    string        `json:"division,omitempty"` // as written: a fraction makes a fraction instrument
	From        length.Number `json:"from"`
	To          length.Number `json:"to"`
	NumberEvery int           `json:"number_every,omitempty"`
	NumberStep  length.Number `json:"number_step,omitzero"`
	Runs        string        `json:"runs,omitempty"` // forward or reverse
	HalfMarks   bool          `json:"half_marks,omitempty"`
	Round       string        `json:"round,omitempty"` // 360 on a circle
}

type fineDocument struct {
	Kind        FineKind                      `json:"kind"`
	Divisions   int                           `json:"divisions,omitempty"`
	Spans       int                           `json:"spans,omitempty"`
	Travel      length.Number                 `json:"travel,omitzero"`
	Zeros       int                           `json:"zeros,omitempty"`
	Runs        string                        `json:"runs,omitempty"` // up, down; clockwise, anticlockwise
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
		second, err := e.spec()
		if err != nil {
			return nil, refusal.Within("second", err)
		}
		s.Role, s.Second = e.Role, &second
	}
	return make(s)
}

// spec reads a second scale.
func (d *secondDocument) spec() (Spec, error) {
	if d.Role == Opposite {
		return Spec{ZeroError: d.ZeroError}, nil
	}
	second := document{Family: VernierCaliper, Unit: d.Unit, Main: d.Main, Fine: d.Fine, ZeroError: d.ZeroError}
	if d.Base != nil {
		second.Base = *d.Base
	}
	return second.spec()
}

// spec reads a document's scales.
func (d document) spec() (Spec, error) {
	s := Spec{Name: d.Name, Family: d.Family, Unit: d.Unit, Written: d.Written, Base: d.Base, ZeroError: d.ZeroError}
	if err := d.fits(); err != nil {
		return Spec{}, err
	}
	if m := d.Main; m != nil {
		s.Main = Main{From: m.From, To: m.To, NumberEvery: m.NumberEvery, NumberStep: m.NumberStep,
			Reverse: m.Runs == "reverse", HalfMarks: m.HalfMarks}
		if m.Division != "" {
			var err error
			if s.Main.Division, s.Main.Fractional, err = ParseDivision(m.Division); err != nil {
				return Spec{}, refusal.Because("main.division", err)
			}
		} else if d.traits().HasMarks {
			return Spec{}, refusal.New("main.division", "instrument.missing-give-length-one")
		}
	}
	if f := d.Fine; f != nil {
		s.Fine = Fine{
			Kind: f.Kind, Divisions: f.Divisions, MainDivisions: f.Spans, Travel: f.Travel, Zeros: f.Zeros,
			Down: f.Runs == "down", Anticlockwise: f.Runs == "anticlockwise",
			NumberEvery: f.NumberEvery, NumberStep: f.NumberStep, Steps: f.Step,
		}
	}
	if d.Finer != nil {
		s.ThimbleVernier = ThimbleVernier{d.Finer.Divisions, d.Finer.Spans}
	}
	return s, nil
}

// fits refuses keys and values that the family, or version 1, does not have.
func (d document) fits() error {
	var bad refusal.Refusal
	has := d.traits()
	refuse := func(is bool, field, why string, args ...any) {
		if is {
			bad.Add(field, why, args...)
		}
	}
	refuse(d.Main != nil && has.Signed, "main", "instrument.no-main")
	refuse(d.Main == nil && !has.Signed, "main", "instrument.main-missing")
	old := d.Version == 1
	_, newer := inVersion2[d.Family]
	refuse(old && newer, "family", "instrument.version-2", "family", d.Family)
	refuse(old && d.Unit.Angular(), "unit", "instrument.version-2", "family", d.Unit)
	refuse(old && d.Written != "", "written", "instrument.version-2", "family", d.Written)
	if m := d.Main; m != nil {
		refuse(m.Round != "" && (old || !has.Round), "main.round", "instrument.no-round")
		refuse(m.Round != "360" && has.Round, "main.round", "instrument.round")
	}
	if f := d.Fine; f != nil && f.Runs != "" {
		indicates := f.Runs == "clockwise" || f.Runs == "anticlockwise"
		refuse(f.Kind == Dial && (!has.Indicates || !indicates), "fine.runs", "instrument.only-indicators-run")
		refuse(f.Kind == Thimble && indicates, "fine.runs", "instrument.drum-runs")
	}
	if e := d.Second; e != nil {
		refuse(old && e.Role == Opposite, "second.role", "instrument.version-2", "family", e.Role)
		whole := e.Unit != "" && e.Main != nil && e.Fine != nil
		refuse(e.Role != Opposite && !whole, "second", "instrument.second-whole")
		none := e.Unit == "" && e.Main == nil && e.Fine == nil && e.Base == nil
		refuse(e.Role == Opposite && !none, "second", "instrument.second-same")
	}
	return bad.Err()
}

// inVersion2 are the families that a document of version 1 cannot have.
var inVersion2 = map[Family]struct{}{Spherometer: {}, DialIndicator: {}, BalancedIndicator: {}, Protractor: {},
	AngleCircle: {}}

// traits are those of its family with its kind of fine scale; none where there is no such family.
func (d document) traits() Traits {
	f, known := definitionOf(d.Family)
	if !known {
		return Traits{HasMarks: true}
	}
	if d.Fine != nil {
		if s, made := f.scaleOf(d.Fine.Kind); made {
			return s.Traits()
		}
	}
	return f.Scale.Traits()
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
	switch s := i.spec; {
	case s.Role == Opposite:
		d.Second = &secondDocument{Role: s.Role, ZeroError: s.Second.ZeroError}
	case s.Second != nil:
		e := s.Second.document()
		d.Second = &secondDocument{Role: s.Role, Unit: e.Unit, Main: e.Main, Fine: e.Fine, Base: &e.Base,
			ZeroError: e.ZeroError}
	}
	return json.Marshal(d)
}

// document writes the scales.
func (s Spec) document() document {
	d := document{
		Format: "cavix/instrument", Version: 1,
		Name: s.Name, Family: s.Family, Unit: s.Unit, Written: s.Written, Base: s.Base, ZeroError: s.ZeroError,
	}
	if f := s.Fine; f.Kind != None {
		d.Fine = &fineDocument{Kind: f.Kind, Divisions: f.Divisions, Spans: f.MainDivisions, Travel: f.Travel,
			NumberEvery: f.NumberEvery, NumberStep: f.NumberStep, Step: f.Steps}
	}
	has := d.traits()
	if _, newer := inVersion2[s.Family]; newer || s.Unit.Angular() {
		d.Version = 2
	}
	if !has.Signed {
		d.Main = &mainDocument{Division: s.Main.Written(), From: s.Main.From, To: s.Main.To,
			NumberEvery: s.Main.NumberEvery, NumberStep: s.Main.NumberStep, Runs: "forward",
			HalfMarks: s.Main.HalfMarks}
		if s.Main.Reverse {
			d.Main.Runs = "reverse"
		}
		if has.Round {
			d.Main.Round = "360"
		}
	}
	if f := s.Fine; f.Kind != None {
		switch {
		case has.Indicates:
			d.Fine.Runs = "clockwise"
			if f.Anticlockwise {
				d.Fine.Runs = "anticlockwise"
			}
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
	if d.Format != "cavix/instrument" || d.Version != 1 && d.Version != 2 {
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
	*Opposed                   // with an opposite plate
}

// Opposed is what the opposite plate of a circle reads, as `cavix read` prints it.
type Opposed struct {
	Indicated string `json:"indicated_b"`
	Main      string `json:"main_b"`
	FineLine  int    `json:"fine_line_b"`
	Observed  string `json:"observed_b"`
	Mean      string `json:"mean"` // of both
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
	if i.spec.Role == Opposite {
		if b, err := i.second.Read(i.OnSecond(r.Indicated)); err == nil {
			rep.Opposed = &Opposed{write(b.Indicated), i.FormatMain(b.Main), b.Line, write(b.Observed),
				write(i.Mean(r.Observed, b.Observed))}
		}
		return rep
	}
	if i.second != nil && i.spec.Role != ToothDepthScale {
		if r2, err := i.second.Read(i.OnSecond(r.Indicated)); err == nil {
			second := i.second.Report(r2)
			rep.Second = &second
		}
	}
	return rep
}
