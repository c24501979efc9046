package transfer

import (
	"strings"

	"cavix/core/exercise"
	"cavix/core/text"
)

// Entries takes a line of entries apart, as they stand on a card one after the other: "12 3 12.06 +0.06 12.00". A line
// with semicolons is parted there, so that a mixed fraction can have its space. An entry that is a dash or a dot alone
// is an empty box.
func Entries(line string, fields []exercise.Field) (exercise.Answer, error) {
	parts := strings.Fields(line)
	if strings.Contains(line, ";") {
		parts = strings.Split(line, ";")
	}
	if len(parts) > len(fields) {
		return nil, text.Error("written.entries", "parts", len(parts), "fields", len(fields))
	}
	a := exercise.Answer{}
	for i, p := range parts {
		if p = strings.TrimSpace(p); p != "" && !strings.Contains("-–−.·", p) {
			a[fields[i].Name] = p
		}
	}
	return a, nil
}

// Apart takes rows apart that hold a whole line of a card in place of one box: those without a field.
func Apart(rows []WrittenRow, items func(version int) ([]exercise.Item, error)) (out []WrittenRow, err error) {
	for _, row := range rows {
		if row.Field != "" || !row.Bad.IsZero() {
			out = append(out, row)
			continue
		}
		list, err := items(row.Version)
		if err != nil {
			return nil, err
		}
		if row.Card > len(list) {
			out = append(out, row) // it is refused for its card
			continue
		}
		fields := list[row.Card-1].Fields()
		a, err := Entries(row.Given, fields)
		if err != nil {
			row.Bad = text.Says(err)
			out = append(out, row)
			continue
		}
		for _, f := range fields {
			if says, given := a[f.Name]; given {
				one := row
				one.Field, one.Given = f.Name, says
				out = append(out, one)
			}
		}
	}
	if len(out) > MostWritten {
		return nil, text.Error("written.apart", "most_written", MostWritten)
	}
	return out, nil
}
