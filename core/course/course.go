// Package course knows what an instructor carries from one server to another: instruments, sheets, items of a bank, and
// how a class reads and speaks. It reads their documents from outside strictly, and writes them so that nothing is
// lost.
package course

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/refusal"
	"cavix/core/schema"
	"cavix/core/text"
	"cavix/core/words"
)

// Course is the content of a course file.
type Course struct {
	Name        string // of the class
	Instruments []*instrument.Instrument
	Sheets      []exercise.TitledSheet
	Bank        []Item
	Class       *Class // how the class reads and speaks; nil where only documents are carried
}

// Class holds the conventions and the words of a class.
type Class struct {
	Method exercise.Method
	Words  words.Set
}

// Item is an item of a bank: an own one, or one that stands for one that comes with the program.
type Item struct {
	Kind     exercise.Banked
	Body     json.RawMessage
	Replaces string // fingerprint of the one that comes with the program; "" for an own one
	Retired  bool   // no card is dealt from it
}

// Says is an item in a line.
func (i Item) Says() text.Text { return i.Kind.Says(i.Body) }

// itemDocument is the JSON form of an item.
type itemDocument struct {
	Format   string          `json:"format"`
	Version  int             `json:"version"`
	Item     json.RawMessage `json:"item"`
	Replaces string          `json:"replaces,omitempty"`
	Retired  bool            `json:"retired,omitempty"`
}

// formats begin what says of a document what it is; that of a bank's item goes on with its kind.
const formats = "cavix/"

// MarshalJSON writes the document that Add reads.
func (i Item) MarshalJSON() ([]byte, error) {
	return json.Marshal(itemDocument{formats + i.Kind.Name(), 1, i.Body, i.Replaces, i.Retired})
}

// Head is the head of a course file: its name, and the files of the documents.
type Head struct {
	Format      string           `json:"format"`
	Version     int              `json:"version"`
	Name        string           `json:"name"`
	Instruments []string         `json:"instruments"`
	Sheets      []string         `json:"sheets"`
	Care        []string         `json:"care,omitempty"` // items of banks, of whatever kind
	Method      *exercise.Method `json:"method,omitempty"`
	Words       *words.Set       `json:"words,omitempty"`
}

// headFormat is the format of the head of a course file.
const headFormat = formats + "course"

// NewHead is the head of a course file, without its files.
func NewHead(c Course) Head {
	h := Head{Format: headFormat, Version: 1, Name: c.Name}
	if c.Class != nil {
		h.Method, h.Words = &c.Class.Method, &c.Class.Words
	}
	return h
}

// ReadHead reads the head of a course file, and begins a course with what it says.
func ReadHead(data []byte) (h Head, c Course, err error) {
	if err := schema.Decode("course", data, &h); err != nil {
		return h, c, err
	}
	if c.Name = strings.Join(strings.Fields(h.Name), " "); c.Name == "" {
		return h, c, refusal.New("name", "course.read-head")
	}
	c.Class = &Class{}
	if h.Method != nil {
		c.Class.Method = *h.Method
	}
	if h.Words != nil {
		c.Class.Words = *h.Words
	}
	return h, c, refusal.Within("words", c.Class.Words.Check())
}

// Add reads a document from outside, of whatever it is, into the course. What cannot stand is a refusal.Refusal.
func (c *Course) Add(data []byte) error {
	var top struct {
		Format string `json:"format"`
	}
	if err := json.Unmarshal(data, &top); err != nil {
		return refusal.New("", "document.document-not-json", "err", err)
	}
	switch name := strings.TrimPrefix(top.Format, formats); {
	case top.Format == formats+"instrument":
		in, err := instrument.Parse(data)
		if err == nil {
			c.Instruments = append(c.Instruments, in)
		}
		return err
	case top.Format == formats+"sheet":
		sheet, err := kinds.All.ParseSheet(data)
		if err == nil {
			c.Sheets = append(c.Sheets, sheet)
		}
		return err
	default:
		kind, _ := kinds.All.Find(name)
		if banked, ok := kind.(exercise.Banked); ok {
			return c.addItem(banked, data)
		}
	}
	return refusal.New("format", "course.course-takes-cavix-instrument", "format", top.Format)
}

func (c *Course) addItem(kind exercise.Banked, data []byte) error {
	var d itemDocument
	if err := schema.Decode("banked", data, &d); err != nil {
		return err
	}
	// Inside an item document it is held to all that is asked of one.
	var whole bytes.Buffer
	fmt.Fprintf(&whole, `{"format": "cavix/item", "version": 2, "kind": %q, "body": %s}`, kind.Name(), d.Item)
	it, err := kinds.Parse(whole.Bytes())
	if err != nil {
		return here(err)
	}
	body, err := json.Marshal(it)
	if err != nil {
		return err
	}
	c.Bank = append(c.Bank, Item{kind, body, d.Replaces, d.Retired})
	return nil
}

// here names the fields of a refused item as they stand in the document of a bank's item.
func here(err error) error {
	var bad refusal.Refusal
	if !errors.As(err, &bad) {
		return err
	}
	out := make(refusal.Refusal, len(bad))
	for i, f := range bad {
		if rest, inside := strings.CutPrefix(f.Field, "body"); inside {
			f.Field = "item" + rest
		}
		out[i] = f
	}
	return out
}
