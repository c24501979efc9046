package transfer

import (
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"cavix/core/names"
)

// Person is a row of a list of people.
type Person struct {
	Line         int    // where it stands in the list
	Name         string // what the class knows them by
	Group        string // within the class; "" for none
	ExtraMinutes int    // on top of whatever is timed
	Typed        string // the minutes, where they cannot be read
	Bad          string // what is wrong with the row; "" for nothing
}

// Bounds of a list of people.
const (
	MostPeople = 1000
	longName   = 60
	mostExtra  = 240
)

// peopleColumns are the columns of a list of people, with the words by which each is recognised.
var peopleColumns = map[string][]string{
	"name":          {"name", "student", "full name", "pupil"},
	"handle":        {"handle", "nickname", "known as", "login"},
	"group":         {"group", "team", "seat group"},
	"extra_minutes": {"extra_minutes", "extra minutes", "extra", "minutes"},
}

// ReadPeople reads a list of people: a table with a header row or without one, or plain names, one a line. Rows that cannot
// stand say why. It fails where the list as a whole cannot be read.
func ReadPeople(data []byte) ([]Person, error) {
	lines, err := ReadTable(data)
	if err != nil {
		return nil, err
	}
	var columns map[string]int
	var out []Person
	known := map[string]int{}
	width := len(unheaded)
	for _, l := range lines {
		if columns == nil {
			var header bool
			if columns, header = headerOf(l.Cells); header {
				width = len(l.Cells)
				continue
			}
		}
		p := person(l.N, l.Cells, columns)
		if err := l.within(width); err != nil && p.Bad == "" {
			p.Bad = fmt.Sprintf("has more than %d cells; put a name with a comma in quotes", width)
		}
		p.check(known)
		if out = append(out, p); len(out) > MostPeople {
			return nil, fmt.Errorf("has more than %d people; split it", MostPeople)
		}
	}
	return out, nil
}

// WritePeople writes a list of people as ReadPeople reads it.
func WritePeople(f Format, w io.Writer, list []Person) error {
	t, err := NewTable(f, w, "People", "name", "group", "extra_minutes")
	if err != nil {
		return err
	}
	for _, p := range list {
		var extra any = p.ExtraMinutes
		if p.Typed != "" {
			extra = p.Typed
		}
		if err := t.Row(p.Name, p.Group, extra); err != nil {
			return err
		}
	}
	return t.Close()
}

// unheaded are the columns of a list without a header row.
var unheaded = map[string]int{"name": 0, "group": 1, "extra_minutes": 2}

// headerOf recognises the columns of a header row; a row that is none is taken for name, group, extra minutes.
func headerOf(record []string) (columns map[string]int, header bool) {
	columns = map[string]int{}
	for i, cell := range record {
		for column, words := range peopleColumns {
			if slices.Contains(words, strings.ToLower(strings.TrimSpace(cell))) {
				columns[column], header = i, true
			}
		}
	}
	if !header {
		return unheaded, false
	}
	return columns, true
}

// person reads a row. The name is the handle where there is one: that is what the class sees.
func person(line int, record []string, columns map[string]int) Person {
	cell := func(column string) string {
		if i, there := columns[column]; there && i < len(record) {
			return unkept(record[i])
		}
		return ""
	}
	p := Person{Line: line, Name: cell("handle"), Group: cell("group")}
	if p.Name == "" {
		p.Name = cell("name")
	}
	p.Name = names.Tidy(p.Name)
	if text := cell("extra_minutes"); text != "" {
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 || n > mostExtra {
			p.Typed = clipped(text)
			p.Bad = fmt.Sprintf("extra minutes must be a whole number from 0 to %d; it is %q", mostExtra, p.Typed)
			return p
		}
		p.ExtraMinutes = n
	}
	return p
}

// check says what is wrong with a row besides.
func (p *Person) check(known map[string]int) {
	folded := names.Look(p.Name)
	switch first, twice := known[folded]; {
	case p.Bad != "":
	case p.Name == "":
		p.Bad = "has no name"
	case names.Check(p.Name) != "":
		p.Bad = "the name cannot be kept. " + names.Check(p.Name)
	case p.Group != "" && names.CheckTitle(p.Group) != "":
		p.Bad = "the group cannot be kept. " + names.CheckTitle(p.Group)
	case twice:
		p.Bad = fmt.Sprintf("has the same name as line %d, or one that looks like it; add an initial", first)
	}
	if p.Bad == "" {
		known[folded] = p.Line
	}
}

// clipped cuts what is far too long to be shown.
func clipped(s string) string { return cut(s, 20) }

// cut cuts a text to so many characters.
func cut(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}
