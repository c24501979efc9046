// Command texts checks the catalogues: that every key that is used has an entry and every entry is used, that calls
// give the arguments that their text needs, and that all languages have the same keys and arguments.
package main

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"text/template/parse"

	"cavix/core/text"
	"cavix/locale"
)

func main() {
	found, err := check(".")
	if err != nil {
		fmt.Fprintln(os.Stderr, "texts:", err)
		os.Exit(2)
	}
	for _, f := range found {
		fmt.Println(f)
	}
	if len(found) > 0 {
		os.Exit(1)
	}
}

// use is a place where a key is used.
type use struct {
	at, key string
	args    []string
	known   bool // args are those of a call
}

// uses gathers where keys are used.
type uses struct {
	list     []use
	prefixes []string // of keys that are put together
}

// check returns what is wrong with the catalogues and their use below a folder, a line each.
func check(root string) ([]string, error) {
	var u uses
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && (d.Name() == "node_modules" || d.Name() == "vendor" || strings.HasPrefix(d.Name(), ".") &&
			path != root):
			return fs.SkipDir
		case strings.HasSuffix(path, ".go") && !strings.HasSuffix(path, "_test.go"):
			return u.goFile(path)
		case strings.HasSuffix(path, ".html"):
			return u.page(path)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	english := locale.Of("en")
	found := u.against(english)
	for _, tag := range locale.Languages[1:] {
		found = append(found, compare(english, locale.Of(tag.String()), tag.String())...)
	}
	return found, nil
}

// key matches a key of the catalogues.
var key = regexp.MustCompile(`^[a-z][a-z0-9_-]*(\.[A-Za-z0-9_-]+)+$`)

// opening matches the beginning of a key that is put together.
var opening = regexp.MustCompile(`^[a-z][a-z0-9_-]*\.([A-Za-z0-9_.-]*[.-])?$`)

func (u *uses) goFile(path string) error {
	files := token.NewFileSet()
	f, err := parser.ParseFile(files, path, nil, 0)
	if err != nil {
		return err
	}
	inCall := map[*ast.BasicLit]bool{}
	ast.Inspect(f, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.CallExpr:
			if at := keyOf(n); at >= 0 {
				lit := n.Args[at].(*ast.BasicLit)
				inCall[lit] = true
				args, known := pairs(n.Args[at+1:], n.Ellipsis.IsValid())
				u.list = append(u.list, use{files.Position(n.Pos()).String(), str(lit), args, known})
			}
		case *ast.BasicLit:
			if s := str(n); !inCall[n] && s != "" {
				if key.MatchString(s) {
					u.list = append(u.list, use{at: "", key: s})
				}
				if put, _, formats := strings.Cut(s, "%d"); opening.MatchString(put) && (formats || put == s) {
					u.prefixes = append(u.prefixes, put)
				}
			}
		}
		return true
	})
	return nil
}

// keyOf finds the argument of a call that is a key: the first of text.New and Say, the second of refusals.
func keyOf(c *ast.CallExpr) int {
	sel, is := c.Fun.(*ast.SelectorExpr)
	if !is {
		return -1
	}
	at := -1
	pkg, _ := sel.X.(*ast.Ident)
	switch {
	case pkg != nil && pkg.Name == "text" && sel.Sel.Name == "New", sel.Sel.Name == "Say":
		at = 0
	case pkg != nil && pkg.Name == "refusal" && sel.Sel.Name == "New", sel.Sel.Name == "Add" && len(c.Args) >= 2:
		at = 1
	}
	if at < 0 || at >= len(c.Args) {
		return -1
	}
	lit, is := c.Args[at].(*ast.BasicLit)
	// a sentence is no key, and is found to be none
	if !is || !key.MatchString(str(lit)) && !(strings.Contains(str(lit), "%") || sel.Sel.Name == "New" &&
		strings.Contains(str(lit), " ")) {
		return -1
	}
	return at
}

// pairs lists the names of arguments; known is false if they are not all in the call.
func pairs(args []ast.Expr, more bool) (names []string, known bool) {
	if more {
		return nil, false
	}
	for i := 0; i < len(args); i += 2 {
		lit, is := args[i].(*ast.BasicLit)
		if !is {
			return nil, false
		}
		names = append(names, str(lit))
	}
	return names, true
}

func str(l *ast.BasicLit) string {
	if l.Kind != token.STRING {
		return ""
	}
	s, err := strconv.Unquote(l.Value)
	if err != nil {
		return ""
	}
	return s
}

// page gathers what a page says.
func (u *uses) page(path string) error {
	body, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	t := parse.New(path)
	t.Mode = parse.SkipFuncCheck
	trees := map[string]*parse.Tree{}
	if _, err := t.Parse(string(body), "", "", trees); err != nil {
		return err
	}
	for _, tree := range trees {
		u.node(path, tree, tree.Root)
	}
	return nil
}

func (u *uses) node(path string, tree *parse.Tree, n parse.Node) {
	branch := func(b parse.BranchNode) {
		u.node(path, tree, b.Pipe)
		u.node(path, tree, b.List)
		u.node(path, tree, b.ElseList)
	}
	switch n := n.(type) {
	case *parse.ListNode:
		if n != nil {
			for _, c := range n.Nodes {
				u.node(path, tree, c)
			}
		}
	case *parse.ActionNode:
		u.node(path, tree, n.Pipe)
	case *parse.IfNode:
		branch(n.BranchNode)
	case *parse.RangeNode:
		branch(n.BranchNode)
	case *parse.WithNode:
		branch(n.BranchNode)
	case *parse.TemplateNode:
		u.node(path, tree, n.Pipe)
	case *parse.PipeNode:
		if n != nil {
			for _, c := range n.Cmds {
				u.command(path, tree, c)
			}
		}
	}
}

func (u *uses) command(path string, tree *parse.Tree, c *parse.CommandNode) {
	for _, a := range c.Args {
		u.node(path, tree, a)
	}
	at, _ := tree.ErrorContext(c)
	if id, is := c.Args[0].(*parse.IdentifierNode); is && slices.Contains([]string{"t", "rich", "text"}, id.Ident) &&
		len(c.Args) > 1 {
		if s, is := c.Args[1].(*parse.StringNode); is {
			one := use{at: at, key: s.Text, known: true}
			for i := 2; i < len(c.Args); i += 2 {
				if name, is := c.Args[i].(*parse.StringNode); is {
					one.args = append(one.args, name.Text)
				} else {
					one.known = false
				}
			}
			u.list = append(u.list, one)
			return
		}
	}
	for _, a := range c.Args {
		if s, is := a.(*parse.StringNode); is {
			if key.MatchString(s.Text) {
				u.list = append(u.list, use{key: s.Text})
			}
			if put, _, _ := strings.Cut(s.Text, "%s"); opening.MatchString(put) {
				u.prefixes = append(u.prefixes, put)
			}
		}
	}
}

// against holds what is used against a catalogue.
func (u *uses) against(c *text.Catalogue) []string {
	var found []string
	used := map[string]bool{}
	for _, one := range u.list {
		switch {
		case c.Has(one.key):
			used[one.key] = true
		case one.at != "":
			found = append(found, fmt.Sprintf("%s: %s is in no catalogue", one.at, one.key))
			continue
		default:
			continue
		}
		if !one.known {
			continue
		}
		wants := c.Arguments(one.key)
		for _, name := range wants {
			if !slices.Contains(one.args, name) && !slices.Contains(one.args, strings.Trim(name, "[]")) {
				found = append(found, fmt.Sprintf("%s: %s needs the argument %s (%s)", one.at, one.key, name,
					c.At(one.key)))
			}
		}
		for _, name := range one.args {
			if !slices.Contains(wants, name) && !slices.Contains(wants, "["+name+"]") {
				found = append(found, fmt.Sprintf("%s: %s has no place for the argument %s (%s)", one.at, one.key, name,
					c.At(one.key)))
			}
		}
	}
	for _, k := range c.Keys() {
		if !used[k] && !strings.HasPrefix(k, "list.") &&
			!slices.ContainsFunc(u.prefixes, func(p string) bool { return strings.HasPrefix(k, p) }) {
			found = append(found, fmt.Sprintf("%s: nothing uses %s", c.At(k), k))
		}
	}
	slices.Sort(found)
	return slices.Compact(found)
}

// compare holds a translation against the English catalogue.
func compare(english, other *text.Catalogue, name string) []string {
	var found []string
	for _, k := range english.Keys() {
		switch {
		case !other.Has(k):
			found = append(found, fmt.Sprintf("%s: %s is missing (English at %s)", name, k, english.At(k)))
		case !slices.Equal(english.Arguments(k), other.Arguments(k)):
			found = append(found, fmt.Sprintf("%s: %s: %s has the arguments %v, English %v", name, other.At(k), k,
				other.Arguments(k), english.Arguments(k)))
		}
	}
	for _, k := range other.Keys() {
		if !english.Has(k) {
			found = append(found, fmt.Sprintf("%s: %s: English has no %s", name, other.At(k), k))
		}
	}
	return found
}
