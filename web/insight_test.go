package web_test

import (
	"encoding/json"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
)

// After checking, the cause and the way on are in sight without scrolling: of every kind every
// family, with its finer scales and second ones, with a wrong entry in every box. CAVIX_INSIGHT names a folder for pictures.
func TestTheCauseIsInSightForEveryFamily(t *testing.T) {
	if testing.Short() {
		t.Skip("needs Chromium; left out with -short")
	}
	t.Parallel()
	base := demoSite(t)
	una := as(t, base, "una")
	type racked struct {
		*instrument.Instrument
		id string
	}
	var rack []racked
	for _, spec := range instrument.Patterns() {
		in, err := instrument.New(spec)
		require.NoError(t, err)
		document, err := json.Marshal(in)
		require.NoError(t, err)
		_, at, _ := una.post("/rack/import", url.Values{"document": {string(document)}}.Encode())
		id := regexp.MustCompile(`\d+$`).FindString(at)
		require.NotEmpty(t, id, at)
		rack = append(rack, racked{in, id})
	}
	b := openBrowser(t, base, 1280, 800)
	b.signIn("una")
	for _, kind := range kinds.All {
		form := url.Values{"title": {"Every family"}, "do": {"keep"}, "blocks[0].kind": {kind.Name()}}
		type build struct {
			family        instrument.Family
			pair, vernier bool
		}
		shown := map[build]bool{}
		var names []string
		for _, in := range rack {
			spec := in.Spec()
			one := exercise.Sheet{Blocks: []exercise.Block{{Kind: kind.Name(), Cards: 1,
				Instruments: []*instrument.Instrument{in.Instrument}}}}
			b := build{spec.Family, spec.Second != nil, spec.Finer.Divisions > 0}
			if one.Check(kinds.All) == nil && !shown[b] {
				form.Add("blocks[0].instruments", in.id)
				names, shown[b] = append(names, in.Name()), true
			}
		}
		if names == nil { // several to choose from
			for _, in := range rack[:3] {
				form.Add("blocks[0].instruments", in.id)
				names = append(names, "several")
			}
		}
		form.Set("blocks[0].cards", fmt.Sprint(len(names)))
		_, sheet, _ := una.post("/sheets/new", form.Encode())
		require.Regexp(t, `/sheets/\d+$`, sheet, kind.Name())
		for i := range names {
			b.open(fmt.Sprintf("%s/try/1/%d", sheet, i+1))
			name := kind.Name() + ": " + eval[string](
				b,
				"document.querySelector('.matbar').textContent.trim().replace(/\\s+/g, ' ')",
			)
			b.do(run(`{ for (const f of document.querySelectorAll('form.boxes input:not([type=hidden])')) {
				if (f.type === 'radio') f.click(); else f.value = '7';
				if (f.name === 'order') f.value = [...document.querySelectorAll('.facts em')].map((_, i) => i + 1).join(' ') }
				document.querySelector('form.boxes').requestSubmit(document.querySelector('.acts .btn-primary')) }`))
			b.wait("document.querySelector('.say h2, [value=anyway]')")
			if eval[bool](b, "!!document.querySelector('[value=anyway]')") {
				b.click("[value=anyway]")
				b.wait("document.querySelector('.say h2')")
			}
			for _, css := range []string{".say h2", ".acts a.btn-primary"} {
				assert.LessOrEqual(
					t,
					eval[float64](b, fmt.Sprintf("document.querySelector(%q).getBoundingClientRect().bottom", css)),
					800.0,
					"%s of %s",
					css,
					name,
				)
			}
			if dir := os.Getenv("CAVIX_INSIGHT"); dir != "" {
				b.shoot(filepath.Join(dir, fmt.Sprintf("%s-%d.png", kind.Name(), i+1)))
			}
		}
	}
}
