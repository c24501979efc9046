package exercise

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"

	"cavix/core/refusal"
	"cavix/core/schema"
)

// Kinds is a list of the kinds of exercise, in the order in which they are offered. Documents of version
// 1, which name no kind, are of the first.
type Kinds []Kind

// Find returns the kind of a name.
func (ks Kinds) Find(name string) (Kind, bool) {
	for _, k := range ks {
		if k.Name() == name {
			return k, true
		}
	}
	return nil, false
}

// slipsOf are the slips of lists of kinds that were asked for, by the place of the first kind: lists do not change.
var slipsOf sync.Map

// slips are those of all kinds, by their code. The caller does not change them.
func (ks Kinds) slips() map[Code]Slip {
	if len(ks) == 0 {
		return nil
	}
	list := struct {
		first *Kind
		n     int
	}{&ks[0], len(ks)}
	if known, ok := slipsOf.Load(list); ok {
		return known.(map[Code]Slip)
	}
	out := map[Code]Slip{}
	for _, k := range ks {
		for _, s := range k.Slips() {
			if _, known := out[s.Code]; !known {
				out[s.Code] = s
			}
		}
	}
	slipsOf.Store(list, out)
	return out
}

// names lists the kinds for a message.
func (ks Kinds) names() string {
	out := make([]string, len(ks))
	for i, k := range ks {
		out[i] = k.Name()
	}
	return strings.Join(out, ", ")
}

// itemFormat is the format of item documents, and version the newest that this program reads and writes.
const (
	itemFormat = "cavix/item"
	version    = 2
)

// envelope is an item document: what every kind has in common.
type envelope struct {
	Format  string          `json:"format"`
	Version int             `json:"version"`
	Kind    string          `json:"kind"`
	Body    json.RawMessage `json:"body"`
}

// Document writes an item as its document, version 2. Open reads it back to an equal item.
func Document(it Item) ([]byte, error) {
	body, err := json.Marshal(it)
	if err != nil {
		return nil, err
	}
	return json.Marshal(envelope{itemFormat, version, it.Kind(), body})
}

// open takes an item document apart: its kind, its body, and the path under which a field of the body
// stands in the document. A version that this program does not know is an error, since what a newer one
// means by a key could change a mark.
func (ks Kinds) open(data []byte) (kind Kind, body []byte, path string, err error) {
	if kind, body, ok := ks.openQuickly(data); ok {
		return kind, body, "body", nil
	}
	var top map[string]json.RawMessage
	if err := json.Unmarshal(data, &top); err != nil {
		return nil, nil, "", refusal.New("", "exercise.open", "err", err)
	}
	var e envelope
	_ = json.Unmarshal(top["format"], &e.Format) // what cannot be read stays empty, and is refused as that
	_ = json.Unmarshal(top["version"], &e.Version)
	switch {
	case e.Format != itemFormat:
		return nil, nil, "", refusal.New("format", "exercise.must-be-it-is", "item_format", itemFormat, "format",
			e.Format)
	case e.Version == 1 && len(ks) > 0:
		delete(top, "format")
		delete(top, "version")
		body, err = json.Marshal(top)
		return ks[0], body, "", err
	case e.Version != version:
		return nil, nil, "", refusal.New("version", "exercise.not-known-here-program", "version", version)
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&e); err != nil {
		return nil, nil, "", refusal.New("", "exercise.document-cannot-read", "err", err)
	}
	kind, known := ks.Find(e.Kind)
	if !known {
		return nil, nil, "", refusal.New("kind", "exercise.no-kind-exercise-known", "kind", e.Kind, "names", ks.names())
	}
	return kind, e.Body, "body", nil
}

// written is how a document begins that this program has written, up to the name of the kind.
var written = fmt.Appendf(nil, `{"format":%q,"version":%d,"kind":"`, itemFormat, version)

// openQuickly takes a document apart that is as this program writes it; whatever else there is to say of one, open
// says. That the body is one JSON value, DecodeBody sees.
func (ks Kinds) openQuickly(data []byte) (kind Kind, body []byte, ok bool) {
	rest, ok := bytes.CutPrefix(data, written)
	if !ok {
		return nil, nil, false
	}
	name, body, ok := bytes.Cut(rest, []byte(`","body":`))
	if !ok || !bytes.HasSuffix(body, []byte("}")) {
		return nil, nil, false
	}
	kind, ok = ks.Find(string(name))
	return kind, body[:len(body)-1], ok
}

// Open reads an item that was stored, of whatever version. It is strict about keys and versions, but
// what was asked once stays readable even where a newer rule would refuse to ask it.
func (ks Kinds) Open(data []byte) (Item, error) {
	kind, body, path, err := ks.open(data)
	if err != nil {
		return nil, err
	}
	it, err := kind.Decode(body)
	return it, refusal.Within(path, err)
}

// Parse reads an item document from outside. What does not fit its schema, or cannot be asked, comes back
// as a refusal.Refusal with the path of each field.
func (ks Kinds) Parse(data []byte) (Item, error) {
	if !json.Valid(data) {
		var any json.RawMessage
		return nil, schema.Decode("item", data, &any)
	}
	kind, body, path, err := ks.open(data)
	if err != nil {
		return nil, err
	}
	if path != "" {
		var e envelope
		if err := schema.Decode("item", data, &e); err != nil {
			return nil, err
		}
	}
	var checked json.RawMessage
	if err := schema.Decode("kinds/"+kind.Name(), body, &checked); err != nil {
		return nil, refusal.Within(path, err)
	}
	it, err := kind.Decode(body)
	if err == nil {
		err = it.Check()
	}
	if err != nil {
		return nil, refusal.Within(path, err)
	}
	return it, nil
}

// WithMethod returns an item document with another method: what is asked stays, how it is marked changes.
// It needs no kind, since every body has its method under the same key.
func WithMethod(document []byte, m Method) ([]byte, error) {
	var top map[string]json.RawMessage
	if err := json.Unmarshal(document, &top); err != nil {
		return nil, err
	}
	method, err := json.Marshal(m)
	if err != nil {
		return nil, err
	}
	body, whole := top, true
	if raw, ok := top["body"]; ok {
		body, whole = nil, false
		if err := json.Unmarshal(raw, &body); err != nil {
			return nil, err
		}
	}
	body["method"] = method
	if whole {
		return json.Marshal(top)
	}
	if top["body"], err = json.Marshal(body); err != nil {
		return nil, err
	}
	return json.Marshal(top)
}

// DecodeBody reads a stored body into the struct of a kind: an unknown key is an error.
func DecodeBody(body json.RawMessage, into any) error {
	dec := json.NewDecoder(bytes.NewReader(body))
	dec.DisallowUnknownFields()
	err := dec.Decode(into)
	if err == nil && len(bytes.TrimSpace(body[dec.InputOffset():])) > 0 {
		err = errors.New("something follows its end")
	}
	var bad refusal.Refusal
	switch {
	case errors.As(err, &bad): // only an instrument refuses while it is decoded
		return bad.Within("instrument")
	case err != nil:
		return fmt.Errorf("the item cannot be read: %w", err)
	}
	return nil
}

// Cards are the items of a stack of sheets, by the name that stands on each.
type Cards map[string]Item

// ParseCards reads a document of cards: format "cavix/cards", version 1, whose cards are item documents by
// name. Whatever cannot be asked comes back as a refusal.Refusal with the path of each field.
func (ks Kinds) ParseCards(data []byte) (Cards, error) {
	var d struct {
		Cards map[string]json.RawMessage `json:"cards"`
	}
	if err := schema.Decode("cards", data, &d); err != nil {
		return nil, err
	}
	out := make(Cards, len(d.Cards))
	var bad refusal.Refusal
	for _, name := range slices.Sorted(maps.Keys(d.Cards)) {
		it, err := ks.Parse(d.Cards[name])
		if err := bad.Take("cards."+name, err); err != nil {
			return nil, err
		}
		out[name] = it
	}
	if err := bad.Err(); err != nil {
		return nil, err
	}
	return out, nil
}

// MarshalJSON writes the cards as the document that ParseCards reads.
func (c Cards) MarshalJSON() ([]byte, error) {
	cards := make(map[string]json.RawMessage, len(c))
	var errs []error
	for name, it := range c {
		doc, err := Document(it)
		cards[name], errs = doc, append(errs, err)
	}
	if err := errors.Join(errs...); err != nil {
		return nil, err
	}
	return json.Marshal(map[string]any{"format": "cavix/cards", "version": 1, "cards": cards})
}
