// Package schema holds the JSON Schemas of Cavix's documents and checks documents against them.
// A document that does not fit is refused with the path of every field at fault and the reason.
package schema

import (
	"bytes"
	"embed"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

//go:embed *.schema.json
var files embed.FS

// Fault is one field of a document or form that cannot stand.
type Fault struct {
	Field  string // its path, as "main.division"; "" for the document as a whole
	Reason string // what is wrong and what would be right
}

// Refusal is the error for input that is refused: it names every field at fault.
type Refusal []Fault

func (r Refusal) Error() string {
	lines := make([]string, len(r))
	for i, f := range r {
		lines[i] = f.Reason
		if f.Field != "" {
			lines[i] = f.Field + ": " + f.Reason
		}
	}
	return strings.Join(lines, "; ")
}

// Within returns the refusal with every field's path put behind prefix, as for a document inside another.
func (r Refusal) Within(prefix string) Refusal {
	out := make(Refusal, len(r))
	for i, f := range r {
		out[i] = Fault{strings.TrimSuffix(prefix+"."+f.Field, "."), f.Reason}
	}
	return out
}

var compiled = sync.OnceValue(func() map[string]*jsonschema.Schema {
	c := jsonschema.NewCompiler()
	names := []string{"instrument", "item", "answer", "cards"}
	for _, n := range names {
		b, err := files.ReadFile(n + ".schema.json")
		if err != nil {
			panic(err)
		}
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
		if err != nil {
			panic(err)
		}
		if err := c.AddResource("cavix:"+n, doc); err != nil {
			panic(err)
		}
	}
	out := make(map[string]*jsonschema.Schema)
	for _, n := range names {
		out[n] = c.MustCompile("cavix:" + n)
	}
	return out
})

// maxDocument bounds a document, in bytes.
const maxDocument = 64 << 20

// Decode checks the JSON document data against the schema of the given name ("instrument", "item",
// "answer" or "cards") and then decodes it into out. Whatever does not fit comes back as a Refusal.
func Decode(name string, data []byte, out any) error {
	if len(data) > maxDocument {
		return Refusal{{"", fmt.Sprintf("the document is longer than %d bytes", maxDocument)}}
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var doc any
	if err := dec.Decode(&doc); err != nil {
		return Refusal{{"", "the document is not JSON: " + err.Error()}}
	}
	if _, err := dec.Token(); err != io.EOF {
		return Refusal{{"", "the document is followed by something else; one JSON object is wanted"}}
	}
	if err := compiled()[name].Validate(doc); err != nil {
		ve, ok := err.(*jsonschema.ValidationError)
		if !ok {
			return Refusal{{"", err.Error()}}
		}
		return faults(ve, nil)
	}
	if err := json.Unmarshal(data, out); err != nil {
		return Refusal{{"", "the document cannot be read: " + err.Error()}}
	}
	return nil
}

// faults gathers the leaves of a validation error, in document order as the validator found them.
func faults(e *jsonschema.ValidationError, into Refusal) Refusal {
	if k, ok := e.ErrorKind.(*kind.PropertyNames); ok {
		return append(into, Fault{join(strings.Join(e.InstanceLocation, "."), k.Property), "is no name for a field here: " + faults(e.Causes[0], nil)[0].Reason})
	}
	if len(e.Causes) > 0 {
		if _, ok := e.ErrorKind.(*kind.OneOf); !ok {
			for _, c := range e.Causes {
				into = faults(c, into)
			}
			return into
		}
	}
	path := strings.Join(e.InstanceLocation, ".")
	switch k := e.ErrorKind.(type) {
	case *kind.AdditionalProperties:
		for _, p := range k.Properties {
			into = append(into, Fault{join(path, p), "is no field of this document"})
		}
	case *kind.Required:
		for _, p := range k.Missing {
			into = append(into, Fault{join(path, p), "is missing"})
		}
	case *kind.FalseSchema:
		into = append(into, Fault{path, "is no field of this kind of scale"})
	case *kind.Pattern:
		into = append(into, Fault{path, fmt.Sprintf(`%q is not a length; write it like "0.02", "1/128" or "1 3/16"`, k.Got)})
	case *kind.OneOf:
		into = append(into, Fault{join(path, "indicated"), "give either a position (indicated) or closed, not both and not neither"})
	default:
		into = append(into, Fault{path, e.ErrorKind.LocalizedString(message.NewPrinter(language.English))})
	}
	return into
}

func join(path, name string) string {
	if path == "" {
		return name
	}
	return path + "." + name
}
