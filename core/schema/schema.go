// Package schema holds the JSON Schemas of Cavix's documents and checks documents against them.
// A document that does not fit is refused with the path of every field at fault and the reason.
package schema

import (
	"bytes"
	"embed"
	"encoding/json"
	"io"
	"io/fs"
	"strconv"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

//go:embed *.schema.json kinds/*.schema.json
var files embed.FS

// lengthFormat holds the lengths of documents to the bounds of length.Parse.
var lengthFormat = &jsonschema.Format{Name: "cavix-length", Validate: func(v any) error {
	text, ok := v.(string)
	if !ok {
		return nil
	}
	_, err := length.Parse(text)
	if new(length.Number).UnmarshalText([]byte(text)) != nil {
		return nil // no number at all, which the pattern says
	}
	return err
}}

// compiled holds every schema by its name: "instrument", "item", and of a kind of exercise "kinds/set".
var compiled = sync.OnceValues(func() (map[string]*jsonschema.Schema, error) {
	c := jsonschema.NewCompiler()
	c.RegisterFormat(lengthFormat)
	c.AssertFormat()
	var names []string
	err := fs.WalkDir(files, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := files.ReadFile(path)
		if err != nil {
			return err
		}
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
		if err != nil {
			return text.Error("document.compiled", "path", path, "err", err)
		}
		name := strings.TrimSuffix(path, ".schema.json")
		names = append(names, name)
		return c.AddResource("cavix:"+name, doc)
	})
	if err != nil {
		return nil, err
	}
	out := make(map[string]*jsonschema.Schema, len(names))
	for _, n := range names {
		if out[n], err = c.Compile("cavix:" + n); err != nil {
			return nil, err
		}
	}
	return out, nil
})

// Bounds of a document, and of a number written in it: counts have a few digits, and a number such as
// 1e999999 would be costly to read.
const (
	maxDocument = 64 << 20 // bytes
	maxDepth    = 32       // of lists and objects within each other; the deepest document has 9
	maxNumber   = 18       // characters
)

// Decode checks the JSON document data against the schema of the given name ("instrument", "item",
// "answer", "cards", or "kinds/" and the name of a kind) and then decodes it into out. Whatever does not
// fit comes back as a refusal.Refusal.
func Decode(name string, data []byte, out any) error {
	if len(data) > maxDocument {
		return refusal.New("", "document.decode", "max_document", maxDocument)
	}
	if depth(data) > maxDepth {
		return refusal.New("", "document.document-nested-more-than", "max_depth", maxDepth)
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var doc any
	if err := dec.Decode(&doc); err != nil {
		return refusal.New("", "document.document-not-json", "err", err)
	}
	if _, err := dec.Token(); err != io.EOF {
		return refusal.New("", "document.document-followed-by-something")
	}
	if bad := longNumbers("", doc, nil); bad != nil {
		return bad
	}
	schemas, err := compiled()
	if err != nil {
		return err
	}
	s, ok := schemas[name]
	if !ok {
		return text.Error("document.no-schema", "name", name)
	}
	if err := s.Validate(doc); err != nil {
		ve, ok := err.(*jsonschema.ValidationError)
		if !ok {
			return refusal.Because("", err)
		}
		return faults(ve, nil)
	}
	if err := json.Unmarshal(data, out); err != nil {
		return refusal.New("", "document.document-cannot-read", "err", err)
	}
	return nil
}

// depth returns the depth of lists and objects within each other in a JSON text, well formed or not. It is looked at
// before the text is parsed, which costs more the deeper it is.
func depth(data []byte) (deepest int) {
	now, quoted := 0, false
	for i := 0; i < len(data); i++ {
		switch c := data[i]; {
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '[' || c == '{':
			now++
			deepest = max(deepest, now)
		case c == ']' || c == '}':
			now--
		}
	}
	return deepest
}

// alternatives are the sets of fields of which a document of a schema has just one.
func alternatives(url string) (out [][]string) {
	name, _, _ := strings.Cut(strings.TrimPrefix(url, "cavix:"), "#")
	schemas, err := compiled()
	if err != nil || schemas[name] == nil {
		return [][]string{{""}}
	}
	for _, one := range schemas[name].OneOf {
		out = append(out, one.Required)
	}
	return out
}

// written lists sets of fields: "steps with before, or statements with right".
func written(sets [][]string) string {
	names := make([]string, len(sets))
	for i, s := range sets {
		names[i] = strings.Join(s, " with ")
	}
	return strings.Join(names, ", or ")
}

// longNumbers names every number of a document that is written too long.
func longNumbers(path string, v any, bad refusal.Refusal) refusal.Refusal {
	switch v := v.(type) {
	case json.Number:
		if len(v) > maxNumber || strings.ContainsAny(string(v), "eE") {
			bad.Add(path, "document.long-numbers", "max_number", maxNumber)
		}
	case map[string]any:
		for k, x := range v {
			bad = longNumbers(join(path, k), x, bad)
		}
	case []any:
		for i, x := range v {
			bad = longNumbers(join(path, strconv.Itoa(i)), x, bad)
		}
	}
	return bad
}

// faults gathers the leaves of a validation error, in document order as the validator found them.
func faults(e *jsonschema.ValidationError, into refusal.Refusal) refusal.Refusal {
	if k, ok := e.ErrorKind.(*kind.PropertyNames); ok {
		return append(into, refusal.Fault{Field: join(strings.Join(e.InstanceLocation, "."), k.Property),
			Reason: text.New("document.faults.name", "why", faults(e.Causes[0], nil)[0].Reason)})
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
			into = append(into, refusal.Fault{Field: join(path, p), Reason: text.New("document.faults.reason")})
		}
	case *kind.Required:
		for _, p := range k.Missing {
			into = append(into, refusal.Fault{Field: join(path, p), Reason: text.New("document.faults.missing")})
		}
	case *kind.FalseSchema:
		into = append(into, refusal.Fault{Field: path, Reason: text.New("document.faults.no-field-kind-scale")})
	case *kind.Format:
		into = append(into, refusal.Fault{Field: path, Reason: text.Says(k.Err)})
	case *kind.Pattern:
		into = append(into, refusal.Fault{Field: path,
			Reason: text.New("document.faults.not-length-write-like", "got", k.Got)})
	case *kind.OneOf:
		either := alternatives(e.SchemaURL)
		into = append(into, refusal.Fault{Field: join(path, either[0][0]),
			Reason: text.New("document.faults.give-just-one-these", "written", text.Math(written(either)))})
	default:
		into = append(into, refusal.Fault{Field: path,
			Reason: text.Typed(e.ErrorKind.LocalizedString(message.NewPrinter(language.English)))})
	}
	return into
}

func join(path, name string) string {
	if path == "" {
		return name
	}
	return path + "." + name
}
