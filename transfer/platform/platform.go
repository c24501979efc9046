// Package platform writes cards as a package for learning platforms, by the open question format QTI 2.2: one item for
// each box, with the figure as SVG and PNG, what is right with its tolerance, and a feedback for each known slip.
package platform

import (
	"archive/zip"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/figure"
	"cavix/transfer/paper"
)

// Sheet is the content of a package: cards, as they were dealt.
type Sheet struct {
	Title  string
	Number int // of the values, so that the same package comes out again
	Said   *text.Printer
	Items  []exercise.Item
}

// Packed says what of a sheet is in a package.
type Packed struct {
	Questions int
	Left      int // boxes that the format has no question for: scales to be set, steps to be ordered
}

// Write packs the sheet.
func (s Sheet) Write(to io.Writer) (Packed, error) {
	p := packer{Sheet: s, zip: zip.NewWriter(to)}
	for i, it := range s.Items {
		if err := p.card(i+1, it); err != nil {
			return p.packed, fmt.Errorf("card %d: %w", i+1, err)
		}
	}
	err := p.test()
	return p.packed, errors.Join(err, p.zip.Close())
}

// packer is a package while it is written.
type packer struct {
	Sheet
	zip       *zip.Writer
	packed    Packed
	resources []resource
	sections  []section
}

// file writes one file.
func (p *packer) file(name string, data []byte) error {
	w, err := p.zip.Create(name)
	if err == nil {
		_, err = w.Write(data)
	}
	return err
}

// document writes one XML file.
func (p *packer) document(name string, v any) error {
	b, err := xml.MarshalIndent(v, "", "  ")
	if err != nil {
		return err
	}
	return p.file(name, append([]byte(xml.Header), b...))
}

// card writes the pictures of a card, and a question for each of its boxes.
func (p *packer) card(n int, it exercise.Item) error {
	if !slices.ContainsFunc(it.Fields(), asked) {
		p.packed.Left += len(it.Fields())
		return nil
	}
	var scenes []*figure.Scene
	var captions []string
	if g := it.Facts().Gauges; g != nil {
		scenes, captions = append(scenes, figure.Gauges(g.Hole, g.Parts, figure.Options{Said: p.Said})),
			append(captions, "")
	}
	for i, f := range it.Figures() {
		sc, err := paper.Picture(f, n, p.Number, i, p.Said)
		if err != nil {
			return err
		}
		scenes, captions = append(scenes, sc), append(captions, p.Said.Print(f.Caption)+" ")
	}
	var pictures []picture
	var files []string
	for i, sc := range scenes {
		name := fmt.Sprintf("images/card%02d-%d", n, i+1)
		png, err := sc.PNG(1)
		if err != nil {
			return err
		}
		svg := sc.SVG("", "")
		if err := errors.Join(p.file(name+".svg", svg), p.file(name+".png", png)); err != nil {
			return err
		}
		files = append(files, name+".svg", name+".png")
		pictures = append(pictures, picture{Data: "../" + name + ".svg", Type: "image/svg+xml", Width: int(sc.Width),
			Height: int(sc.Height), Image: image{Source: "../" + name + ".png", Alt: captions[i] + sc.Label}})
	}
	marked, err := it.Mark(nil)
	if err != nil {
		return err
	}
	slips, err := it.Predictions()
	if err != nil {
		return err
	}
	s := section{Identifier: fmt.Sprintf("card%02d", n), Title: p.Said.Say("card.card", "n", n), Visible: true}
	for _, f := range it.Fields() {
		q := question{packer: p, item: it, field: f, right: marked.Field(f.Name).Expected, slips: slips}
		doc, ok := q.item22(n, pictures)
		if !ok {
			p.packed.Left++
			continue
		}
		name := fmt.Sprintf("items/%s.xml", doc.Identifier)
		if err := p.document(name, doc); err != nil {
			return err
		}
		p.packed.Questions++
		p.resources = append(p.resources, newResource(doc.Identifier, "imsqti_item_xmlv2p2", name, files))
		s.Items = append(s.Items, itemRef{doc.Identifier, name})
	}
	if len(s.Items) > 0 {
		p.sections = append(p.sections, s)
	}
	return nil
}

// test writes the test that holds the questions together, and the manifest.
func (p *packer) test() error {
	const name = "test.xml"
	if err := p.document(name, assessmentTest{Identifier: "test", Title: p.Title,
		Part: testPart{"part", "nonlinear", "individual", p.sections}}); err != nil {
		return err
	}
	all := append([]resource{newResource("test", "imsqti_test_xmlv2p2", name, nil)}, p.resources...)
	return p.document("imsmanifest.xml", manifest{Identifier: fmt.Sprintf("sheet-%d", p.Number),
		Metadata: metadata{"QTIv2.2 Package", "1.0.0"}, Resources: all})
}

// question is one box of a card.
type question struct {
	*packer
	item  exercise.Item
	field exercise.Field
	right string
	slips []exercise.Prediction
}

// say prints a text.
func (q question) say(t text.Text) string { return q.Said.Print(t) }

// asked reports whether the format has a question for what is put into a field.
func asked(f exercise.Field) bool { return f.Input != exercise.Position && f.Input != exercise.Order }

// item22 is the question as the format has it; ok is false where the format has none for such a box.
func (q question) item22(n int, pictures []picture) (doc assessmentItem, ok bool) {
	f := q.field
	if !asked(f) {
		return doc, false
	}
	id := fmt.Sprintf("card%02d-%s", n, strings.NewReplacer(".", "-", "_", "-").Replace(f.Name))
	doc = assessmentItem{Identifier: id, Title: fmt.Sprintf("%s · %d · %s", q.Title, n, q.say(f.Label)),
		Outcomes: []outcome{{"SCORE", "single", "float", &value{"0"}}, {"FEEDBACK", "single", "identifier", nil}}}
	add := func(p paragraph) { doc.Body.Paragraphs = append(doc.Body.Paragraphs, p) }
	facts := q.item.Facts()
	for _, says := range slices.Concat(facts.About, facts.Given, []text.Text{facts.Task, facts.Convention}) {
		if !says.IsZero() {
			add(paragraph{Text: q.say(says)})
		}
	}
	for i := range pictures {
		add(paragraph{Picture: &pictures[i]})
	}
	if f.Input == exercise.Options {
		q.choice(&doc)
	} else {
		q.entry(&doc)
	}
	doc.Modal = append(doc.Modal, modal{"FEEDBACK", "right", "show", q.Said.Say("card.right")})
	return doc, true
}

// choice asks for one of the options.
func (q question) choice(doc *assessmentItem) {
	doc.Response = response{"RESPONSE", "single", "identifier", correct{}}
	in := choiceInteraction{Response: "RESPONSE", Max: 1, Prompt: q.say(q.field.Term)}
	for i, o := range q.field.Options {
		id := fmt.Sprintf("option%d", i+1)
		if o == q.right {
			doc.Response.Correct.Value = id
		}
		in.Choices = append(in.Choices, simpleChoice{id, q.say(exercise.OptionText(q.field, i, o))})
	}
	doc.Body.Choice = &in
	doc.Processing.Condition.If = branch{Match: &match{Variable: variable{"RESPONSE"}, Correct: &variable{"RESPONSE"}},
		Sets: scored("right")}
}

// entry asks for a number: by its value within its tolerance where it has decimals, else by its text.
func (q question) entry(doc *assessmentItem) {
	line := paragraph{Text: q.say(q.field.Label) + " ", Entry: &textEntry{"RESPONSE", 14}}
	if !q.field.Form.Unit && q.field.Unit != "" {
		line.Unit = " " + q.field.Sign()
	}
	doc.Body.Paragraphs = append(doc.Body.Paragraphs, line)
	typed, err := length.ReadTyped(q.right)
	_, finite := typed.Value.Decimals()
	if err != nil || !finite || typed.Fraction || q.field.Form.Unit {
		doc.Response = response{"RESPONSE", "single", "string", correct{q.right}}
		doc.Processing.Condition.If = branch{Text: &match{Case: new(bool), Variable: variable{"RESPONSE"},
			Correct: &variable{"RESPONSE"}}, Sets: scored("right")}
		return
	}
	doc.Response = response{"RESPONSE", "single", "float", correct{decimal(typed.Value)}}
	near := decimal(q.tolerance(typed.Value))
	doc.Processing.Condition.If = branch{Equal: &equal{Mode: "absolute", Tolerance: near + " " + near,
		Variable: variable{"RESPONSE"}, Correct: &variable{"RESPONSE"}}, Sets: scored("right")}
	grain := decimal(q.grain())
	names, values := q.wrong(typed.Value)
	for _, v := range values {
		id := strings.Join(names[v], "-or-")
		doc.Processing.Condition.Else = append(doc.Processing.Condition.Else, branch{Equal: &equal{Mode: "absolute",
			Tolerance: grain + " " + grain, Variable: variable{"RESPONSE"}, Base: &base{"float", v}}, Sets: told(id)})
		if slices.ContainsFunc(doc.Modal, func(m modal) bool { return m.Identifier == id }) {
			continue
		}
		says := exercise.Code(names[v][0]).You()
		var others []text.Text
		for _, c := range names[v][1:] {
			others = append(others, exercise.Code(c).Name())
		}
		if others != nil {
			says = text.Run(says, text.New("account.others", "n", len(others), "slips", text.Steps(others...)))
		}
		doc.Modal = append(doc.Modal, modal{"FEEDBACK", id, "show", q.say(says)})
	}
}

// decimal writes a number as the format reads it.
func decimal(x length.Number) string {
	places, _ := x.Decimals()
	return x.Text(places)
}

// grain is a difference that says nothing: a tenth of the least that means something in the box, so that the way in
// which a platform keeps decimals does no harm.
func (q question) grain() length.Number {
	g := q.field.Grain
	if g.Sign() <= 0 {
		g = length.Int(1)
	}
	if g = g.Mul(length.Frac(1, 10)); !finite(g) {
		g = length.Frac(1, 100_000)
	}
	return g
}

func finite(x length.Number) bool {
	_, ok := x.Decimals()
	return ok
}

// tolerance returns the largest deviation of a right entry, as in marking.
func (q question) tolerance(right length.Number) length.Number {
	g := q.field.Grain
	near := q.grain()
	for n := 1; n < 20 && g.Sign() > 0; n++ {
		off := g.MulInt(n)
		r, err := q.item.Mark(exercise.Answer{q.field.Name: q.field.Write(right.Add(off))})
		below, err2 := q.item.Mark(exercise.Answer{q.field.Name: q.field.Write(right.Sub(off))})
		if err != nil || err2 != nil || r.Field(q.field.Name).Outcome != exercise.Right ||
			below.Field(q.field.Name).Outcome != exercise.Right {
			break
		}
		near = off.Add(q.grain())
	}
	if !finite(near) {
		return q.grain()
	}
	return near
}

// wrong are the values that slips give in the box, in the order of the table, each with the slips that give it.
func (q question) wrong(right length.Number) (names map[string][]string, values []string) {
	names = map[string][]string{}
	near := q.tolerance(right)
	for _, p := range q.slips {
		if p.Field != q.field.Name || p.Part == exercise.Anywhere || !finite(p.Value) ||
			p.Value.Sub(right).Abs().Cmp(near) <= 0 {
			continue
		}
		v := decimal(p.Value)
		if names[v] == nil {
			values = append(values, v)
		}
		if !slices.Contains(names[v], string(p.Code)) {
			names[v] = append(names[v], string(p.Code))
		}
	}
	return names, values
}
