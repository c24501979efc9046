package transfer_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"cavix/transfer"
)

// Lists as schools have them: with a header in any order, with commas, semicolons or tabs, a byte-order mark, or just
// names.
func TestReadPeople(t *testing.T) {
	for name, tt := range map[string]struct {
		text string
		want []transfer.Person
	}{
		"names": {"Wren A.\n\n  Tobin   F. \n", []transfer.Person{{Line: 1, Name: "Wren A."},
			{Line: 3, Name: "Tobin F."}}},
		"semicolons": {"\ufeffGroup;Name\r\nA;Wren A.\r\n;Tobin F.\r\n",
			[]transfer.Person{{Line: 2, Name: "Wren A.", Group: "A"}, {Line: 3, Name: "Tobin F."}}},
		"tabs, handle": {"name\thandle\textra minutes\nWren Ashdown\tWren A.\t15\nTobin Fell\t\t\n",
			[]transfer.Person{{Line: 2, Name: "Wren A.", ExtraMinutes: 15}, {Line: 3, Name: "Tobin Fell"}}},
		"no header": {"\"Ashdown, Wren\",B,10",
			[]transfer.Person{{Line: 1, Name: "Ashdown, Wren", Group: "B", ExtraMinutes: 10}}},
		"empty": {"", nil},
	} {
		got, err := transfer.ReadPeople([]byte(tt.text))
		require.NoError(t, err, name)
		assert.Equal(t, tt.want, got, name)
	}
	got, err := transfer.ReadPeople([]byte("name,extra\nWren,abc\n,5\nTobin,999\nBram,\nbram,\n" +
		strings.Repeat("x", 61) + ","))
	require.NoError(t, err)
	for i, says := range []string{"people.person", "people.check⟧", "people.person", "", "first=5", "longest=60"} {
		if says == "" {
			assert.Empty(t, got[i].Bad)
		} else {
			assert.Contains(t, got[i].Bad.String(), says)
		}
	}
	// what is written is read again, and nothing is a formula
	for _, f := range []transfer.Format{transfer.CSV, transfer.XLSX} {
		list := []transfer.Person{{Line: 2, Name: "=1+1", Group: "-A", ExtraMinutes: 15}, {Line: 3, Name: "Tobin, F."}}
		var b bytes.Buffer
		require.NoError(t, transfer.WritePeople(f, &b, list))
		again, err := transfer.ReadPeople(b.Bytes())
		require.NoError(t, err)
		assert.Equal(t, list, again, f)
		if f == transfer.XLSX {
			opened, err := excelize.OpenReader(&b)
			require.NoError(t, err)
			formula, err := opened.GetCellFormula("People", "A2")
			require.NoError(t, err)
			assert.Empty(t, formula)
		}
	}
	_, err = transfer.ReadPeople([]byte("Wren \xff"))
	require.ErrorContains(t, err, "⟦table.read-table⟧")
	_, err = transfer.ReadPeople([]byte("PK\x03\x04 no zip"))
	require.ErrorContains(t, err, "⟦table.bounded-zip ")
	_, err = transfer.ReadPeople([]byte(strings.Repeat("a\nb\n", 600)))
	require.ErrorContains(t, err, "most_people=1000")
}

func FuzzReadPeople(f *testing.F) {
	f.Add("name;group\nWren;A\n")
	f.Add("\"a")
	f.Fuzz(func(t *testing.T, says string) {
		got, err := transfer.ReadPeople([]byte(says))
		if err != nil {
			return
		}
		for _, p := range got {
			assert.True(t, !p.Bad.IsZero() || p.Name != "" && len([]rune(p.Name)) <= 60)
		}
	})
}
