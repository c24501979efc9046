// Package text holds what Cavix says as values: a Text is the key of an entry of the catalogues with the values that it
// is said with. A Printer, made of a reader's language and a class's words, prints it once, where it leaves the
// program.
package text

import (
	"errors"
	"fmt"
	"slices"
)

// Text is something to say: the key of an entry, as "slips.sum-slip.you", with its arguments, or else one argument as
// it is. The zero Text says nothing, and is false in a template.
type Text []Arg

// keyed is the value of the first Arg of a text that has a key: its name is the key.
type keyed struct{}

// Key is the key of the entry; "" if the text is its one argument.
func (t Text) Key() string {
	if len(t) > 0 {
		if _, is := t[0].Value.(keyed); is {
			return t[0].Name
		}
	}
	return ""
}

// Args are the arguments.
func (t Text) Args() []Arg {
	if t.Key() == "" {
		return t
	}
	return t[1:]
}

// Arg is a value that a text is said with. Its value is one of:
//
//	string   what a person typed or named: printed exactly as it is
//	Math     numbers, operators and units: printed with the reader's decimal sign
//	int      a count: it chooses between one and several
//	Term     a term of the trade: printed in the class's word
//	Text     another text
//
// New takes exact numbers of the core and errors too.
type Arg struct {
	Name  string
	Value any
}

// Math is a number, with its unit or a calculation, as the core writes it: with a point, and a hyphen or a minus.
type Math string

// Term names a thing of the trade, as "main scale". The catalogues have the words for it.
type Term string

// New returns the text of a key. Arguments come in pairs, as New("card.of", "n", 3, "total", 9): a name and its value.
// A value of another string type than those of Arg is a word of the program, printed as it is.
func New(key string, pairs ...any) Text {
	t := make(Text, 1, 1+len(pairs)/2)
	t[0] = Arg{key, keyed{}}
	for i := 0; i+1 < len(pairs); i += 2 {
		t = append(t, Arg{pairs[i].(string), value(pairs[i+1])})
	}
	return t
}

// value is an argument as it is kept: a number as Math, an error as what it says.
func value(v any) any {
	switch v := v.(type) {
	case exact:
		return Math(v.String())
	case error:
		return Says(v)
	}
	return v
}

// exact is an exact number of the core.
type exact interface {
	fmt.Stringer
	Sign() int
}

// Typed returns what a person typed or named as a text: it is printed exactly as it is.
func Typed(s string) Text {
	if s == "" {
		return nil
	}
	return Text{{Value: s}}
}

// Numbers returns a number or calculation as a text.
func Numbers(m Math) Text {
	if m == "" {
		return nil
	}
	return Text{{Value: m}}
}

// Word returns a term's word as a text.
func Word(t Term) Text { return Text{{Value: t}} }

// Keys of the texts that are lists of others.
const (
	keyAnd   = "list.and"
	keyOr    = "list.or"
	keyList  = "list.list"
	keySteps = "list.then"
	keyRow   = "list.row"
	keyRun   = "list.run"
	keyPlus  = "list.plus"
)

// And lists texts as "a, b and c".
func And(list ...Text) Text { return listed(keyAnd, list) }

// Or lists texts as "a, b or c".
func Or(list ...Text) Text { return listed(keyOr, list) }

// List lists texts as "a, b, c".
func List(list ...Text) Text { return listed(keyList, list) }

// Steps lists texts as "a; b; c".
func Steps(list ...Text) Text { return listed(keySteps, list) }

// Row puts texts beside each other, as "a · b · c".
func Row(list ...Text) Text { return listed(keyRow, list) }

// Plus adds texts up, as "a + b".
func Plus(list ...Text) Text { return listed(keyPlus, list) }

// Run lets sentences follow each other. It leaves out those that say nothing.
func Run(list ...Text) Text { return listed(keyRun, list) }

// Unrepeated returns the sentences of a list without those that were said before, in the list or in other texts.
func Unrepeated(list []Text, before ...Text) (out []Text) {
	said := sentences(before)
	for _, t := range list {
		var anew []Text
		for _, sentence := range sentences([]Text{t}) {
			if !slices.ContainsFunc(said, sentence.Equal) {
				said, anew = append(said, sentence), append(anew, sentence)
			}
		}
		if run := Run(anew...); !run.IsZero() {
			out = append(out, run)
		}
	}
	return out
}

// sentences are the texts of a list, with each run of sentences one by one.
func sentences(list []Text) (out []Text) {
	for _, t := range list {
		if t.Key() != keyRun {
			out = append(out, t)
			continue
		}
		for _, a := range t.Args() {
			if inner, is := a.Value.(Text); is {
				out = append(out, sentences([]Text{inner})...)
			}
		}
	}
	return out
}

func listed(key string, list []Text) Text {
	t := New(key)
	for _, item := range list {
		if !item.IsZero() {
			t = append(t, Arg{Value: item})
		}
	}
	switch len(t) {
	case 1:
		return nil
	case 2:
		return t[1].Value.(Text)
	}
	return t
}

// IsZero reports whether a text says nothing.
func (t Text) IsZero() bool { return len(t) == 0 }

// Equal reports whether two texts say the same.
func (t Text) Equal(u Text) bool {
	return slices.EqualFunc(t, u, func(a, b Arg) bool {
		x, nested := a.Value.(Text)
		y, other := b.Value.(Text)
		if nested && other {
			return a.Name == b.Name && x.Equal(y)
		}
		return !nested && !other && a == b
	})
}

// String writes a text for logs and tests: its key and arguments. It is in angle brackets, so that a page on which it
// was not printed is seen to be wrong.
func (t Text) String() string {
	if t.IsZero() {
		return ""
	}
	s := "⟦" + t.Key()
	for _, a := range t.Args() {
		s += fmt.Sprintf(" %s=%v", a.Name, a.Value)
	}
	return s + "⟧"
}

// Problem is an error that people are shown.
type Problem struct{ Text }

// Error returns an error that says the text of a key; see New.
func Error(key string, pairs ...any) error { return &Problem{New(key, pairs...)} }

// Error writes the key and arguments, for logs.
func (p *Problem) Error() string { return p.String() }

// Says returns what an error says: the text of a Problem, or else what it says as it is.
func Says(err error) Text {
	var p *Problem
	if errors.As(err, &p) {
		return p.Text
	}
	return Typed(err.Error())
}

// short is a term where there is little room.
type short Term

// ShortWord returns a term's short word as a text.
func ShortWord(t Term) Text { return Text{{Value: short(t)}} }
