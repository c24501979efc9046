package exercise

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/schema"
	"cavix/core/text"
)

// Answer holds what a student wrote, by field, as it was typed.
type Answer map[string]string

// ParseAnswer reads an answer document.
func ParseAnswer(data []byte) (Answer, error) {
	var a Answer
	if err := schema.Decode("answer", data, &a); err != nil {
		return nil, err
	}
	return a, nil
}

// OpenAnswer reads an answer that was stored: a JSON object of texts.
func OpenAnswer(doc string) (a Answer, err error) {
	if a, plain := openPlainly(doc); plain {
		return a, nil
	}
	return a, json.Unmarshal([]byte(doc), &a)
}

// openPlainly reads an object as this program writes it, of texts without a sign that JSON writes in another way.
func openPlainly(doc string) (Answer, bool) {
	inner, begins := strings.CutPrefix(doc, `{"`)
	inner, ends := strings.CutSuffix(inner, `"}`)
	if !begins || !ends {
		return nil, false
	}
	a := make(Answer, strings.Count(inner, `":"`))
	for more := true; more; {
		var pair string
		pair, inner, more = strings.Cut(inner, `","`)
		name, said, both := strings.Cut(pair, `":"`)
		if !both || !asItIs(name) || !asItIs(said) {
			return nil, false
		}
		a[name] = said
	}
	return a, true
}

// asItIs reports whether JSON writes a text as it is, between quotation marks.
func asItIs(s string) bool {
	for i := range len(s) {
		if c := s[i]; c < ' ' || c > '~' || c == '"' || c == '\\' {
			return false
		}
	}
	return true
}

// Entry is the parsed text of one box.
type Entry struct {
	Text      string // as it was typed
	Typed     length.Typed
	Value     length.Number // in the field's unit; the moves of a position
	Given     bool          // something was written
	Converted bool          // written in another unit than the field's: its decimals are not judged
	Choice    string        // the option that was taken
	Downwards bool          // of a position: the last movement was downwards
}

// Is reports whether the entry is x: exactly, or where it was written in another unit within near.
func (e *Entry) Is(x, near length.Number) bool {
	if !e.Converted {
		return e.Value.Equal(x)
	}
	return e.Value.Sub(x).Abs().Cmp(near) <= 0
}

// Read takes an answer's entries, one for each field. Those that cannot be read come back as a
// refusal.Refusal in the order of the fields; nothing is marked then.
func Read(fields []Field, answer Answer) ([]Entry, error) {
	var bad refusal.Refusal
	entries := make([]Entry, len(fields))
	left := 0
	for _, text := range answer {
		if !Blank(text) {
			left++
		}
	}
	for i := range fields {
		f, e := &fields[i], &entries[i]
		if e.Text = answer[f.Name]; Blank(e.Text) {
			continue
		}
		left--
		e.Given = true
		if reason := e.read(f); !reason.IsZero() {
			bad.Put(f.Name, reason)
		}
	}
	if left > 0 {
		var strange []string
		for name, entry := range answer {
			if !Blank(entry) && !slices.ContainsFunc(fields, func(f Field) bool { return f.Name == name }) {
				strange = append(strange, name)
			}
		}
		slices.Sort(strange)
		for _, name := range strange {
			bad.Add(name, "answer.not-asked")
		}
	}
	return entries, bad.Err()
}

// read reads the entry as the field wants it, and says what is wrong with it, if anything.
func (e *Entry) read(f *Field) text.Text {
	switch f.Input {
	case Options:
		e.Choice = plain(e.Text)
		if !slices.Contains(f.Options, e.Choice) {
			return text.New("answer.no-option", "options", strings.Join(f.Options, ", "))
		}
		return text.Text{}
	case Order:
		words := strings.FieldsFunc(e.Text, func(r rune) bool { return strings.ContainsRune(" ,;.\t\u00a0", r) })
		e.Choice = strings.Join(words, " ")
		if sorted := slices.Sorted(slices.Values(words)); !slices.Equal(sorted,
			slices.Sorted(slices.Values(f.Options))) {
			return text.New("answer.order", "n", len(f.Options))
		}
		return text.Text{}
	case Position:
		moved, down := strings.CutSuffix(plain(e.Text), "v")
		moves, err := strconv.Atoi(moved)
		if err != nil || moves < -maxMoves || moves > maxMoves {
			return text.New("answer.moves")
		}
		e.Value, e.Downwards = length.Int(int64(moves)), down
		return text.Text{}
	}
	t, err := f.Unit.Read(e.Text)
	switch {
	case f.Input == Count && (err != nil || t.Unit != "") && f.Line:
		return text.New("answer.line")
	case f.Input == Count && (err != nil || t.Unit != ""):
		return text.New("answer.count")
	case err != nil:
		return text.Says(err)
	}
	e.Typed, e.Value = t, t.Value
	if t.Unit != "" && t.Unit != f.Unit {
		e.Converted = true
		e.Value = length.Convert(t.Value, t.Unit, f.Unit)
	}
	return text.Text{}
}

// maxMoves bounds how far a figure can have been moved, in tenths of a least count.
const maxMoves = 1_000_000_000

// plain is a text without space around it and with a hyphen for any other minus.
func plain(s string) string {
	return strings.NewReplacer("−", "-", "–", "-").Replace(strings.TrimSpace(s))
}

// Blank reports whether nothing is written.
func Blank(s string) bool { return strings.Trim(s, " \t\n\r\u00a0") == "" }

// Empty names the fields of an item that an answer leaves empty, as a sentence does.
func Empty(it Item, a Answer) []text.Text {
	var names []text.Text
	for _, f := range it.Fields() {
		if Blank(a[f.Name]) {
			names = append(names, f.Term)
		}
	}
	return names
}

// Readable reports what in an answer cannot be read, without marking it: nil, or a refusal.Refusal.
func Readable(it Item, a Answer) error {
	_, err := Read(it.Fields(), a)
	return err
}
