package platform_test

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"image/png"
	"io"
	"math"
	"path"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/locale"
	"cavix/transfer/platform"
)

// element is any element of the format, for a test that knows none of the writer's types.
type element struct {
	XMLName  xml.Name
	Attrs    []xml.Attr `xml:",any,attr"`
	Text     string     `xml:",chardata"`
	Children []element  `xml:",any"`
}

func (e element) attr(name string) string {
	for _, a := range e.Attrs {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// all finds the elements of a name, at whatever depth.
func (e element) all(name string) []element {
	var out []element
	for _, c := range e.Children {
		if c.XMLName.Local == name {
			out = append(out, c)
		}
		out = append(out, c.all(name)...)
	}
	return out
}

func (e element) first(t *testing.T, name string) element {
	t.Helper()
	list := e.all(name)
	require.NotEmpty(t, list, "%s has no %s", e.XMLName.Local, name)
	return list[0]
}

// contents reads a package.
func contents(t *testing.T, data []byte) map[string][]byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		out[f.Name], err = io.ReadAll(r)
		require.NoError(t, err)
	}
	return out
}

func parsed(t *testing.T, data []byte) element {
	t.Helper()
	var e element
	require.NoError(t, xml.Unmarshal(data, &e))
	return e
}

const format = "http://www.imsglobal.org/xsd/imsqti_v2p2"

// respond runs the response processing of a question as a platform does: the first branch whose condition holds.
func respond(t *testing.T, item element, written string) (score, feedback string) {
	t.Helper()
	declared := item.first(t, "responseDeclaration")
	right := strings.TrimSpace(declared.first(t, "value").Text)
	score = "0"
	for _, branch := range item.first(t, "responseCondition").Children {
		holds := false
		for _, c := range branch.Children {
			against := right
			if list := c.all("baseValue"); len(list) > 0 && c.XMLName.Local != "setOutcomeValue" {
				against = list[0].Text
			}
			switch c.XMLName.Local {
			case "equal":
				near, err := strconv.ParseFloat(strings.Fields(c.attr("tolerance"))[0], 64)
				require.NoError(t, err)
				x, err := strconv.ParseFloat(written, 64)
				require.NoError(t, err)
				y, err := strconv.ParseFloat(against, 64)
				require.NoError(t, err)
				holds = math.Abs(x-y) <= near
			case "match", "stringMatch":
				holds = written == against
			}
		}
		if !holds {
			continue
		}
		for _, set := range branch.all("setOutcomeValue") {
			if v := set.first(t, "baseValue").Text; set.attr("identifier") == "SCORE" {
				score = v
			} else {
				feedback = v
			}
		}
		return score, feedback
	}
	return score, feedback
}

// Every ready sheet is a package that holds together: the manifest names each file and no other, a question a box,
// right values earn the point, known slips get their own feedback and no point, pictures are there in both forms.
func TestAPackageHoldsTogether(t *testing.T) {
	if testing.Short() {
		t.Skip("writes a package of every kind; left out with -short")
	}
	for i, ready := range kinds.ReadySheets {
		sheet, _, err := ready.Compose(nil)
		require.NoError(t, err)
		items, err := sheet.Deal(kinds.All, uint64(i))
		require.NoError(t, err)
		if testing.Short() {
			items = items[:min(3, len(items))]
		}
		var b bytes.Buffer
		packed, err := platform.Sheet{Title: "Pins & <sluices>", Number: 4,
			Said: locale.English(text.Words{Base: string(words.Laboratory)}), Items: items}.Write(&b)
		require.NoError(t, err, ready.Title)
		files := contents(t, b.Bytes())
		m := parsed(t, files["imsmanifest.xml"])
		assert.Equal(t, "http://www.imsglobal.org/xsd/imscp_v1p1", m.XMLName.Space)
		assert.Equal(t, "QTIv2.2 Package", m.first(t, "schema").Text)
		named := map[string]bool{"imsmanifest.xml": true}
		questions := 0
		for _, r := range m.all("resource") {
			for _, f := range r.all("file") {
				named[f.attr("href")] = true
			}
			assert.Contains(t, files, r.attr("href"))
			if r.attr("type") == "imsqti_item_xmlv2p2" {
				questions++
			}
		}
		for name := range files {
			assert.True(t, named[name], "%s is in no resource", name)
		}
		for name := range named {
			assert.Contains(t, files, name)
		}
		asked := 0
		for _, it := range items {
			asked += len(it.Fields())
		}
		assert.Equal(t, packed.Questions, questions, ready.Title)
		assert.Equal(t, asked, packed.Questions+packed.Left, ready.Title)
		refs := parsed(t, files["test.xml"]).all("assessmentItemRef")
		assert.Len(t, refs, questions)

		for n, it := range items {
			empty, err := it.Mark(nil)
			require.NoError(t, err)
			for _, f := range it.Fields() {
				id := fmt.Sprintf("card%02d-%s", n+1, strings.NewReplacer(".", "-", "_", "-").Replace(f.Name))
				data, there := files["items/"+id+".xml"]
				if f.Input == exercise.Position || f.Input == exercise.Order {
					assert.False(t, there)
					continue
				}
				require.True(t, there, id)
				assert.NotRegexp(t, `\{(a |A |short )?[A-Za-z][a-z ]*\}`, string(data))
				item := parsed(t, data)
				assert.Equal(t, format, item.XMLName.Space)
				assert.Equal(t, id, item.attr("identifier"))
				order := []string{}
				for _, c := range item.Children {
					order = append(order, c.XMLName.Local)
				}
				assert.Equal(t, []string{"responseDeclaration", "outcomeDeclaration", "outcomeDeclaration", "itemBody",
					"responseProcessing"}, order[:5])
				entries, choices := item.all("textEntryInteraction"), item.all("choiceInteraction")
				assert.Equal(t, 1, len(entries)+len(choices), id)
				for _, o := range item.all("object") {
					assert.Contains(t, string(files[path.Join("items", o.attr("data"))]), "<svg")
					shown := path.Join("items", o.first(t, "img").attr("src"))
					_, err := png.DecodeConfig(bytes.NewReader(files[shown]))
					assert.NoError(t, err, shown)
				}
				checkAnswers(t, it, f, item, empty.Field(f.Name).Expected)
			}
		}
	}
}

// checkAnswers has what is right, and what each slip would write, marked by the question.
func checkAnswers(t *testing.T, it exercise.Item, f exercise.Field, item element, right string) {
	t.Helper()
	if f.Input == exercise.Options {
		for _, c := range item.all("simpleChoice") {
			score, _ := respond(t, item, c.attr("identifier"))
			n, err := strconv.Atoi(strings.TrimPrefix(c.attr("identifier"), "option"))
			require.NoError(t, err)
			assert.Equal(t, f.Options[n-1] == right, score == "1")
		}
		return
	}
	score, feedback := respond(t, item, strings.TrimPrefix(right, "+"))
	assert.Equal(t, "1", score, "%s: %s", f.Name, right)
	assert.Equal(t, "right", feedback)
	if item.first(t, "responseDeclaration").attr("baseType") != "float" {
		return
	}
	shown := []string{}
	for _, m := range item.all("modalFeedback") {
		shown = append(shown, m.attr("identifier"))
		assert.NotEmpty(t, strings.TrimSpace(m.first(t, "p").Text))
	}
	slips, err := it.Predictions()
	require.NoError(t, err)
	for _, p := range slips {
		written := f.Write(p.Value)
		if _, err := strconv.ParseFloat(written, 64); p.Field != f.Name || p.Part == exercise.Anywhere || err != nil {
			continue
		}
		r, err := it.Mark(exercise.Answer{f.Name: written})
		require.NoError(t, err)
		score, feedback := respond(t, item, written)
		if r.Field(f.Name).Outcome == exercise.Right {
			assert.Equal(t, "1", score)
			continue
		}
		assert.Equal(t, "0", score, "%s: %s for %s", f.Name, written, right)
		assert.True(t, slices.Contains(shown, feedback), "%s: %s of %s has no feedback", f.Name, written, p.Code)
	}
}
