package main

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// layers are the folders of the project from the top down. A package imports packages of lower layers only, and a
// package of its own layer where that lies inside its folder.
var layers = []string{
	"cmd/cavix cmd/load cmd/texts",
	"web demo",
	"web/account web/admin web/author web/board web/class web/handbook web/student web/survey",
	"web/bench",
	"web/ui",
	"ops",
	"school",
	"school/server",
	"school/bin school/ledgers school/merging",
	"school/marking school/rounds school/studies",
	"school/sitting",
	"school/rack",
	"school/roster",
	"school/access school/hub",
	"store/storetest",
	"store",
	"transfer",
	"transfer/platform",
	"transfer/paper",
	"plot",
	"figure",
	"figure/fonts",
	"locale core/",
}

// reaches are the outside packages that only some folders may import, directly.
var reaches = map[string]string{
	"database/sql":            "store",
	"zombiezen.com/go/sqlite": "store",
	"html/template":           "web",
	"net/http":                "web ops cmd",
	"cavix/store":             "cmd demo ops school store/storetest",
}

func layerOf(pkg string) int {
	return slices.IndexFunc(layers, func(l string) bool {
		return slices.ContainsFunc(strings.Fields(l), func(f string) bool {
			return pkg == f ||
				strings.HasSuffix(f, "/") && strings.HasPrefix(pkg, f)
		})
	})
}

// The folders' imports run one way, and only the store knows the database, only the web pages.
func TestArrows(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "cavix/...").Output()
	require.NoError(t, err)
	checked := 0
	for line := range strings.Lines(string(out)) {
		words := strings.Fields(line)
		from := strings.TrimPrefix(words[0], "cavix/")
		if from == "web/static" || strings.HasSuffix(from, "test") {
			continue
		}
		at := layerOf(from)
		if !assert.GreaterOrEqual(t, at, 0, "%s has no layer", from) {
			continue
		}
		for _, imported := range words[1:] {
			checked++
			if may, ruled := reaches[imported]; ruled {
				assert.True(t, slices.ContainsFunc(strings.Fields(may), func(f string) bool {
					return from == f ||
						strings.HasPrefix(from, f+"/")
				}), "%s must not import %s", from, imported)
			}
			to, ours := strings.CutPrefix(imported, "cavix/")
			if !ours || to == "web/static" || layerOf(from) == len(layers)-1 && layerOf(to) == at {
				continue
			}
			assert.Greater(t, layerOf(to), at, "%s must not import %s", from, to)
		}
	}
	assert.Greater(t, checked, 500)
}

// coreLayers are packages of the core that know nothing of others there.
var coreLayers = map[string][]string{
	"exercise":   {"kinds"},
	"slips":      {"kinds"},
	"instrument": {"exercise", "slips", "kinds"},
	"length":     {"instrument", "exercise", "schema"},
	"refusal":    {"length", "schema", "instrument"},
	"words":      {"instrument", "length", "exercise"},
}

func TestArrowsOfTheCore(t *testing.T) {
	for pkg, never := range coreLayers {
		out, err := exec.Command("go", "list", "-f", `{{join .Deps " "}}`, "cavix/core/"+pkg).Output()
		require.NoError(t, err)
		for _, dep := range strings.Fields(string(out)) {
			core, ours := strings.CutPrefix(dep, "cavix/core/")
			assert.False(t, ours && slices.Contains(never, core), "core/%s must not depend on %s", pkg, dep)
		}
	}
}

// Inside a subject of school the arrows run one way too: use cases call rows, and no row calls a use case.
func TestRowsCallNoUseCases(t *testing.T) {
	rows, err := filepath.Glob("../../school/*/*_rows.go")
	require.NoError(t, err)
	assert.Greater(t, len(rows), 15)
	for _, name := range rows {
		above := map[string]bool{} // functions of the same package that stand in no file of rows
		others, err := filepath.Glob(filepath.Dir(name) + "/*.go")
		require.NoError(t, err)
		for _, other := range others {
			if strings.HasSuffix(other, "_rows.go") || strings.HasSuffix(other, "_test.go") {
				continue
			}
			for _, d := range parsed(t, other).Decls {
				if f, ok := d.(*ast.FuncDecl); ok && f.Recv == nil {
					above[f.Name.Name] = true
				}
			}
		}
		ast.Inspect(parsed(t, name), func(n ast.Node) bool {
			if call, ok := n.(*ast.CallExpr); ok {
				if f, ok := call.Fun.(*ast.Ident); ok {
					assert.False(t, above[f.Name], "%s calls %s", name, f.Name)
				}
			}
			return true
		})
	}
}

func parsed(t *testing.T, file string) *ast.File {
	t.Helper()
	f, err := parser.ParseFile(token.NewFileSet(), file, nil, 0)
	require.NoError(t, err)
	return f
}
