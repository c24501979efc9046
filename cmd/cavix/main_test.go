package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const caliper = `{"format":"cavix/instrument","version":1,"name":"Twentieth","family":"vernier-caliper","unit":"mm",
	"main":{"division":"1","from":"0","to":"150"},"fine":{"kind":"vernier","divisions":20,"spans":39},
	"zero_error":"-0.15"}`

// file writes a document into the test's folder.
func file(t *testing.T, name, content string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(content), 0o644))
	return path
}

// call runs one command line.
func call(t *testing.T, args ...string) (code int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	code = run(args, &o, &e)
	return code, o.String(), e.String()
}

func TestRead(t *testing.T) {
	in := file(t, "caliper.json", caliper)
	code, out, errs := call(t, "read", "--instrument", in, "--indicated", "31.40")
	require.Zero(t, code, errs)
	assert.JSONEq(
		t,
		`{"least_count":"0.05","unit":"mm","decimals":2,"indicated":"31.40","base":"0","main":"31","fine_line":8,
		"fine":"0.40","finer_line":null,"finer":null,"observed":"31.40","zero_error":"-0.15","zero_correction":"0.15",
		"corrected":"31.55"}`,
		out,
	)
	_, out, _ = call(t, "read", "--instrument", in, "--size", "31.55")
	assert.Contains(t, out, `"observed":"31.40"`)
	_, out, _ = call(t, "read", "--instrument", in, "--closed")
	assert.Contains(t, out, `"main":"-1","fine_line":17,"fine":"0.85"`)
	_, out, _ = call(t, "read", "--instrument", in, "--indicated=-0.04")
	assert.Contains(t, out, `"observed":"-0.05"`)
}

func TestMark(t *testing.T) {
	item := file(t, "item.json", `{"format":"cavix/item","version":1,"instrument":`+caliper+`,"indicated":"31.40",
		"ask":["main","fine_line","observed","zero_error","corrected"],"marks":{"corrected":2}}`)
	answer := file(t, "answer.json",
		`{"main":"31","fine_line":"8","observed":"31,40","zero_error":"−0.15","corrected":"31.25"}`)
	code, out, errs := call(t, "mark", "--item", item, "--answer", answer)
	require.Zero(t, code, errs)
	var r struct {
		Marks, Of string
		Slips     []string
	}
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	assert.Equal(t, "4 of 6 zero-sign-flipped", r.Marks+" of "+r.Of+" "+r.Slips[0])

	code, out, errs = call(t, "mark", "--item", item, "--answer", file(t, "bad.json", `{"main":"thirty"}`))
	assert.Equal(t, 2, code)
	assert.Empty(t, out)
	assert.Contains(t, errs, "main: contains no number")
}

func TestBatchAndSimulate(t *testing.T) {
	stack := file(
		t,
		"cards.json",
		`{"format":"cavix/cards","version":1,"cards":{"1":{"format":"cavix/item","version":1,"instrument":`+caliper+`,
			"indicated":"31.40","ask":["observed"]}}}`,
	)
	good, bad := file(t, "good.csv", "student,card,observed\nA,1,31.40\n"),
		file(t, "bad.csv", "student,card,observed\nA,1,31.40\nB,1,x\nC,7,1\n")
	out := filepath.Join(t.TempDir(), "marked.csv")
	code, said, errs := call(t, "mark", "--batch", stack, "--answers", good, "--out", out)
	require.Zero(t, code, errs)
	assert.Equal(t, "1 of 1 rows marked\n", said)
	code, _, errs = call(t, "mark", "--batch", stack, "--answers", bad, "--out", out)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "line 3: observed: contains no number")
	assert.Contains(t, errs, "line 4: card: there is no card")
	marked, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Contains(t, string(marked), "A,1,1,1,")
	code, _, _ = call(t, "mark", "--batch", stack)
	assert.Equal(t, 2, code)
	// Answers are never written over, by whatever name they are reached.
	link := filepath.Join(t.TempDir(), "link.csv")
	require.NoError(t, os.Symlink(good, link))
	for _, over := range []string{good, filepath.Join(filepath.Dir(good), ".", "good.csv"), link, stack} {
		code, _, errs = call(t, "mark", "--batch", stack, "--answers", good, "--out", over)
		assert.Equal(t, 2, code, over)
		assert.Contains(t, errs, "which is read", over)
	}
	answers, err := os.ReadFile(good)
	require.NoError(t, err)
	assert.Equal(t, "student,card,observed\nA,1,31.40\n", string(answers))
	code, _, errs = call(t, "mark", "--batch", stack, "--answers",
		file(t, "wide.csv", "student,card,observed\nA,1,31,40\n"), "--out", out)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "line 2: ")

	in := file(t, "caliper.json", caliper)
	code, said, errs = call(t, "simulate", "--instrument", in, "--rounds", "2", "--cards", "4")
	require.Zero(t, code, errs)
	assert.Contains(t, said, "zero-sign-flipped")
	code, _, errs = call(t, "simulate", "--instrument", in, "--ask", "colour")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "ask: ")
}

func TestFigure(t *testing.T) {
	in, out := file(t, "caliper.json", caliper), filepath.Join(t.TempDir(), "f.svg")
	code, _, errs := call(t, "figure", "--instrument", in, "--closed", "--lens", "8", "--out", out)
	require.Zero(t, code, errs)
	svg, err := os.ReadFile(out)
	require.NoError(t, err)
	for _, ending := range []string{".pdf", ".png"} {
		other := strings.TrimSuffix(out, ".svg") + ending
		code, _, errs = call(t, "figure", "--instrument", in, "--closed", "--lens", "8", "--out", other)
		require.Zero(t, code, errs)
		b, err := os.ReadFile(other)
		require.NoError(t, err)
		assert.Contains(t, string(b[:8]), strings.ToUpper(ending[1:]))
	}
	assert.Equal(t, 2*21, bytes.Count(svg, []byte(`class="fine-mark"`)), "in the figure and in the lens")
}

func TestWrongUseSaysWhatWouldBeRight(t *testing.T) {
	in := file(t, "caliper.json", caliper)
	impossible := file(t, "none.json", strings.Replace(caliper, "39", "37", 1))
	empty, prose := file(t, "empty.db", ""), file(t, "prose.db", strings.Repeat("This is no database. ", 400))
	for _, tt := range []struct {
		code int
		args string
		says string
	}{
		{2, "read --instrument " + in, "one of --indicated"},
		{2, "read --instrument " + in + " --indicated 5 --closed", "one of --indicated"},
		{2, "read --instrument " + in + " --indicated five", "--indicated: "},
		{2, "read --instrument " + in + " --indicated 151", "off the scale"},
		{2, "read --instrument " + in + " --closed --between often", "--between"},
		{2, "read --instrument " + impossible + " --closed", "fine.spans: 20 lines over 37"},
		{2, "read --instrument /nowhere.json --closed", "no such file"},
		{2, "figure --instrument " + in + " --closed --out f.txt", ".svg, .pdf or .png"},
		{2, "read more --instrument " + in + " --closed", "no arguments"},
		{2, "weigh", "unknown command"},
		{2, "read --colour red", "unknown flag"},
		{2, "export --class MILL47", "--to is missing"},
		{2, "export --data /nowhere.db --class MILL47 --to f.cavix", "there is no file"},
		{2, "import --as maren --from /nowhere.cavix", "--from"},
		{2, "import --as maren --from " + impossible, "fine.spans"},
		{2, "gauge --to nowhere", "must be an address"},
		{2, "gauge --to http://x/gauge/y --count 0", "--count"},
		{2, "gauge --to http://x/gauge/y --spread wide", "--spread"},
		{1, "serve --data /nowhere/at/all.db --addr 127.0.0.1:0 --new", "/nowhere/at/all.db"},
		{2, "serve --data /nowhere/at/all.db --addr 127.0.0.1:0", "add --new"},
		{2, "serve --data " + empty + " --addr 127.0.0.1:0", "is empty"},
		{1, "serve --data " + prose + " --addr 127.0.0.1:0", "no database"},
		{2, "serve --keep-copies -1", "--keep-copies"},
		{2, "demo --keep " + empty, "is there already"},
		{2, "backup --data school.db", "--to is missing"},
		{2, "backup --data /nowhere.db --to /tmp/x.db", "there is no such file"},
		{1, "backup --data " + prose + " --to /tmp/x.db", "no database"},
		{2, "restore --from /nowhere.db --data x.db", "there is no such file"},
		{2, "restore --from " + empty + " --data x.db", "is empty"},
		{2, "check", "--data is missing"},
		{2, "link --data /nowhere.db --login maren", "there is no file"},
		{2, "link --login maren", "--data is missing"},
		{2, "check --data " + empty, "is empty"},
		{1, "check --data " + prose, "no database"},
	} {
		code, _, errs := call(t, strings.Fields(tt.args)...)
		assert.Equal(t, tt.code, code, tt.args)
		assert.Contains(t, errs, tt.says, tt.args)
		assert.Equal(t, 1, strings.Count(errs, "\n"), "one clear line: %q", errs)
	}
	for _, c := range []string{"serve", "demo", "read", "mark", "simulate", "figure", "export", "import", "survey",
		"gauge", "backup", "restore", "check", "link"} {
		code, out, _ := call(t, c, "--help")
		assert.Zero(t, code)
		assert.Contains(t, out, "Examples:")
	}
	_, out, _ := call(t, "--version")
	assert.Contains(t, out, version)
}
