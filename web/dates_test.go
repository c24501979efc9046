package web_test

import (
	"net/http"
	"net/url"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The page of a sheet's ledger gives a group and a student dates of their own, and more minutes; the student's page
// says what holds.
func TestDatesAndMinutesOnThePage(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, _, page := maren.get("/ledger/8") // Second sitting, which nobody has begun
	wren := regexp.MustCompile(`value="(s\d+)"[^>]*>Wren A\.`).FindStringSubmatch(page)
	require.NotNil(t, wren)
	later := time.Now().AddDate(0, 0, 20).Format("2006-01-02T15:04")
	status, _, page := maren.post("/ledger/8/dates", url.Values{"who": {wren[1]}, "opens": {later},
		"closes": {"2020-01-01T09:00"}}.Encode())
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, page, en("class.times.later-than-opening"))
	holds(t, page, later, "what was typed stays")
	_, _, page = maren.post("/ledger/8/dates", url.Values{"who": {wren[1]}, "closes": {later}}.Encode())
	holds(t, page, en("class.ledger.dates-were-changed-attempts"))
	holds(t, page, "<b>Wren A.</b>: until ")
	_, _, page = maren.post("/ledger/8/dates", url.Values{"who": {"gTide crew"}, "closes": {later}}.Encode())
	holds(t, page, "<b>group Tide crew</b>: until ")
	maren.post("/classes/1/people/"+wren[1][1:], "do=keep&name=Wren+A.&extra=15")

	student := as(t, base, "Wren A.")
	_, _, page = student.get("/my")
	holds(t, page, "15 extra minutes for you")
	_, _, page = student.get("/my/8")
	at, err := time.Parse("2006-01-02T15:04", later)
	require.NoError(t, err)
	holds(t, page, at.Format("2 Jan"))

	status, _, page = maren.post("/ledger/8/more", "student="+wren[1][1:]+"&minutes=10")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, page, "has not begun")
	_, _, page = maren.post("/ledger/8/dates", url.Values{"who": {wren[1]}, "do": {"drop"}}.Encode())
	assert.NotContains(t, page, "<b>Wren A.</b>: until ")
	status, _, _ = as(t, base, "ivo").post("/ledger/8/dates", url.Values{"who": {wren[1]}, "closes": {later}}.Encode())
	assert.Equal(t, http.StatusNotFound, status)
}
