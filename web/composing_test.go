package web_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/kinds"
)

// clicker counts clicks, as an instructor would make them with a mouse.
type clicker struct {
	*browser
	clicks int
}

func (c *clicker) click(css string) {
	c.t.Helper()
	c.clicks++
	c.browser.click(css)
}

// A ready sheet on the instrument used last takes three clicks from the empty composer, one on another instrument two
// more.
func TestAReadySheetInThreeClicks(t *testing.T) {
	t.Parallel()
	c := &clicker{browser: openBrowser(t, demoSite(t), 1280, 800)}
	c.signIn("maren")
	c.open("/sheets/new")
	last := eval[string](c.browser, "document.querySelector('#with small').textContent")
	require.NotEmpty(t, last)
	c.click("#ready summary")
	c.click(`[value="ready.lines"]`)
	c.wait("document.querySelectorAll('.blockline').length === 1 && document.querySelector('[name=title]').value " +
		"=== 'Marks and lines'")
	c.click("[value=keep]")
	c.wait("/^.sheets.\\d+$/.test(location.pathname)")
	assert.LessOrEqual(t, c.clicks, 3)
	c.waitText("#state", "Saved")
	c.open("/sheets/new")
	assert.Contains(t, eval[string](c.browser, "document.querySelector('#with small').textContent"),
		eval[string](c.browser, "document.querySelector('#with "+
			"[name=with]').closest('label').querySelector('span').firstChild.textContent.trim()"),
		"what was used last comes first, and is chosen")
}

// Nine kinds of exercise on one choice of instruments take at most 25 clicks. Each kind takes what fits it, and every
// block has a preview.
func TestNineKindsInFewClicks(t *testing.T) {
	t.Parallel()
	c := &clicker{browser: openBrowser(t, demoSite(t), 1280, 800)}
	c.signIn("maren")
	c.open("/sheets/new")
	for i, kind := range []string{"zero", "least_count", "set", "choose", "decide", "repeat", "pick", "convert", "gear",
		"care"} {
		if _, known := kinds.All.Find(kind); !known {
			continue
		}
		c.click("#add summary")
		c.click(fmt.Sprintf(`[value="add.%s"]`, kind))
		c.wait(fmt.Sprintf("document.querySelectorAll('.blockline').length > %d", min(i, 9)))
	}
	blocks := eval[int](c.browser, "document.querySelectorAll('.blockline').length")
	c.fill("[name=title]", "All kinds")
	c.click("[value=keep]")
	c.wait("/^.sheets.\\d+$/.test(location.pathname)")
	t.Logf("%d blocks in %d clicks", blocks, c.clicks)
	assert.GreaterOrEqual(t, blocks, 9)
	assert.LessOrEqual(t, c.clicks, 25)
	c.wait(fmt.Sprintf("document.querySelectorAll('.cards article').length >= %d", blocks))
	gear := eval[string](c.browser,
		`document.querySelector('.blockline [value=gear]').closest('.blockline').querySelector('.what').textContent`)
	assert.Contains(t, gear, "gear vernier", "a gear tooth takes the gear-tooth vernier")
}

// Without an instrument that a kind can take, the block says what to build.
func TestAKindSaysWhatToBuild(t *testing.T) {
	long(t)
	t.Parallel()
	v := as(t, demoSite(t), "ivo")
	_, _, page := v.get("/sheets/new")
	form := fields(page)
	form.Set("do", "add.gear")
	_, _, says := v.post("/sheets/new", form.Encode())
	holds(t, says, en("fit.needs"))
	holds(t, says, "/workshop?family=gear-tooth")
}
