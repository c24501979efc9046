package web_test

import (
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A change of division or unit proposes range and numbering; what is typed in the same step stays.
func TestNumbersFollowTheScale(t *testing.T) {
	long(t)
	t.Parallel()
	v := as(t, demoSite(t), "una")
	_, _, page := v.get("/workshop?pattern=" + url.QueryEscape("Caliper 0.02 mm, 50 over 49"))
	begin := fields(page)
	require.Equal(t, "10 10 150",
		begin.Get("main.number_every")+" "+begin.Get("main.number_step")+" "+begin.Get("main.to"))
	for name, tt := range map[string]struct{ change, want string }{
		"half a millimetre":         {"main.division=0.5", "mm 0.5 20 10 150"},
		"a division with its unit":  {"main.division=0.1 cm", "cm 0.1 10 1 15"},
		"centimetres":               {"unit=cm", "cm 0.1 10 1 15"},
		"inches":                    {"unit=in", "in 0.025 4 0.1 6"},
		"sixteenths":                {"main.division=1/16 in", "in 1/16 16 1 6"},
		"numbers of one's own":      {"main.division=0.5&main.number_every=10&main.number_step=5", "mm 0.5 10 5 150"},
		"a range that must shorten": {"main.division=0.7", "mm 0.7 10 7 149.8"},
		"nothing that can be read":  {"main.division=x", "mm x 10 10 150"},
	} {
		form := fields(page)
		for key, values := range mustQuery(t, tt.change) {
			form.Set(key, values[0])
		}
		_, _, says := v.post("/workshop", form.Encode())
		got := fields(says)
		assert.Equal(t, tt.want, got.Get("unit")+" "+got.Get("main.division")+" "+got.Get("main.number_every")+" "+
			got.Get("main.number_step")+" "+got.Get("main.to"), name)
	}

	form := fields(page)
	form.Set("want", "0.001 in")
	form.Set("do", "ways")
	_, _, says := v.post("/workshop", form.Encode())
	holds(t, says, "0.025 in", "the unit that is typed wins")

	form = fields(page)
	form.Set("main.number_step", "5")
	_, _, says = v.post("/workshop", form.Encode())
	holds(t, says, "The mark at 10 mm has the number 5")
	form = fields(says)
	form.Set("name", "Misnumbered caliper")
	form.Set("do", "keep")
	status, _, _ := v.post("/workshop", form.Encode())
	require.Equal(t, http.StatusOK, status, "it may be kept: a student may be asked to find it out")
	_, _, rack := v.get("/rack")
	holds(t, rack, "The mark at 10 mm has the number 5")
}

func mustQuery(t *testing.T, says string) url.Values {
	t.Helper()
	q, err := url.ParseQuery(says)
	require.NoError(t, err)
	return q
}
