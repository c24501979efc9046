package web_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/walk/walktest"
	"cavix/school"
	"cavix/school/rack"
)

// tree is a page as a screen reader has it: names and roles, in order.
type tree []*accessibility.Node

// heard returns the page as a screen reader has it.
func heard(b *browser) tree {
	b.t.Helper()
	all, err := chromedp.Call(b.ctx, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
	require.NoError(b.t, err)
	by := map[accessibility.NodeID]*accessibility.Node{}
	for _, n := range all.Nodes {
		by[n.NodeID] = n
	}
	var out tree
	var walk func(n *accessibility.Node)
	walk = func(n *accessibility.Node) {
		if !n.Ignored {
			out = append(out, n)
		}
		for _, id := range n.ChildIDs {
			if child := by[id]; child != nil {
				walk(child)
			}
		}
	}
	walk(all.Nodes[0])
	return out
}

func axText(v *accessibility.Value) string {
	if v == nil {
		return ""
	}
	return strings.Trim(string(v.Value), `"`)
}

// find returns the nodes of a role whose name has a text in it.
func (p tree) find(role, name string) (out tree) {
	for _, n := range p {
		if axText(n.Role) == role && strings.Contains(axText(n.Name), name) {
			out = append(out, n)
		}
	}
	return out
}

// focus brings the keys to a node.
func focus(b *browser, n *accessibility.Node) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, dom.Focus, dom.FocusParams{BackendNodeID: n.BackendDOMNodeID})
	require.NoError(b.t, err)
}

// scalesByKeys walks along every scale of the card by its slider, from one end to the other, and lists what is heard;
// of a scale that is one sentence, that sentence.
func scalesByKeys(b *browser) (out [][]string) {
	b.t.Helper()
	page := heard(b)
	inside := false
	for i, n := range page {
		switch role := axText(n.Role); {
		case role == "heading" && axText(n.Name) != "":
			inside = i+1 < len(page) && slices.ContainsFunc(n.Properties, func(p *accessibility.Property) bool {
				return p.Name == "level" && axText(p.Value) == "3" // of a scale; the card's own is higher
			})
		case role == "status" && inside:
			out = append(out, []string{strings.Join(texts(page[i+1:]), "")})
			inside = false
		case role == "slider" && inside && !strings.Contains(axText(n.Name), en("ui.parts.where-the-lens-looks")):
			focus(b, n)
			b.keys(kb.Home)
			var lines []string
			for range 300 {
				// the protocol's tree has the plain number of a slider; a screen reader is given its text
				says := eval[string](b, "document.activeElement.getAttribute('aria-valuetext')")
				if len(lines) > 0 && lines[len(lines)-1] == says {
					break
				}
				lines = append(lines, says)
				b.keys(kb.ArrowRight)
			}
			out = append(out, lines)
			inside = false
		}
	}
	return out
}

// texts are the texts from a place on, until another role begins.
func texts(page tree) (out []string) {
	for _, n := range page {
		if axText(n.Role) != "StaticText" {
			return out
		}
		out = append(out, axText(n.Name))
	}
	return out
}

// addReading adds a card to a sheet that asks for the reading of an instrument, which is put on the Rack.
func addReading(t *testing.T, room *school.School, owner int64, sheet *rack.Sheet, in *instrument.Instrument) {
	t.Helper()
	id, err := room.Rack.KeepInstrument(t.Context(), owner, 0, in)
	require.NoError(t, err)
	sheet.Definition.Blocks = append(sheet.Definition.Blocks, exercise.Block{Kind: "read", Cards: 1,
		Instruments: []*instrument.Instrument{in}, Settings: map[string]string{"ask": "observed", "zero": "none"}})
	sheet.Racked = append(sheet.Racked, []int64{id})
}

// Cards of every family are read by names and roles alone, with no pixel looked at: the figure is told in words, walked
// along by keys, and the reading is typed into the box that is named for it.
func TestEveryFamilyByScreenReader(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	room := school.New(s)
	maren, err := room.Roster.InstructorByLogin(t.Context(), "maren")
	require.NoError(t, err)
	sheet := rack.Sheet{Title: "By ear", Definition: exercise.Sheet{Dealer: exercise.Dealing}}
	var all []*instrument.Instrument
	seen := map[instrument.Family]int{}
	for _, p := range instrument.Patterns() {
		if seen[p.Family]++; p.Family == instrument.GearTooth || seen[p.Family] > 2 ||
			seen[p.Family] == 2 && len(all)%3 != 0 { // some families twice
			continue
		}
		in, err := instrument.New(p)
		require.NoError(t, err)
		all = append(all, in)
		addReading(t, room, maren.ID, &sheet, in)
	}
	id, err := room.Rack.KeepSheet(t.Context(), maren.ID, sheet)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(all), 20)

	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	for i, in := range all {
		b.open(fmt.Sprintf("/sheets/%d/try/1/%d", id, i+1))
		b.wait("document.querySelector('.cardpage')?._x_dataStack")
		buttons := heard(b).find("button", en("ui.card.in-words"))
		require.Len(t, buttons, 1, in.Name())
		focus(b, buttons[0])
		b.keys(kb.Enter)
		b.wait("document.querySelector('.spoken')?._x_dataStack")
		scales := scalesByKeys(b)
		read, ok := walktest.Observed(in, scales)
		require.True(t, ok, "%s: %q", in.Name(), scales)
		box := heard(b).find("textbox", "")
		require.Len(t, box, 1, in.Name())
		focus(b, box[0])
		b.keys(in.Format(read) + kb.Enter)
		b.wait("document.querySelector('.cause')")
		causes := heard(b).find("heading", "Right")
		assert.Len(t, causes, 1, "%s: %s, from %q", in.Name(), in.Format(read), scales)
	}
}

// tabBy presses Tab until the focus is on a node of a role whose name has a text in it.
func (b *browser) tabBy(role, name string) {
	b.t.Helper()
	for range 90 {
		b.keys(kb.Tab)
		for _, n := range heard(b).find(role, name) {
			for _, p := range n.Properties {
				if p.Name == "focused" && axText(p.Value) == "true" {
					return
				}
			}
		}
	}
	b.fail(fmt.Errorf("no %s %q within 90 Tabs", role, name))
}

// A whole test is taken by keys and by names and roles alone: begun, five cards read by ear and answered, one
// corrected, handed in, and its marks heard.
func TestATestByKeysAndByEar(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	room := school.New(s)
	maren, err := room.Roster.InstructorByLogin(t.Context(), "maren")
	require.NoError(t, err)
	sheet := rack.Sheet{Title: "By ear", Definition: exercise.Sheet{Dealer: exercise.Dealing,
		Delivery: exercise.Delivery{Mode: exercise.Test, Minutes: 45, Spoken: true}}}
	var all []*instrument.Instrument
	for _, name := range []string{"Caliper 0.05 mm, 20 over 39", "Micrometer 0.01 mm",
		"Dial caliper 0.02 mm, two zeros", "Dial indicator 0.01 mm", "Bevel protractor 5′"} {
		i := slices.IndexFunc(instrument.Patterns(), func(p instrument.Spec) bool { return p.Name == name })
		require.GreaterOrEqual(t, i, 0, name)
		in, err := instrument.New(instrument.Patterns()[i])
		require.NoError(t, err)
		all = append(all, in)
		addReading(t, room, maren.ID, &sheet, in)
	}
	id, err := room.Rack.KeepSheet(t.Context(), maren.ID, sheet)
	require.NoError(t, err)
	given, err := room.Sitting.Give(t.Context(), maren.ID, 1, id, 7, time.Now())
	require.NoError(t, err)

	b := openBrowser(t, base, 1280, 800)
	b.signIn("Wren A.")
	b.open("/my")
	b.tabBy("link", "By ear")
	b.keys(kb.Enter)
	b.wait(fmt.Sprintf("location.pathname === '/my/%d' && document.readyState === 'complete'", given))
	b.tabBy("button", en("student.new-sheet-page"))
	b.keys(kb.Enter)
	titles := map[string]bool{}
	for i, in := range all {
		b.wait(fmt.Sprintf("location.pathname === '/my/%d/%d' && document.querySelector('.cardpage')?._x_dataStack",
			given, i+1))
		titles[eval[string](b, "document.title")] = true
		b.tabBy("button", en("ui.card.in-words"))
		b.keys(kb.Enter)
		b.wait("document.querySelector('.spoken')?._x_dataStack && document.activeElement.matches('.spoken h3')")
		read, ok := walktest.Observed(in, scalesByKeys(b))
		require.True(t, ok, in.Name())
		b.tabBy("textbox", "")
		if i == 1 { // a slip of the keys, put right below
			read = read.Add(length.Int(1))
		}
		b.keys(in.Format(read))
		b.tabBy("button", en("ui.card.save-then-review")[:4])
		b.keys(kb.Enter)
	}
	assert.Len(t, titles, len(all), "a title of its own for every card")
	over := fmt.Sprintf("location.pathname === '/my/%d' && document.readyState === 'complete'", given)
	b.wait(over)
	b.tabBy("link", en("student.mysheet.card", "n", 2))
	b.keys(kb.Enter)
	b.wait("document.querySelector('.spoken')?._x_dataStack")
	read, ok := walktest.Observed(all[1], scalesByKeys(b))
	require.True(t, ok)
	b.tabBy("textbox", "")
	b.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(kb.ModifierCtrl)))
	b.keys(all[1].Format(read))
	b.tabBy("link", en("ui.card.hand-in"))
	b.keys(kb.Enter)
	b.wait(over)
	b.tabBy("button", en("student.mysheet.hand-it-in"))
	b.keys(kb.Enter)
	b.waitText(".mysheet .total", "5 of 5 marks")
	assert.Eventually(t, func() bool { return len(heard(b).find("cell", " right")) == len(all) }, time.Minute,
		100*time.Millisecond, "every card is heard to be right")
}

// Whether a figure may be told in words is for the sheet to say. What was told stands with the card for the instructor,
// and in practice it is always offered.
func TestFiguresInWordsAreForTheSheetToAllow(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	wren := as(t, base, "Wren A.")
	_, _, says := wren.get("/my/3/7")
	assert.NotContains(t, says, en("ui.card.in-words"))
	status, _, _ := wren.post("/my/3/7/hint", "do=speak")
	assert.Equal(t, http.StatusNotFound, status)

	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	b.open("/sheets/new")
	b.do(run(`document.querySelector('#taken').open = true`))
	b.fill("[name=title]", "By ear")
	b.click("[name=spoken]")
	b.waitText("#taken", en("author.composerview.figures-in-words"))
	b.do(run(`[...document.querySelectorAll('[name="blocks[0].instruments"]')].find((i) => !i.checked).click()`))
	b.click("button[value=keep]")
	b.waitText(".keepbar", "Saved")
	b.open("/classes/1")
	b.do(run(`{ const s = document.querySelector('form[action$="/give"] select');
		s.value = [...s.options].find((o) => o.textContent.includes('By ear')).value }`))
	b.click(`form[action$="/give"] button`)
	b.waitText(".alert", "The sheet is given")
	s := openBrowser(t, base, 1280, 800)
	s.signIn("Wren A.")
	s.waitText(".sheets", "By ear")
	s.do(run(`[...document.querySelectorAll('.sheets h3 a')].find((a) => a.textContent.includes('By ear')).click()`))
	s.waitText(".cardhead", "1 /")
	s.click("[value=speak]")
	s.wait("document.activeElement?.matches('.spoken h3')")
	sheet := strings.Split(eval[string](s, "location.pathname"), "/")[2] // /my/N/1
	maren := as(t, base, "maren")
	_, _, says = maren.get("/ledger/" + sheet + "/1/1")
	holds(t, says, en("class.ledger.spoken"))
	_, _, says = maren.get("/ledger/" + sheet + "/1/2")
	assert.NotContains(t, says, en("class.ledger.spoken"))
	s.open("/practice/next")
	s.waitText(".cardhead", en("student.practice.show-practice"))
	s.wait("!document.querySelector('.view') || document.querySelector('[value=speak]')")
}
