package transfer

import (
	"encoding/csv"
	"io"
	"slices"
	"strconv"
	"strings"

	"cavix/core/names"
	"cavix/core/text"
)

// Person is a row of a list of people.
type Person struct {
	Line         int       // where it stands in the list
	Name         string    // what the class knows them by
	Group        string    // within the class; "" for none
	ExtraMinutes int       // on top of whatever is timed
	Number       string    // the school's own number or address; "" for none
	Typed        string    // the minutes, where they cannot be read
	Bad          text.Text // what is wrong with the row; nothing if it can stand
}

// Bounds of a list of people.
const (
	MostPeople = 1000
	longName   = 60
	longNumber = 80
	mostExtra  = 240
)

// Column is the content of a column in a list of people.
type Column string

// The columns. A name is the handle where there is one, since that is what the class sees; else the full name, or the
// first name and the surname.
const (
	ColumnIgnored   Column = ""
	ColumnName      Column = "name"
	ColumnFirstName Column = "first_name"
	ColumnSurname   Column = "surname"
	ColumnHandle    Column = "handle"
	ColumnGroup     Column = "group"
	ColumnExtra     Column = "extra_minutes"
	ColumnNumber    Column = "number"
)

// ColumnKind is a possible content of a column, with the words by which it is recognised.
type ColumnKind struct {
	Column
	Title text.Text
	words []string
}

// Columns lists the possible contents of a column.
var Columns = []ColumnKind{
	{ColumnName, text.New("column.full-name"), []string{"name", "student", "full name", "pupil"}},
	{ColumnFirstName, text.New("column.first-name"), []string{"first name", "first", "given name", "forename",
		"first_name"}},
	{ColumnSurname, text.New("column.surname"), []string{"surname", "last name", "family name", "last", "last_name"}},
	{ColumnHandle, text.New("column.handle"), []string{"handle", "nickname", "known as", "login"}},
	{ColumnGroup, text.New("column.group"), []string{"group", "team", "crew", "section", "seat group"}},
	{ColumnExtra, text.New("column.extra-minutes"), []string{"extra_minutes", "extra minutes", "extra", "minutes"}},
	{ColumnNumber, text.New("column.number-or-e-mail"), []string{"number", "no", "no.", "nr", "student no",
		"student number", "id", "student id", "e-mail", "email", "mail"}},
}

// PeopleTable is a list of people before it is said what each column holds.
type PeopleTable struct {
	Head []string // of the columns; nil where the list has none
	all  []Line
	rows []Line // without the heads
}

// ReadPeopleTable reads a list of people: a table with a header row or without one, or plain names, one a line. It
// fails where the list as a whole cannot be read.
func ReadPeopleTable(data []byte) (t PeopleTable, err error) {
	if t.all, err = ReadTable(data); err != nil {
		return t, err
	}
	if len(t.all) > MostPeople+1 {
		return t, text.Error("people.read-people-table", "most_people", MostPeople)
	}
	return t.Headed(len(t.all) > 0 &&
		slices.ContainsFunc(t.all[0].Cells, func(c string) bool { return recognised(c) != ColumnIgnored })), nil
}

// Headed returns the list with its first row as the heads of the columns, or as a person.
func (t PeopleTable) Headed(head bool) PeopleTable {
	t.Head, t.rows = nil, t.all
	if head && len(t.all) > 0 {
		t.Head, t.rows = t.all[0].Cells, t.all[1:]
	}
	return t
}

// CSV writes the list as a table, whatever it was read from.
func (t PeopleTable) CSV() string {
	var b strings.Builder
	w := csv.NewWriter(&b)
	for _, l := range t.all {
		if err := w.Write(l.Cells); err != nil {
			break // a builder takes everything
		}
	}
	w.Flush()
	return b.String()
}

// recognised returns the content of a column by its head.
func recognised(head string) Column {
	for _, c := range Columns {
		if slices.Contains(c.words, headKey(head)) {
			return c.Column
		}
	}
	return ColumnIgnored
}

func headKey(head string) string { return strings.ToLower(strings.TrimSpace(head)) }

// Width returns the number of columns of the list.
func (t PeopleTable) Width() int {
	if t.Head != nil {
		return len(t.Head)
	}
	width := 0
	for _, l := range t.rows {
		width = max(width, len(l.Cells))
	}
	return width
}

// Sample returns the first entries of a column, up to three.
func (t PeopleTable) Sample(column int) (out []string) {
	for _, l := range t.rows {
		if column < len(l.Cells) && l.Cells[column] != "" && len(out) < 3 {
			out = append(out, l.Cells[column])
		}
	}
	return out
}

// unheaded are the columns of a list without a header row.
var unheaded = []Column{ColumnName, ColumnGroup, ColumnExtra}

// Guess says what each column holds: as it was told of a head before, or by the words of the head. Without a header row
// the columns are name, group and extra minutes.
func (t PeopleTable) Guess(told map[string]string) []Column {
	if t.Head == nil {
		return unheaded[:min(len(unheaded), max(1, t.Width()))]
	}
	out := make([]Column, len(t.Head))
	for i, head := range t.Head {
		if was, known := told[headKey(head)]; known &&
			(was == "" || slices.ContainsFunc(Columns, func(k ColumnKind) bool { return string(k.Column) == was })) {
			out[i] = Column(was)
		} else {
			out[i] = recognised(head)
		}
	}
	return out
}

// Told returns the chosen content of each column, by its head, to be remembered; nil if the list has no header row.
func (t PeopleTable) Told(columns []Column) map[string]string {
	if t.Head == nil {
		return nil
	}
	out := map[string]string{}
	for i, head := range t.Head {
		if i < len(columns) && headKey(head) != "" {
			out[headKey(head)] = string(columns[i])
		}
	}
	return out
}

// People reads the rows. Those that cannot stand say why.
func (t PeopleTable) People(columns []Column) (out []Person) {
	place := map[Column]int{}
	for i, c := range columns {
		if _, twice := place[c]; !twice {
			place[c] = i
		}
	}
	known, width := map[string]int{}, max(len(columns), t.Width())
	if t.Head == nil {
		width = max(len(columns), len(unheaded))
	}
	for _, l := range t.rows {
		p := person(l.N, l.Cells, place)
		if err := l.within(width); err != nil && p.Bad.IsZero() {
			p.Bad = text.New("people.people", "width", width)
		}
		p.check(known)
		out = append(out, p)
	}
	return out
}

// ReadPeople reads a list of people by the heads of its columns.
func ReadPeople(data []byte) ([]Person, error) {
	t, err := ReadPeopleTable(data)
	if err != nil {
		return nil, err
	}
	return t.People(t.Guess(nil)), nil
}

// WritePeople writes a list of people as ReadPeople reads it.
func WritePeople(f Format, w io.Writer, list []Person) error {
	head := []string{string(ColumnName), string(ColumnGroup), string(ColumnExtra)}
	numbered := slices.ContainsFunc(list, func(p Person) bool { return p.Number != "" })
	if numbered {
		head = append(head, string(ColumnNumber))
	}
	t, err := NewTable(f, w, "People", head...)
	if err != nil {
		return err
	}
	for _, p := range list {
		row := []any{p.Name, p.Group, p.ExtraMinutes}
		if p.Typed != "" {
			row[2] = p.Typed
		}
		if numbered {
			row = append(row, p.Number)
		}
		if err := t.Row(row...); err != nil {
			return err
		}
	}
	return t.Close()
}

// person reads a row.
func person(line int, record []string, columns map[Column]int) Person {
	cell := func(c Column) string {
		if i, there := columns[c]; there && i < len(record) {
			return unkept(record[i])
		}
		return ""
	}
	p := Person{Line: line, Name: cell(ColumnHandle), Group: cell(ColumnGroup), Number: cell(ColumnNumber)}
	if p.Name == "" {
		p.Name = cell(ColumnName)
	}
	if p.Name == "" {
		p.Name = cell(ColumnFirstName) + " " + cell(ColumnSurname)
	}
	p.Name = names.Tidy(p.Name)
	if cellText := cell(ColumnExtra); cellText != "" {
		n, err := strconv.Atoi(cellText)
		if err != nil || n < 0 || n > mostExtra {
			p.Typed = clipped(cellText)
			p.Bad = text.New("people.person", "most_extra", mostExtra, "typed", p.Typed)
			return p
		}
		p.ExtraMinutes = n
	}
	return p
}

// check says what is wrong with a row besides.
func (p *Person) check(known map[string]int) {
	folded := names.Skeleton(p.Name)
	switch first, twice := known[folded]; {
	case !p.Bad.IsZero():
	case p.Name == "":
		p.Bad = text.New("people.check")
	case !names.Check(p.Name).IsZero():
		p.Bad = text.New("people.name", "why", names.Check(p.Name))
	case p.Group != "" && !names.CheckTitle(p.Group).IsZero():
		p.Bad = text.New("people.group", "why", names.CheckTitle(p.Group))
	case len([]rune(p.Number)) > longNumber:
		p.Bad = text.New("people.number-e-mail-longer", "long_number", longNumber)
	case twice:
		p.Bad = text.New("people.same-name-as-line", "first", first)
	}
	if p.Bad.IsZero() {
		known[folded] = p.Line
	}
}

// clipped cuts what is far too long to be shown.
func clipped(s string) string { return cut(s, 20) }

// cut cuts a cellText to so many characters.
func cut(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}
