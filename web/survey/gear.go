package survey

import (
	"html/template"
	"net/http"
	"strconv"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/figure"
	"cavix/school/studies"
	"cavix/web/ui"
)

// setupForm holds, as typed, what is worked out and set before the teeth of a gear are measured.
type setupForm struct{ Addendum, Upright string }

// setupView asks for it.
type setupView struct {
	setupForm
	Card  ui.CardView
	Given []text.Text
	Unit  string
}

// answer is the answer to the card: what the upright scale was set to becomes the movement that leads there. What
// cannot be read stays as it is, and is refused by its field.
func (f setupForm) answer(s studies.Survey, student int64) exercise.Answer {
	a := exercise.Answer{}
	it := s.SetupCard(student)
	for _, field := range it.Fields() {
		if field.Input != exercise.Position {
			a[field.Name] = f.Addendum
			continue
		}
		a[field.Name] = f.Upright
		typed, err := length.ReadTyped(f.Upright)
		if err != nil {
			continue
		}
		for _, fig := range it.Figures() {
			if n, ok := fig.MovesTo(typed.Value); ok && fig.Name == field.Figure {
				a[field.Name] = strconv.Itoa(n)
			}
		}
	}
	return a
}

// gear asks what is to be worked out and set, or says what came of it.
func (h StudentHandler) gear(r *http.Request, sv studies.Survey, v *readView) error {
	me := ui.UserOf(r).ID
	a, result, err := h.School.Studies.Setup(r.Context(), sv, me)
	if err != nil {
		return err
	}
	it := sv.SetupCard(me)
	if result == nil {
		if !v.Runs {
			return nil
		}
		if v.Setup == nil {
			v.Setup = &setupView{}
		}
		v.Setup.Given, v.Setup.Unit = it.Facts().Given, string(sv.Plan.Instrument(0).Unit())
		return v.Setup.Card.Fill(ui.CardState{Said: ui.Said(r), Item: it})
	}
	e, err := it.Explain(a, exercise.Wording{})
	if err != nil {
		return err
	}
	v.Set = text.New("survey.gear.gear", "marks", result.Marks, "of", result.Of, "headline", e.Headline)
	if len(e.Work) > 0 { // what follows is of a tooth, which is still to be read
		v.Set = text.Run(v.Set, text.New("card.worked", "left", e.Work[0].Left, "right", e.Work[0].Right))
	}
	return nil
}

// teeth draws the gear with the tooth that is measured now.
func teeth(say *text.Printer, p survey.Plan, cell int) template.HTML {
	c := p.Cell(cell)
	measured := make([]int, len(p.Parts))
	for i := range p.Parts {
		measured[i] = p.Tooth(i)
	}
	return ui.Drawing(figure.Teeth(p.Gear.Teeth, measured, measured[c.Part], c.Place+1, p.Places,
		figure.Options{Said: say}), "teeth", "fig")
}
