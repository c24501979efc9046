package web_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/school"
	"cavix/school/rack"
	"cavix/store"
)

// keyboard is what a keyboard takes of a phone's screen, in px.
const keyboard = 320

// familySheet keeps a sheet of readings on one instrument of each family, and returns its number and its cards.
func familySheet(t *testing.T, s *store.DB) (id int64, families []instrument.Family) {
	t.Helper()
	room := school.New(s)
	maren, err := school.New(s).Roster.InstructorByLogin(t.Context(), "maren")
	require.NoError(t, err)
	sheet := rack.Sheet{Title: "Every family", Definition: exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing}}
	known := map[instrument.Family]bool{}
	for _, p := range instrument.Patterns() {
		if known[p.Family] || p.Family == instrument.GearTooth { // of which there is a kind of its own
			continue
		}
		known[p.Family] = true
		in, err := instrument.New(p)
		require.NoError(t, err)
		n, err := room.Rack.KeepInstrument(t.Context(), maren.ID, 0, in)
		require.NoError(t, err)
		sheet.Definition.Blocks = append(sheet.Definition.Blocks, exercise.Block{Kind: "read", Cards: 1,
			Instruments: []*instrument.Instrument{in}})
		sheet.Racked = append(sheet.Racked, []int64{n})
		families = append(families, p.Family)
	}
	id, err = room.Rack.KeepSheet(t.Context(), maren.ID, sheet)
	require.NoError(t, err)
	return id, families
}

// inSight says of an element how far it is out of sight between two levels of the window, and out of what it scrolls in
// sideways.
const inSight = `(e, high, low) => {
	if (!e || !e.checkVisibility()) return "is not shown";
	const r = e.getBoundingClientRect(), s = e.closest(".sight")?.getBoundingClientRect();
	if (r.top < high - 1 || r.bottom > low + 1) return "at " + Math.round(r.top) + " to " + Math.round(r.bottom)
	+ ", not between " + Math.round(high) + " and " + Math.round(low);
	if (s && (r.right < s.left + 4 || r.left > s.right - 4)) return "beside what is in sight";
	return "";
}`

// On a phone with its keyboard up the figure and the box that is filled in are in sight together, with what sends the
// card, for every kind and family.
func TestFigureAndBoxWithAKeyboard(t *testing.T) {
	if testing.Short() {
		t.Skip("opens a card of every kind and family on a phone")
	}
	t.Parallel()
	base, s := demoStore(t)
	sheet, families := familySheet(t, s)
	cards := append([]string{}, cardOfEveryKind...)
	for i := range families {
		cards = append(cards, fmt.Sprintf("/sheets/%d/try/1/%d", sheet, i+1))
	}
	b := openBrowser(t, base, 390, 844)
	_, err := chromedp.Call(b.ctx, emulation.SetTouchEmulationEnabled,
		emulation.SetTouchEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	b.signIn("maren")
	for _, card := range cards {
		b.do(chromedp.EmulateViewport(390, 844))
		b.open(card)
		b.wait("document.querySelector('.cardpage')._x_dataStack && document.querySelector('form.boxes')")
		boxes := eval[int](b, "document.querySelectorAll('.box:not(.order) .in input').length")
		b.do(chromedp.EmulateViewport(390, 844-keyboard))
		for i := range boxes {
			if i > 1 && i < boxes-1 { // the first, the second and the last
				continue
			}
			b.do(run(fmt.Sprintf("document.querySelectorAll('.box:not(.order) .in input')[%d].focus()", i)))
			b.still()
			bad := eval[[]string](b, `(() => { const seen = `+inSight+`,
				low = document.querySelector('.acts').getBoundingClientRect().top,
				box = document.activeElement.closest('.in'),
				figure = document.querySelector('.view.on .sight'),
				lens = document.querySelector('.view.on .lens');
				const views = document.querySelector('#views')?.getBoundingClientRect(), high = views
				? views.bottom : 0, out = [];
				const say = (name, why) => why && out.push(name + " " + why);
				say("box", seen(box, high, low));
				if (figure) say("figure", seen(figure, 0, high));
				if (lens) say("lens", seen(lens, 0, high));
				say("button", seen(document.querySelector('.acts .btn-primary'), 0, innerHeight));
				return out; })()`)
			assert.Empty(t, bad, "%s, box %d", card, i+1)
		}
	}
}

// After Check the cause has the focus and is in sight, with the first box that is wrong and the flag on the figure;
// what goes on is one Tab away. A refused entry has the focus and says why. So it is on a phone and on a screen no
// larger than a laptop in a school, for every family here, and for every kind in TestEveryKindByEveryHand.
func TestTheCauseIsWhatOneSees(t *testing.T) {
	if testing.Short() {
		t.Skip("checks a card of every family at two sizes")
	}
	t.Parallel()
	base, s := demoStore(t)
	sheet, families := familySheet(t, s)
	for _, size := range [][2]int64{{390, 844}, {1280, 657}} {
		t.Run(fmt.Sprint(size), func(t *testing.T) {
			t.Parallel()
			b := openBrowser(t, base, size[0], size[1])
			b.signIn("maren")
			for i := range families {
				card := fmt.Sprintf("/sheets/%d/try/1/%d", sheet, i+1)
				b.open(card)
				b.wait("document.querySelector('.cardpage')._x_dataStack && document.querySelector('form.boxes')")
				b.seesWhatIsRefused(card)
				b.do(run(`{ const f = document.querySelector('form.boxes');
					for (const i of f.querySelectorAll('.box input')) i.value = '1';
					f.requestSubmit() }`))
				b.seesTheCause(card)
			}
		})
	}
}

// seesWhatIsRefused sends what is no number in the last box of a card: it has the focus, and is in sight with what is
// said about it.
func (b *browser) seesWhatIsRefused(card string) {
	b.t.Helper()
	b.do(run("{ const i = [...document.querySelectorAll('.box:not(.order) .in input')].at(-1); i.value = 'abc'; " +
		"i.dispatchEvent(new Event('input', {bubbles: true})); i.form.requestSubmit() }"))
	b.wait("document.querySelector('[aria-invalid]') && document.readyState === 'complete'")
	b.still()
	bad := eval[string](b, `(() => { const seen = `+inSight+`, v = document.querySelector('#views'), sticky = v
		&& getComputedStyle(v).position === 'sticky';
		const high = sticky ? v.getBoundingClientRect().bottom : 0, f = document.querySelector('.box .fault');
		return (document.activeElement.hasAttribute('aria-invalid')
		? "" : "the box has not the focus ") + seen(document.activeElement, high, innerHeight) + seen(f, high,
		innerHeight); })()`)
	assert.Empty(b.t, bad, "refused, "+card)
}

// seesTheCause waits for a card that was checked, with something wrong.
func (b *browser) seesTheCause(card string) {
	b.t.Helper()
	b.wait("document.querySelector('.cause h2') && document.readyState === 'complete' && " +
		"document.querySelector('.cardpage')._x_dataStack")
	b.still()
	bad := eval[[]string](b, `(() => { const seen = `+inSight+`, v = document.querySelector('#views'), sticky = v
		&& getComputedStyle(v).position === 'sticky',
		acts = document.querySelector('.say .acts'), over = getComputedStyle(acts).position === 'sticky';
		const high = sticky ? v.getBoundingClientRect().bottom : 0, low = over
		? acts.getBoundingClientRect().top : innerHeight, out = [];
		const say = (name, why) => why && out.push(name + " " + why);
		const h = document.querySelector('.cause h2');
		if (document.activeElement !== h) out.push("the focus is on " + document.activeElement.outerHTML.slice(0, 60));
		say("cause", seen(h, high, low));
		const wrong = document.querySelector('.box:is(.wrong, .missing, .form, .carried)');
		if (wrong) say("box", seen(wrong.querySelector('.in, .options, ol, .btn-group') ?? wrong, high, low));
		const flags = [...document.querySelectorAll('.view:not([hidden]) .fig :is(.tag, .counted, .taken)')];
		if (flags.length && wrong && flags.every((f) => seen(f, 0, sticky
		? high : innerHeight))) out.push("flag " + seen(flags[0], 0, sticky ? high : innerHeight));
		const tab = [...document.querySelectorAll('a[href], button, input, summary')].find((e) => e.checkVisibility()
		&& h.compareDocumentPosition(e) & 4);
		if (!tab.matches('.acts .btn-primary, .acts .btn')) out.push("one Tab on is " + tab.outerHTML.slice(0, 60));
		return out; })()`)
	assert.Empty(b.t, bad, card)
}

// A student's first visit on a phone: from the code on the wall to the first answered card in few taps. What was typed
// stays where something is wrong, the passphrase too, and the field that is wrong has the focus.
func TestAFirstVisitOnAPhone(t *testing.T) {
	if testing.Short() {
		t.Skip("joins on a phone")
	}
	t.Parallel()
	b := openBrowser(t, demoSite(t), 390, 844)
	_, err := chromedp.Call(b.ctx, emulation.SetTouchEmulationEnabled,
		emulation.SetTouchEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	taps := 0
	tap := func(css string) {
		t.Helper()
		taps++
		b.tap(fmt.Sprintf("document.querySelector(%q)", css))
	}
	began := time.Now()
	b.open("/join?code=MILL47")
	b.wait("document.activeElement.name === 'name'")
	assert.Equal(t, "new-password", eval[string](b, "document.querySelector('[name=passphrase]').autocomplete"))
	b.keys("Wren A.")
	tap("[name=passphrase]")
	b.keys("a tide mill")
	tap(".stamp .btn-primary")
	b.waitText(".stamp .fault", "has this name already")
	assert.Equal(t, "passphrase a tide mill",
		eval[string](b, "document.activeElement.name + ' ' + document.querySelector('[name=passphrase]').value"))
	b.fill("[name=name]", "Wilkin O.")
	tap(".stamp .btn-primary")
	b.wait("location.pathname === '/my' && document.readyState === 'complete'")
	tap("main .btn-primary")
	b.wait("document.readyState === 'complete' && location.pathname !== '/my'")
	if !eval[bool](b, "!!document.querySelector('.cardpage')") {
		tap("main .btn-primary")
		b.wait("document.querySelector('.cardpage')?._x_dataStack")
	}
	b.wait("document.querySelector('form.boxes')")
	tap(".box input")
	for range eval[int](b, "document.querySelectorAll('.box .in input').length") {
		b.keys("1" + kb.Enter) // the key of the keypad, which goes on and at last sends
	}
	b.wait("document.querySelector('.cause h2')")
	assert.LessOrEqual(t, taps, 9)
	assert.Less(t, time.Since(began), time.Minute)

	// And so on to the end of the sheet, by the thumb and the keypad alone.
	cards := eval[int](b, "+document.querySelector('.cardhead small.mono').textContent.split('/')[1]")
	for card := 2; card <= cards; card++ {
		tap(".say .acts .btn-primary")
		b.wait("document.querySelector('form.boxes') && document.querySelector('.cardpage')?._x_dataStack && " +
			"!document.querySelector('.say h2')")
		tap(".box input")
		for range eval[int](b, "document.querySelectorAll('.box .in input').length") {
			b.keys("1" + kb.Enter)
		}
		b.wait("document.querySelector('.cause h2')")
	}
	assert.Equal(t, cards, eval[int](b,
		"[...document.querySelectorAll('.cardhead .rule [title]')].filter((e) => /marks/.test(e.title)).length"))
	assert.Greater(t, cards, 3)
}

// A check is undone by the button beside what goes on, where the sheet allows it, and the entries stand in their boxes
// again.
func TestUndoingACheck(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	wren := as(t, base, "Wren A.")
	_, _, page := wren.get("/my/3/1")
	assert.NotContains(t, page, "Undo check")
	set(t, s, "UPDATE assignments SET definition = json_set(definition, '$.undo', json('true')) WHERE id = 3")
	_, _, page = wren.get("/my/3/1")
	holds(t, page, "Undo check")
	_, _, page = wren.post("/my/3/1/undo", "")
	holdAll(t, page, "<button class=\"btn btn-primary\">Check", `name="main" value="`)
	assert.NotContains(t, page, "Undo check")
	_, _, page = wren.post("/my/3/1", fields(page).Encode()+"&do=anyway")
	holds(t, page, en("ui.card.half-marks-because-undid"))
	assert.NotContains(t, page, "Undo check")
	wren.post("/my/3/1/undo", "")
	_, _, page = wren.get("/my/3/1")
	holds(t, page, en("ui.card.half-marks-because-undid"), "only once")
}

// What one came for is in sight without scrolling on a phone, and large enough for a thumb; the Board is then its own
// remote.
func TestWhatOneCameForIsInSight(t *testing.T) {
	if testing.Short() {
		t.Skip("opens pages on a phone")
	}
	t.Parallel()
	base := demoSite(t)
	for who, pages := range map[string]map[string]string{
		"Wren A.": {"/my": "main .btn-primary", "/my/8": "main .btn-primary", "/practice": "main .btn-primary",
			"/my/surveys/1": "main .btn-primary", "/my/way": "main h2 ~ *", "/handbook": "main [type=search]"},
		"maren": {"/board/1": ".board footer > [value=next], .board footer > [value=ask], .board .equation",
			"/watch/3": ".watched aside, .watched .rules>li", "/desk": ".desk .running h2, .desk .rules tr",
			"/classes/1/people/1": "main h1, main section", "/ledger/2": ".ledger tbody tr"},
	} {
		b := openBrowser(t, base, 390, 844)
		b.signIn(who)
		for path, sought := range pages {
			b.open(path)
			b.wait("document.readyState === 'complete'")
			for _, css := range strings.Split(sought, ", ") {
				bad := eval[string](b, fmt.Sprintf(
					`((e) => !e ? "is missing" : e.getBoundingClientRect().top > innerHeight - 40
						? "is at " + e.getBoundingClientRect().top
					: e.matches("button, .btn") && (e.getBoundingClientRect().bottom > innerHeight
					|| e.getBoundingClientRect().height < 44)
					? "is cut or small" : "")(document.querySelector(%q))`, css))
				assert.Empty(t, bad, "%s: %s", path, css)
			}
			assert.LessOrEqual(t, eval[int](b, "document.documentElement.scrollWidth"), 390, path)
		}
		if who == "maren" {
			b.open("/board/1")
			b.wait("document.querySelector('.board')._x_dataStack")
			b.do(run("document.querySelector('.board footer > [value=next]').click()"))
			b.waitText(".equation .line b", "45")
		}
	}
}
