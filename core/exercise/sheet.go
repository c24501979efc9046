package exercise

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/schema"
	"cavix/core/text"
)

// MaxCards is the most cards a sheet may have, and MaxBlocks the most blocks.
const (
	MaxCards  = 60
	MaxBlocks = 20
)

// Sheet is a set of exercises as an instructor composes it: blocks of cards, and what they share.
type Sheet struct {
	Delivery
	Blocks   []Block
	Method   Method
	HintCost int // half marks for each hint that is taken
	Dealer   int // the version of dealing; 0 for the first
	Effort   int // how hard it is looked for telling values, 0 to MaxEffort
}

// MaxEffort is the most that can be done to find telling values.
const MaxEffort = 2

// Block is a run of cards of one kind.
type Block struct {
	Kind        string                   `json:"kind"`
	Instruments []*instrument.Instrument `json:"instruments"` // taken in turn
	Cards       int                      `json:"cards"`
	// the kind's own, by name; what is left out has its default
	Settings map[string]string `json:"settings,omitempty"`
	Marks    map[string]int    `json:"marks,omitempty"` // full marks of a field, 1 where it is left out
	// items to draw from, where they are not those that come with the program
	Bank   []json.RawMessage `json:"bank,omitempty"`
	Method Method            `json:"-"` // the sheet's, for whoever deals
}

// Setting is one of the things that a composer asks of a block, in words.
type Setting struct {
	Name    string // as in the block
	Title   text.Text
	Why     text.Text // what hangs on it
	Input   SettingInput
	Choices []Choice
	Default string
	Unit    bool // a length in the instrument's unit
	Share   bool // it is a share of the block's cards, in per cent
	// For says on which instruments it makes a difference, as a school reads them; nil for all.
	For func(*instrument.Instrument, Method) bool
}

// Matters reports whether the setting makes a difference on any of a block's instruments.
func (s Setting) Matters(b Block, m Method) bool {
	return s.For == nil ||
		slices.ContainsFunc(b.Instruments, func(in *instrument.Instrument) bool { return s.For(in, m) })
}

// Share returns the number of cards that a share in per cent amounts to.
func Share(cards, percent int) int { return min((cards*percent+50)/100, cards) }

// SettingInput says how a setting is chosen.
type SettingInput string

// The ways to choose.
const (
	OneOf  SettingInput = "one"    // one of the choices
	AnyOf  SettingInput = "any"    // any of them, with spaces between; marks can be set for each
	Number SettingInput = "number" // a whole number, or a length
	YesNo  SettingInput = "yes"    // "yes" or ""
	Lines  SettingInput = "lines"  // a text of several lines
)

// Get returns what a block says of a setting, or its default.
func (b Block) Get(s Setting) string {
	if v, ok := b.Settings[s.Name]; ok {
		return v
	}
	return s.Default
}

// Setting returns the value of the setting of a name among a kind's.
func (b Block) Setting(of []Setting, name string) string {
	for _, s := range of {
		if s.Name == name {
			return b.Get(s)
		}
	}
	return ""
}

// Int returns a setting as a whole number, 0 where it is none.
func (b Block) Int(of []Setting, name string) int {
	n, _ := strconv.Atoi(b.Setting(of, name))
	return n
}

// Cards returns the number of cards of the sheet.
func (s *Sheet) Cards() int {
	n := 0
	for _, b := range s.Blocks {
		n += b.Cards
	}
	return n
}

// Cost returns the marks that a number of hints costs.
func (s *Sheet) Cost(hints int) length.Number { return length.Frac(int64(hints*s.HintCost), 2) }

// Check refuses a sheet that cannot be dealt, with a refusal.Refusal naming each field: those of a block
// as "blocks.0.cards".
func (s *Sheet) Check(kinds Kinds) error {
	var bad refusal.Refusal
	if len(s.Blocks) == 0 || len(s.Blocks) > MaxBlocks {
		bad.Add("blocks", "sheet.check", "max_blocks", MaxBlocks)
	}
	if n := s.Cards(); n > MaxCards {
		bad.Add("cards", "sheet.all-blocks-together-most", "max_cards", MaxCards, "n", n)
	}
	if s.HintCost < 0 || s.HintCost > 20 {
		bad.Add("hint_cost", "sheet.from-0-10-marks")
	}
	if s.Dealer < 0 || s.Dealer > Dealing {
		bad.Add("dealer", "sheet.not-known-here-newest", "dealing", Dealing)
	}
	if s.Effort < 0 || s.Effort > MaxEffort {
		bad.Add("effort", "sheet.from-0", "max_effort", MaxEffort)
	}
	s.Delivery.check(&bad)
	for i := range s.Blocks {
		if err := bad.Take(fmt.Sprintf("blocks.%d", i), s.block(i).check(kinds)); err != nil {
			return err
		}
	}
	return bad.Err()
}

// block is a block with what the sheet settles for all.
func (s *Sheet) block(i int) Block {
	b := s.Blocks[i]
	b.Method = s.Method
	return b
}

func (b Block) check(kinds Kinds) error {
	k, known := kinds.Find(b.Kind)
	if !known {
		return refusal.New("kind", "sheet.no-kind-exercise-known", "kind", b.Kind, "names", kinds.names())
	}
	var bad refusal.Refusal
	if _, bare := k.(Bare); len(b.Instruments) == 0 && !bare {
		bad.Add("instruments", "sheet.choose-least-one")
	}
	if b.Cards < 1 || b.Cards > MaxCards {
		bad.Add("cards", "sheet.whole-number-from-1", "max_cards", MaxCards)
	}
	settings := k.Settings()
	for _, name := range slices.Sorted(maps.Keys(b.Settings)) {
		at := slices.IndexFunc(settings, func(s Setting) bool { return s.Name == name })
		if at < 0 {
			bad.Add(name, "sheet.no-setting-kind")
			continue
		}
		if reason := settings[at].refuses(b.Settings[name]); !reason.IsZero() {
			bad.Put(name, reason)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(b.Marks)) {
		if m := b.Marks[name]; m < 0 || m > 100 {
			bad.Add("marks."+name, "sheet.whole-number-from-0", "m", m)
		}
	}
	if bad != nil {
		return bad
	}
	return k.Check(b)
}

// refuses says what is wrong with a value of the setting, or "".
func (s Setting) refuses(v string) text.Text {
	has := func(v string) bool {
		return slices.ContainsFunc(s.Choices, func(c Choice) bool { return c.Value == v })
	}
	switch s.Input {
	case OneOf:
		if !has(v) {
			return text.New("sheet.refuses", "v", v)
		}
	case AnyOf:
		for _, one := range strings.Fields(v) {
			if !has(one) {
				return text.New("sheet.none-choices", "one", one)
			}
		}
	case YesNo:
		if v != "" && v != "yes" {
			return text.New("sheet.yes-left-empty")
		}
	case Number:
		if s.Unit {
			if _, err := length.ReadAny(v); v != "" && err != nil {
				return text.Says(err)
			}
		} else if n, err := strconv.Atoi(v); err != nil || n < 0 || n > 1000 {
			return text.New("sheet.whole-number-from-0-b")
		}
	}
	return text.Text{}
}

// sheetDocument is the JSON form of a sheet.
type sheetDocument struct {
	Delivery
	Format   string  `json:"format"`
	Version  int     `json:"version"`
	Blocks   []Block `json:"blocks"`
	Method   Method  `json:"method,omitzero"`
	HintCost int     `json:"hint_cost,omitempty"`
	Dealer   int     `json:"dealer,omitempty"`
	Effort   int     `json:"effort,omitempty"`
}

// sheetFormat is the format of sheet documents.
const sheetFormat = "cavix/sheet"

func (s Sheet) document() sheetDocument {
	return sheetDocument{s.Delivery, sheetFormat, 1, s.Blocks, s.Method, s.HintCost, s.Dealer, s.Effort}
}

// MarshalJSON writes the sheet document.
func (s Sheet) MarshalJSON() ([]byte, error) { return json.Marshal(s.document()) }

// TitledSheet is a sheet with its title, as documents outside hold it.
type TitledSheet struct {
	Title string
	Sheet
}

// MarshalJSON writes the document that ParseSheet reads.
func (s TitledSheet) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct {
		sheetDocument
		Title string `json:"title"`
	}{s.document(), s.Title})
}

// ParseSheet reads a sheet document from outside. One that cannot be dealt is refused, with a refusal.Refusal naming
// each field.
func (ks Kinds) ParseSheet(data []byte) (TitledSheet, error) {
	var top map[string]json.RawMessage
	if err := schema.Decode("sheet", data, &top); err != nil {
		return TitledSheet{}, err
	}
	var s TitledSheet
	if err := json.Unmarshal(top["title"], &s.Title); err != nil {
		return s, err
	}
	if s.Title = strings.Join(strings.Fields(s.Title), " "); s.Title == "" {
		return s, refusal.New("title", "sheet.parse-sheet")
	}
	delete(top, "title")
	rest, err := json.Marshal(top)
	if err != nil {
		return s, err
	}
	if s.Sheet, err = ks.ReadSheet(rest); err != nil {
		return s, refusal.Because("blocks", err)
	}
	if s.Picture != nil && s.Picture.Check() != nil {
		return s, refusal.Within("picture", s.Picture.Check())
	}
	for i, b := range s.Blocks {
		for j, in := range b.Instruments {
			if err := in.Check(); err != nil {
				return s, refusal.Within(fmt.Sprintf("blocks.%d.instruments.%d", i, j), err)
			}
		}
	}
	return s, s.Check(ks)
}

// firstSheet is a sheet as it was stored before there were blocks: one block of the first kind.
type firstSheet struct {
	Instruments []*instrument.Instrument `json:"instruments"`
	Cards       int                      `json:"cards"`
	Ask         []string                 `json:"ask"`
	Zero        string                   `json:"zero"`
	Awkward     int                      `json:"awkward"`
	Method      Method                   `json:"method"`
	Marks       map[string]int           `json:"marks,omitempty"`
	Limits      *Limits                  `json:"limits,omitempty"`
	HintCost    int                      `json:"hint_cost,omitempty"`
}

// ReadSheet reads a sheet that was stored, also from the time when a sheet had one block without a name.
func (ks Kinds) ReadSheet(data []byte) (Sheet, error) {
	var top struct {
		Format  string `json:"format"`
		Version int    `json:"version"`
	}
	if err := json.Unmarshal(data, &top); err != nil {
		return Sheet{}, err
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	switch {
	case top.Format == "" && len(ks) > 0:
		var old firstSheet
		if err := dec.Decode(&old); err != nil {
			return Sheet{}, err
		}
		return old.sheet(ks[0]), nil
	case top.Format != sheetFormat || top.Version != 1:
		return Sheet{}, fmt.Errorf("a sheet of format %q, version %d: this program reads %s version 1", top.Format,
			top.Version, sheetFormat)
	}
	var d sheetDocument
	if err := dec.Decode(&d); err != nil {
		return Sheet{}, err
	}
	return Sheet{d.Delivery, d.Blocks, d.Method, d.HintCost, d.Dealer, d.Effort}, nil
}

// sheet brings an old sheet to its one block.
func (old firstSheet) sheet(k Kind) Sheet {
	b := Block{Kind: k.Name(), Instruments: old.Instruments, Cards: old.Cards, Marks: old.Marks,
		Settings: map[string]string{"ask": strings.Join(old.Ask, " "), "zero": old.Zero,
			"awkward": strconv.Itoa(old.Awkward)}}
	if l := old.Limits; l != nil {
		b.Settings["lower"], b.Settings["upper"] = l.Lower.String(), l.Upper.String()
	}
	return Sheet{Blocks: []Block{b}, Method: old.Method, HintCost: old.HintCost}
}
