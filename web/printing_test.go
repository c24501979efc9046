package web_test

import (
	"fmt"
	"regexp"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is printed of a page has no controls and no dark ground, nothing in it scrolls, the heads of its tables are
// repeated, and a wide table lies across the paper, also that of a term of 32 sheets. A browser shrinks what it prints
// to a half at most.
func TestPagesPrintWhole(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("prints six pages")
	}
	const across, along = 1032, 703 // px of a landscape and a portrait A4 page within its margins
	base, s := demoStore(t)
	for i := range 24 {
		set(t, s, fmt.Sprintf(`INSERT INTO assignments (class, title, definition, seed, given)
			SELECT class, 'Sheet %d of a long term', definition, seed, given FROM assignments WHERE id = 2`, i))
	}
	b := openBrowser(t, base, across, 800)
	b.signIn("maren")
	for path, width := range map[string]int{
		"/classes/1/ledger": across, "/ledger/2": across, "/wrong/2": across, "/classes/1/wrong": across,
		"/classes/1/people": along, "/surveys/2": along,
	} {
		t.Run(path, func(t *testing.T) {
			b.open(path)
			b.do(run(inTheDark))
			pdf, err := chromedp.Run(b.ctx, chromedp.PrintToPDF(chromedp.PDFPreferCSSPageSize(),
				chromedp.PDFPaper(chromedp.PaperA4)))
			require.NoError(t, err)
			pages := regexp.MustCompile(`/MediaBox \[0 0 (\d+)`).FindAllSubmatch(pdf, -1)
			require.NotEmpty(t, pages)
			for _, page := range pages {
				assert.Equal(t, map[int]string{across: "841", along: "595"}[width], string(page[1]),
					"width of a page in points")
			}

			media(b, "print")
			defer media(b, "")
			assert.Empty(t, eval[[]string](b,
				`[...document.querySelectorAll("button, .btn, input, select, textarea, nav")]
				.filter(e => e.checkVisibility()).map(e => e.outerHTML.slice(0, 90))`), "controls that are printed")
			assert.Empty(t, eval[[]string](b, `[...document.querySelectorAll("main *")]
				.filter(e => e.checkVisibility()
				&& /auto|scroll|hidden/.test(getComputedStyle(e).overflowX + getComputedStyle(e).overflowY))
				.filter(e => e.scrollWidth > e.clientWidth + 1
				|| e.scrollHeight > e.clientHeight + 1).map(e => e.className)`), "parts that are cut")
			assert.NotZero(t, eval[int](b, `[...document.querySelectorAll("thead")]
				.filter(e => e.checkVisibility()
				&& getComputedStyle(e).display === "table-header-group").length`), "heads of tables")
			assert.LessOrEqual(t, eval[int](b, "document.documentElement.scrollWidth"), 2*width,
				"width before it is shrunk")
			assert.Equal(t, "rgb(28, 40, 48)",
				eval[string](b, "getComputedStyle(document.querySelector('main h1')).color"), "ink on paper")
		})
	}
}

// media shows the pages as for paper, or as for the screen where nothing is named.
func media(b *browser, name string) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: name})
	require.NoError(b.t, err)
}
