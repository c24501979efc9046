package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"

	"cavix/core/text"
)

func load(t *testing.T, tag language.Tag, entries string) *text.Catalogue {
	t.Helper()
	c, err := text.Load(tag, fstest.MapFS{"a.txt": {Data: []byte(entries)}}, nil)
	require.NoError(t, err)
	return c
}

// Each thing that can be wrong between a program and its catalogue is found, and nothing else.
func TestUsesAgainstACatalogue(t *testing.T) {
	dir := t.TempDir()
	write := func(name, s string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(s), 0o600))
		return path
	}
	var u uses
	require.NoError(t, u.goFile(write("a.go", `package a
var (
	_ = text.New("a.right", "n", 1)
	_ = text.New("a.missing")
	_ = text.New("a.lacks")
	_ = text.New("a.more", "n", 1)
	_ = text.New("a sentence")
	_ = "b." + which
	_ = map[string]string{"x": "a.held"}
)
func f() { bad.Add("field", "must be %d", 1); bad.Add("field", "a.right", "n", 2); fmt.Sprintf("c.%d", n) }
`)))
	require.NoError(t, u.page(write("a.html",
		`{{define "page"}}{{t "a.page" "name" .Name}}{{if .X}}{{rich "a.none"}}{{end}}{{template "f" (text `+
			`"a.label")}}{{end}}`)))
	found := u.against(load(t, language.English, `
[a]
right: {$n}
lacks: {$n}
more: x
held: x
page: {$name} [link: x]
label: x
idle: x
[b]
one: x
[c]
1: x
`))
	for i, want := range []string{"a.page needs the argument [link]", "a.none is in no catalogue",
		"a.go:4:6: a.missing is in no", "a.go:5:6: a.lacks needs the argument n",
		"a.go:6:6: a.more has no place for the argument n", "a sentence is in no", "must be %d is in no",
		"nothing uses a.idle"} {
		assert.Contains(t, strings.Join(found, "\n"), want, i)
	}
	assert.Len(t, found, 8, strings.Join(found, "\n"))
}

func TestComparingLanguages(t *testing.T) {
	english, german := load(t, language.English, "[a]\nboth: {$n}\nother: {$n}\nlacking: x\n"),
		load(t, language.German, "[a]\nboth: {$n}!\nother: {$m}\nmore: x\n")
	found := strings.Join(compare(english, german, "de"), "\n")
	for _, want := range []string{"de: a.lacking is missing", "a.other has the arguments [m], English [n]",
		"English has no a.more"} {
		assert.Contains(t, found, want)
	}
	assert.NotContains(t, found, "a.both")
}

// The catalogues of the program are whole.
func TestTheCatalogues(t *testing.T) {
	found, err := check("../..")
	require.NoError(t, err)
	assert.Empty(t, found)
}
