package web_test

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A list with columns of the school's own: the page asks what each is, remembers it, and gives the number out again.
// Once a class has a list, others wait to be let in, and a near name is asked about.
func TestWhoIsWho(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, class, page := maren.post("/classes", "name=Late+shift")
	code := regexp.MustCompile(`bigcode">([A-Z0-9]{6})<`).FindStringSubmatch(page)[1]
	list := "Nachname;Vorname;Platz;Kennung\nSimon;Bela;3;s-104\nHolt;Juniper;4;s-105\n"
	_, _, page = maren.post(class+"/people/preview", url.Values{"list": {list}}.Encode())
	form := fields(page)
	assert.Equal(t, "no", form.Get("headed"), "these words are not known")
	form = url.Values{"list": {list}, "headed": {"yes"}, "column[0]": {"surname"}, "column[1]": {"first_name"},
		"column[2]": {"group"}, "column[3]": {"number"}}
	_, _, page = maren.post(class+"/people/preview", form.Encode())
	holds(t, page, "Bela Simon")
	holds(t, page, "s-104")
	holds(t, page, "wait until you let them in")
	_, _, page = maren.post(class+"/people/bring", fields(page).Encode())
	holds(t, page, "Bela Simon")
	_, _, page = maren.post(class+"/people/preview",
		url.Values{"list": {"Surname;Nr;Vorname\nAnger;s-106;Ash\n"}}.Encode())
	assert.Equal(t, "number", fields(page).Get("column[1]"), "the class remembers its columns")
	holds(t, page, "Ash Anger")
	_, _, table := maren.get(class + "/people/list")
	holds(t, table, "Bela Simon,3,0,s-104")
	_, _, table = maren.get(class + "/ledger/table")
	holds(t, table, "student,group,number,")
	holds(t, table, "Bela Simon,3,s-104,")

	join := func(v *visitor, form string) (int, string, string) {
		return v.post("/join", "code="+code+"&passphrase=late+shift+9&"+form)
	}
	_, _, page = join(newVisitor(t, base), "name=Somebody+Else")
	holds(t, page, "You have asked to join", "others wait")
	bela := newVisitor(t, base)
	_, at, page := join(bela, "name=Bela+Simmon")
	assert.Equal(t, "/join", at)
	holds(t, page, "Yes, I am Bela Simon")
	_, at, _ = join(bela, "name=Bela+Simmon&do=near&near=Bela+Simon")
	assert.Equal(t, "/my", at)
	_, at, _ = join(newVisitor(t, base), "name=Juniper+Holt")
	assert.Equal(t, "/my", at, "who is on the list comes in")
	status, _, page := newVisitor(t, base).post("/join", "code="+code+"&passphrase=something+else&name=Juniper+Holt")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, page, "with another passphrase")
}

// Two records of one student become one, with all work, and can be parted again.
func TestTwoRecordsOfOneStudent(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	rows := func() map[string]string { // by student, the row of the ledger
		_, _, table := maren.get("/classes/1/ledger/table?sort=name")
		out := map[string]string{}
		for _, line := range strings.Split(table, "\n") {
			name, rest, _ := strings.Cut(line, ",")
			out[name] = rest
		}
		return out
	}
	before := rows()
	_, _, people := maren.get("/classes/1/people")
	at := func(name string) string {
		m := regexp.MustCompile(`href="(/classes/1/people/\d+)">` + regexp.QuoteMeta(name) +
			`<`).FindStringSubmatch(people)
		require.NotNil(t, m, name)
		return m[1]
	}
	stays, other := at("Wren A."), at("Bram H.")
	id := other[strings.LastIndex(other, "/")+1:]
	_, _, page := maren.post(stays, "do=merge&other="+id)
	holds(t, page, en("class.person.two-records-one-can"))
	holds(t, page, en("class.person.undo-the-merge"))
	now := rows()
	assert.NotContains(t, now, "Bram H.")
	assert.NotEqual(t, before["Wren A."], now["Wren A."])
	_, _, bin := maren.get("/bin")
	assert.NotContains(t, bin, "Bram H.", "it is undone on the page of the student, where it was done")
	_, _, page = maren.post(stays, "do=part&other="+id)
	holds(t, page, en("class.person.two-records-apart-again"))
	assert.Equal(t, before, rows(), "everything is as it was")
	status, _, _ := as(t, base, "ivo").post(stays, "do=merge&other="+id)
	assert.Equal(t, http.StatusNotFound, status)
}
