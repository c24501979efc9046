package main

import (
	"encoding/csv"
	"encoding/json"
	"math"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every vector goes through the command as a table, and comes out as it was worked out.
func TestSurveyFromATable(t *testing.T) {
	data, err := os.ReadFile("../../testdata/survey.json")
	require.NoError(t, err)
	var list []struct {
		Kind     string
		Decimals int
		Readings json.RawMessage
		Limits   struct{ Lower, Upper string }
		Expect   map[string]any
	}
	require.NoError(t, json.Unmarshal(data, &list))
	for n, v := range list {
		var table strings.Builder
		w := csv.NewWriter(&table)
		args := []string{"survey", "--readings"}
		if v.Kind == "readers" {
			var cells [][][]string
			require.NoError(t, json.Unmarshal(v.Readings, &cells))
			require.NoError(t, w.Write([]string{"part", "reader", "repeat", "value"}))
			for i, row := range cells {
				for j, cell := range row {
					for k, x := range cell {
						require.NoError(t, w.Write([]string{strconv.Itoa(i), "reader " + strconv.Itoa(j),
							strconv.Itoa(k), x}))
					}
				}
			}
		} else {
			var groups [][]string
			require.NoError(t, json.Unmarshal(v.Readings, &groups))
			require.NoError(t, w.Write([]string{"value", "repeat", "group"}))
			for i, row := range groups {
				for k, x := range row {
					require.NoError(t, w.Write([]string{x, strconv.Itoa(k), "place " + strconv.Itoa(i)}))
				}
			}
		}
		w.Flush()
		args = append(args, file(t, "readings.csv", table.String()))
		if v.Kind == "readers" {
			args = append(args, "--lower", v.Limits.Lower, "--upper", v.Limits.Upper)
		} else {
			args = append(args, "--decimals", strconv.Itoa(v.Decimals))
		}
		code, out, errs := call(t, args...)
		require.Zero(t, code, errs)
		var got map[string]any
		require.NoError(t, json.Unmarshal([]byte(out), &got))
		for key, want := range v.Expect {
			x, is := want.(float64)
			if !is {
				assert.Equal(t, want, got[key], "%s of vector %d", key, n)
				continue
			}
			y, is := got[key].(float64)
			require.True(t, is, "%s of vector %d", key, n)
			assert.InDelta(t, x, y, max(math.Abs(x)*1e-6, 5e-5), "%s of vector %d", key, n)
		}
	}
}

func TestSurveyNamesWhatItCannotRead(t *testing.T) {
	for says, table := range map[string]string{
		"line 3: has 4 cells":                   "part,reader,value\n1,A,2\n1,B,5,02\n",
		"line 3: the value":                     "group,repeat,value\na,1,3.50\na,2,three\n",
		"line 2: the reader is missing":         "part,reader,repeat,value\n1,,1,3.5\n",
		"must have the columns":                 "place,value\n1,2\n",
		"has no readings":                       "group,value\n",
		"line 3: repeat 1 is already on line 2": "group,repeat,value\na,1,3.50\na,1,3.50\n",
		"without a unit":                        "group,value\na,3.5 mm\n",
		`the group "b" has no reading`:          "group,value\na,3.5\nb,\n",
		"--lower and --upper go together":       "part,reader,value\n1,A,2\n",
	} {
		args := []string{"survey", "--readings", file(t, "readings.csv", table)}
		if strings.HasPrefix(says, "--lower") {
			args = append(args, "--lower", "2")
		}
		code, _, errs := call(t, args...)
		assert.Equal(t, 2, code, says)
		assert.Contains(t, errs, says)
	}
	// A gap leaves out what costs fewest readings, and says so.
	gap := "part,reader,repeat,value\n1,A,1,2.0\n1,A,2,2.1\n1,B,1,2.0\n1,B,2,\n2,A,1,3.0\n2,A,2,3.1\n2,B,1,3.0\n" +
		"2,B,2,3.1\n3,A,1,3.0\n3,A,2,3.1\n3,B,1,3.0\n3,B,2,3.1\n"
	code, out, errs := call(t, "survey", "--readings", file(t, "gap.csv", gap))
	require.Zero(t, code, errs)
	assert.Contains(t, out, `"left_out":[{"part":"1","readings":3}]`)
}
