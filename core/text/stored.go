package text

import (
	"encoding/json"
	"fmt"
)

// stored is the form in which a text is kept: its key, and its arguments with their kinds.
type stored struct {
	Key  string      `json:"key,omitempty"`
	Args []storedArg `json:"args,omitempty"`
}

type storedArg struct {
	Name  string  `json:"name,omitempty"`
	Kind  string  `json:"kind,omitempty"` // "" is what a person typed
	Value string  `json:"value,omitempty"`
	Count int     `json:"count,omitempty"`
	Text  *stored `json:"text,omitempty"`
}

// Stored writes a text to be kept, so that it can be printed later in any language; "" says nothing.
func Stored(t Text) string {
	if t.IsZero() {
		return ""
	}
	b, err := json.Marshal(t.stored())
	if err != nil { // it holds nothing that could not be written
		return ""
	}
	return string(b)
}

func (t Text) stored() *stored {
	out := &stored{Key: t.Key()}
	for _, a := range t.Args() {
		s := storedArg{Name: a.Name}
		switch v := a.Value.(type) {
		case Text:
			s.Kind, s.Text = "text", v.stored()
		case int:
			s.Kind, s.Count = "count", v
		case Math:
			s.Kind, s.Value = "math", string(v)
		case Term:
			s.Kind, s.Value = "term", string(v)
		case short:
			s.Kind, s.Value = "short", string(v)
		default:
			s.Value = fmt.Sprint(v)
		}
		out.Args = append(out.Args, s)
	}
	return out
}

// ReadStored reads what Stored wrote. What was kept before texts were values is English, and shown as it is.
func ReadStored(s string) Text {
	var in stored
	if err := json.Unmarshal([]byte(s), &in); err != nil {
		return Typed(s)
	}
	return in.text()
}

func (s *stored) text() Text {
	var t Text
	if s.Key != "" {
		t = New(s.Key)
	}
	for _, a := range s.Args {
		var v any = a.Value
		switch a.Kind {
		case "text":
			if a.Text == nil {
				continue
			}
			v = a.Text.text()
		case "count":
			v = a.Count
		case "math":
			v = Math(a.Value)
		case "term":
			v = Term(a.Value)
		case "short":
			v = short(a.Value)
		}
		t = append(t, Arg{a.Name, v})
	}
	return t
}
