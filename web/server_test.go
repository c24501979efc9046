package web_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"html"
	"io"
	"log/slog"
	"maps"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	core "cavix/core/instrument"
	"cavix/core/text"
	"cavix/demo"
	"cavix/locale"
	"cavix/school"
	"cavix/store"
	"cavix/web"
)

// visitor is somebody at a browser without script: it keeps cookies and follows redirects.
type visitor struct {
	t    testing.TB
	base string
	http.Client
}

func newVisitor(t testing.TB, base string) *visitor {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &visitor{t: t, base: base, Client: http.Client{Jar: jar, Timeout: time.Minute}}
}

// get opens a page and returns its status, where it ended, and its text.
func (v *visitor) get(path string) (int, string, string) {
	v.t.Helper()
	r, err := v.Get(v.base + path)
	return v.read(r, err)
}

// sent sends a form and does not follow where it leads.
func (v *visitor) sent(path, form string) (*http.Response, error) {
	client := http.Client{Jar: v.Jar,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	r, err := client.Post(v.base+path, "application/x-www-form-urlencoded", strings.NewReader(form))
	if err == nil {
		_ = r.Body.Close()
	}
	return r, err
}

// post sends a form: "field=value&field=value".
func (v *visitor) post(path, form string) (int, string, string) {
	v.t.Helper()
	values, err := url.ParseQuery(form)
	require.NoError(v.t, err)
	r, err := v.PostForm(v.base+path, values)
	return v.read(r, err)
}

func (v *visitor) read(r *http.Response, err error) (int, string, string) {
	v.t.Helper()
	require.NoError(v.t, err)
	defer r.Body.Close()
	b, err := io.ReadAll(r.Body)
	require.NoError(v.t, err)
	assert.NotRegexp(v.t, unspoken, string(b), r.Request.URL.Path)
	return r.StatusCode, r.Request.URL.Path, string(b)
}

// unspoken is a term of the trade that left the house in its braces.
var unspoken = regexp.MustCompile(`\{(a |A |short )?[A-Za-z][a-z ]*\}`)

// holdAll checks that a page holds several texts.
func holdAll(t testing.TB, page string, texts ...string) {
	t.Helper()
	for _, says := range texts {
		holds(t, page, says)
	}
}

// holds checks that a page holds a text, without printing the page.
func holds(t testing.TB, page, says string, why ...string) {
	t.Helper()
	if !strings.Contains(page, says) && !strings.Contains(html.UnescapeString(page), says) {
		title, _, _ := strings.Cut(page, "</title>")
		t.Errorf("the page %q does not hold %q %v", title[strings.LastIndex(title, ">")+1:], says, why)
	}
}

// as is a visitor signed in to the demo.
func as(t testing.TB, base, name string) *visitor {
	t.Helper()
	v := newVisitor(t, base)
	for _, d := range demo.SignIns() {
		if d.Name != name {
			continue
		}
		path := "/signin"
		if d.Code != "" {
			path = "/join"
		}
		_, at, _ := v.post(path, url.Values{"code": {d.Code}, "name": {name}, "passphrase": {d.Passphrase},
			"do": {"back"}}.Encode())
		require.Contains(t, []string{"/desk", "/my"}, at)
	}
	return v
}

func TestPagesStandBehindTheRightDoor(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	stranger, maren, ivo, wren, isolde := newVisitor(t, base), as(t, base, "maren"), as(t, base, "ivo"),
		as(t, base, "Wren A."), as(t, base, "Isolde M.")
	// Sheet 1 to 4, class 1 and the gifts 1 to 3 are Maren's; Wren is student 1 of it.
	for _, path := range []string{"/desk", "/rack", "/workshop", "/workshop/1", "/sheets/new", "/sheets/1",
		"/classes/1", "/ledger/1", "/ledger/1/1/1", "/ledger/1/remark",
		"/sheets/1/try/1/1", "/bench/1", "/rack/1/document", "/rack/import", "/slips", "/ledger/1/paper",
		"/ledger/1/paper/1", "/ledger/1/paper/1/cards", "/ledger/1/paper/table", "/ledger/1/paper/type?version=1",
		"/bank/care", "/board/1", "/watch/1", "/course", "/course/file?class=1", "/surveys", "/surveys/1",
		"/surveys/1/table",
		"/sheets/1/document", "/bench/1/picture?steps=1&as=svg"} {
		_, at, _ := stranger.get(path)
		assert.Equal(t, "/signin", at, path)
		_, at, _ = wren.get(path)
		assert.Equal(t, "/signin", at, "a student at %s", path)
		status, _, _ := maren.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		if regexp.MustCompile(`\d`).MatchString(path) {
			status, _, says := ivo.get(path)
			assert.Equal(t, http.StatusNotFound, status, "another instructor at %s", path)
			assert.NotContains(t, says, "Sluice")
		}
	}
	for _, path := range []string{"/my", "/my/1", "/my/1/1", "/practice", "/practice/1", "/my/bench", "/my/way",
		"/my/way.csv", "/my/surveys", "/my/surveys/1", "/round", "/round/events?once"} {
		_, at, _ := stranger.get(path)
		assert.Equal(t, "/join", at, path)
		status, _, _ := wren.get(path)
		assert.Equal(t, http.StatusOK, status, path)
	}
	for _, post := range []struct {
		who        *visitor
		path, form string
	}{
		{ivo, "/workshop/1", "do=keep"}, {ivo, "/sheets/1", "do=keep"}, {ivo, "/classes/1/give", "sheet=5"},
		{ivo, "/classes/2/give", "sheet=1"},
		{ivo, "/classes/1/people/1", "do=clear"}, {ivo, "/classes/1/people/bring", "list=Hesper"},
		{ivo, "/classes/1/staff", "login=ivo&role=leads"}, {ivo, "/classes/1/weights", "weight[1]=2"},
		{ivo, "/ledger/1/excuse", "student=1&reason=ill"}, {ivo, "/classes/1/train", "slip=neighbour-line"},
		{ivo, "/rack/1/drop", ""}, {ivo, "/bench/1", "move=1"},
		{ivo, "/ledger/1/paper", "per=all"}, {ivo, "/ledger/1/paper/type", "version=1&student=1"},
		{ivo, "/ledger/1/paper/bring", "table=x"},
		{ivo, "/classes/1/settings", "base=laboratory"}, {ivo, "/classes/1/settings", "guests=yes"},
		{ivo, "/board/1", "do=ask"},
		{maren, "/watch/1/round", "slip=no-such-slip"}, {ivo, "/classes/1/settings", "seen=1"},
		{ivo, "/rack/1/share", "shared=yes"},
		{wren, "/my/bench/0123456789ab", "steps=1"}, {wren, "/handbook/vernier/99", "steps=1"},
		{wren, "/handbook/none/1", ""},
		{ivo, "/classes/1/settings", "method.decimals=lenient"}, {ivo, "/ledger/1/1/1", "mark=1&reason=x"},
		{ivo, "/sheets/1/try/1/1", "main=1"},
		{isolde, "/my/1/1/hint", ""}, {isolde, "/my/1/1/undo", ""}, {isolde, "/my/1/1", "main=1"},
		{isolde, "/my/1/1/draft", "main=1"},
		{wren, "/my/1/99", "main=1"}, {wren, "/my/x/1", "main=1"}, {maren, "/rack/999/drop", ""},
	} {
		status, _, _ := post.who.post(post.path, post.form)
		assert.Equal(t, http.StatusNotFound, status, post.path)
	}
	status, _, says := stranger.get("/no/such/page")
	assert.Equal(t, http.StatusNotFound, status)
	holds(t, says, "Nothing is lost")
}

func TestHeadersKeepThePageToItself(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	r, err := http.Get(base + "/signin")
	require.NoError(t, err)
	page, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	policy := r.Header.Get("Content-Security-Policy")
	assert.Contains(t, policy, "script-src 'self'")
	assert.NotContains(t, policy, "unsafe")
	assert.Equal(t, "nosniff", r.Header.Get("X-Content-Type-Options"))
	assert.NotRegexp(t, `(?i)<script>|\son[a-z]+=|\sstyle=|https?://[^w]`, string(page),
		"nothing inline, nothing from elsewhere")

	req, err := http.NewRequest(http.MethodPost, base+"/signin",
		strings.NewReader("name=maren&passphrase="+demo.Passphrase))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Origin", "https://elsewhere.example")
	r, err = http.DefaultClient.Do(req)
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	assert.Equal(t, http.StatusForbidden, r.StatusCode, "a form on another site")

	v := newVisitor(t, base)
	status, _, says := v.post("/join", "code="+strings.Repeat("A", 170<<10))
	assert.Equal(t, http.StatusRequestEntityTooLarge, status, says)
	for _, back := range []string{"//elsewhere.example", "/\t/elsewhere.example", "/\n/elsewhere.example",
		"\t//elsewhere.example", `/\elsewhere.example`,
		`\\elsewhere.example`, "https://elsewhere.example", "javascript:alert(1)", "/%09/elsewhere.example/..//x",
		" //elsewhere.example", "/\x00/x"} {
		r, err := v.sent("/theme", url.Values{"back": {back}}.Encode())
		require.NoError(t, err)
		to := r.Header.Get("Location")
		assert.True(t, to == "/" || strings.HasPrefix(to, "/%09/"), "%q leads to %q", back, to)
	}
	r, err = v.sent("/theme", "back=/handbook%3Fq%3D1")
	require.NoError(t, err)
	assert.Equal(t, "/handbook?q=1", r.Header.Get("Location"))
}

func TestFirstSetUp(t *testing.T) {
	t.Parallel()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "new.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	v := newVisitor(t, site(t, web.Config{School: school.New(s), Log: slog.New(slog.DiscardHandler),
		SetupKey: "the-key"}))
	_, at, _ := v.get("/")
	assert.Equal(t, "/setup", at)
	status, _, says := v.post("/setup", "key=guess&name=Maren&login=maren&passphrase=short")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "This is not the set-up key")
	holds(t, says, "8 to 200 characters")
	holds(t, says, `value="Maren"`, "what was typed stays")
	_, at, says = v.post("/setup", "key=the-key&name=Maren&login=Maren&passphrase=long+enough")
	assert.Equal(t, "/desk", at)
	holds(t, says, "Begin here")
	other := newVisitor(t, v.base)
	_, at, _ = other.post("/setup", "key=the-key&name=Otto&login=otto&passphrase=long+enough")
	assert.Equal(t, "/signin", at, "only once")
	_, at, _ = other.post("/signin", "name=MAREN&passphrase=long+enough")
	assert.Equal(t, "/desk", at)
}

// The whole way without script: build, compose, give, join, answer, look into the ledger.
func TestTheWholeWayWithoutScript(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	una := as(t, base, "una")
	instrument := url.Values{"name": {"Bench caliper"}, "unit": {"mm"}, "main.division": {"1"}, "main.from": {"0"},
		"main.to": {"150"}, "main.number_every": {"10"},
		"fine.divisions": {"20"}, "fine.spans": {"38"}, "fine.number_every": {"4"}, "family": {"vernier-caliper"},
		"was_family": {"vernier-caliper"}, "zero_error": {"−0,10"}, "base": {""}, "at": {"31.4"}}
	send := func(more ...string) (int, string, string) {
		for i := 0; i < len(more); i += 2 {
			instrument.Set(more[i], more[i+1])
		}
		return una.post("/workshop", instrument.Encode())
	}
	status, _, says := send("last", "nonsense")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "20 lines over 38 main divisions is not a vernier")
	holds(t, says, `value="38"`, "what was typed stays")
	holds(t, says, "<svg", "the last good figure stays")
	_, _, says = send("form", "long")
	holds(t, says, `name="fine.spans" value="39"`)
	holds(t, says, "line 8 × 0.05")
	_, _, says = send("move", "1", "fine.spans", "39", "form", "")
	holds(t, says, "line 9 × 0.05")
	_, _, says = send("move", "", "do", "ways", "want", "1/50")
	holds(t, says, "50 lines over 49 main divisions")
	_, _, says = send("do", "", "use", "0", "zero_error", "0.05")
	holds(t, says, `name="fine.divisions" value="50"`)
	holds(t, says, `name="zero_error" value="0.04"`, "brought to the new grid")
	_, _, says = send("use", "", "zero_error", "0.03")
	holds(t, says, "nearest that work: 0 or 0.05")
	_, at, says := send("do", "keep", "zero_error", "-0.1")
	require.Regexp(t, `^/workshop/\d+$`, at)
	holds(t, says, en("author.workshop.rack"))
	_, _, says = una.get("/rack")
	racked := regexp.MustCompile(`/workshop/(\d+)"[^>]*>Bench caliper`).FindStringSubmatch(says)
	require.NotNil(t, racked)

	sheet := url.Values{"title": {"Bench"}, "blocks[0].kind": {"read"}, "blocks[0].cards": {"2"},
		"blocks[0].settings[zero]": {"own"},
		"blocks[0].settings[ask]":  {"main", "observed"}, "blocks[0].instruments": {racked[1]}}
	many := maps.Clone(sheet)
	many.Set("blocks[0].cards", "900")
	status, _, says = una.post("/sheets/new", many.Encode()+"&do=keep")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "from 1 to 60")
	_, at, says = una.post("/sheets/new", sheet.Encode()+"&do=keep")
	require.Regexp(t, `^/sheets/\d+$`, at)
	holds(t, says, ">Try as a student</a>")
	_, _, says = una.post(at+"/try/1/1", "main=900&observed=1")
	holds(t, says, "0 of 2", "tried, marked and not kept")
	sheetID := strings.TrimPrefix(at, "/sheets/")
	_, class, says := una.post("/classes", "name=Bench+class")
	code := regexp.MustCompile(`bigcode">([A-Z0-9]{6})<`).FindStringSubmatch(says)
	require.NotNil(t, code)
	_, _, says = una.post(class+"/give", "sheet="+sheetID)
	ledger := regexp.MustCompile(`/ledger/\d+`).FindString(says)
	require.NotEmpty(t, ledger)

	student := newVisitor(t, base)
	join := "name=Quill+B.&passphrase=bench+words&code=" + strings.ToLower(code[1][:3]) + "-" + code[1][3:]
	_, at, _ = student.post("/join", join)
	require.Equal(t, "/my", at)
	status, _, refused := newVisitor(t, base).post("/join", strings.Replace(join, "bench+words", "other+words", 1))
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, refused, "with another passphrase")
	_, _, says = student.get("/my")
	card := regexp.MustCompile(`/my/\d+/1`).FindString(says)
	require.NotEmpty(t, card)
	_, _, says = student.get(card)
	assert.NotContains(t, says, `class="pts"`)
	_, _, says = student.post(card, "main=forty&observed=")
	holds(t, says, "This contains no number")
	holds(t, says, `value="forty"`)
	_, at, _ = student.post(card, "main=12&do=later")
	assert.Equal(t, "/my", at)
	_, _, says = student.get(card)
	holds(t, says, `name="main" value="12"`, "kept for later")
	_, _, says = student.post(card, "main=12")
	holds(t, says, "Empty: reading")
	_, _, says = student.post(card, "main=9999&observed=12,000&do=anyway")
	holds(t, says, "0 of 2")
	_, _, says = student.post(card, "main=1&observed=1")
	holds(t, says, en("student.card.card"))

	_, _, says = una.get(ledger)
	holds(t, says, "Quill B.")
	answer := regexp.MustCompile(ledger + `/\d+/1`).FindString(says)
	require.NotEmpty(t, answer)
	_, _, says = una.get(answer)
	holds(t, says, `value="9999"`)
	holds(t, says, `value="12,000"`, "as it was answered")

	_, _, says = una.post(class+"/people/"+strings.Split(answer, "/")[3], "do=clear")
	holds(t, says, "chooses a new one")
	_, at, _ = newVisitor(t, base).post("/join", "name=quill+b.&passphrase=other+words&do=join&code="+code[1])
	assert.Equal(t, "/my", at)
}

// Every family can be begun, changed, kept, given out as a document and taken in again.
func TestEveryFamilyInTheWorkshop(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("builds one of every family; left out with -short")
	}
	v := as(t, demoSite(t), "una")
	for _, p := range core.Patterns() {
		_, _, says := v.get("/workshop?pattern=" + url.QueryEscape(p.Name))
		form := fields(says)
		require.Equal(t, string(p.Family), form.Get("family"), p.Name)
		form.Set("name", p.Name)
		form.Set("do", "keep")
		status, at, says := v.post("/workshop", form.Encode())
		require.Equal(t, http.StatusOK, status, p.Name)
		require.Regexp(t, `^/workshop/\d+$`, at, p.Name)
		holds(t, says, en("author.workshop.rack"), p.Name)
		doc := strings.Replace(at, "/workshop/", "/rack/", 1) + "/document"
		_, _, says = v.get(doc)
		want, err := core.New(p)
		require.NoError(t, err)
		got, err := core.Parse([]byte(says))
		require.NoError(t, err, p.Name)
		a, err := json.Marshal(want)
		require.NoError(t, err)
		b, err := json.Marshal(got)
		require.NoError(t, err)
		require.JSONEq(t, string(a), string(b), "built from the form: %s", p.Name)
		status, at, _ = v.post("/rack/import", url.Values{"document": {says}}.Encode())
		require.Equal(t, http.StatusOK, status, p.Name)
		status, _, says = v.get(strings.Replace(at, "/workshop/", "/bench/", 1))
		require.Equal(t, http.StatusOK, status, p.Name)
		holds(t, says, ">"+en("ui.parts.covered")+"<", p.Name)
	}
	status, _, says := v.post("/rack/import",
		url.Values{"document": {`{"format":"cavix/instrument","version":1,"colour":"red"}`}}.Encode())
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "colour: is not a field of this document")
	holds(t, says, "&#34;red&#34;", "what was given stays")

	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", "large.json")
	require.NoError(t, err)
	_, err = part.Write(bytes.Repeat([]byte(" "), 5200<<10))
	require.NoError(t, err)
	require.NoError(t, form.Close())
	r, err := v.Post(v.base+"/rack/import", form.FormDataContentType(), &body)
	status, _, says = v.read(r, err)
	assert.Equal(t, http.StatusRequestEntityTooLarge, status)
	holds(t, says, "at most 5120 KB")
}

// fields reads the values of a page's form as a browser would send them.
func fields(page string) url.Values {
	out := url.Values{}
	for _, m := range regexp.MustCompile(`<input[^>]*>`).FindAllString(page, -1) {
		name, value := attribute(m, "name"), attribute(m, "value")
		switch choice := strings.Contains(m, `type="checkbox"`) || strings.Contains(m, `type="radio"`); {
		case name == "":
		case !choice:
			out.Set(name, value)
		case strings.Contains(m, " checked"):
			out.Add(name, value)
		}
	}
	for _, m := range regexp.MustCompile(`(?s)<select [^>]*name="([^"]*)".*?</select>`).FindAllStringSubmatch(page,
		-1) {
		options := regexp.MustCompile(`<option[^>]*>[^<]*`).FindAllString(m[0], -1)
		for i, o := range options {
			if value := attribute(o, "value"); i == 0 || strings.Contains(o, " selected") {
				if !strings.Contains(o, `value="`) {
					_, value, _ = strings.Cut(o, ">")
				}
				out.Set(m[1], value)
			}
		}
	}
	return out
}

func attribute(tag, name string) string {
	m := regexp.MustCompile(`\s` + name + `="([^"]*)"`).FindStringSubmatch(tag)
	if m == nil {
		return ""
	}
	return html.UnescapeString(m[1])
}

// A change in the Workshop sends little: under 25 KB compressed, whatever is built.
func TestWorkshopSendsLittle(t *testing.T) {
	long(t)
	t.Parallel()
	v := as(t, demoSite(t), "una")
	for _, p := range core.Patterns() {
		r, err := http.NewRequest(http.MethodGet, v.base+"/workshop?pattern="+url.QueryEscape(p.Name), nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", "gzip")
		answer, err := v.Do(r)
		require.NoError(t, err)
		b, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		require.Equal(t, "gzip", answer.Header.Get("Content-Encoding"))
		assert.Less(t, len(b), 25<<10, p.Name)
	}
}

// Help costs what the sheet says; an instructor's own mark stands; a sheet is marked anew and back; slips
// are put in own words.
func TestHelpOwnMarksAndMarkingAnew(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, wren := as(t, base, "maren"), as(t, base, "Wren A.")
	_, _, says := wren.get("/my/3/8")
	holds(t, says, "Where do I look? <small>"+en("student.card.costs-half")+"</small>")
	_, _, says = wren.post("/my/3/8/hint", "main=12")
	holds(t, says, "Read the last mark at or before the vernier plate&#39;s 0")
	holds(t, says, `value="12"`, "what was typed stays")
	assert.NotContains(t, says, `class="tag"`)
	_, _, says = wren.post("/my/3/8/hint", "main=12")
	holds(t, says, `class="tag"`, "the mark is flagged")
	wren.post("/my/3/8/hint", "")
	_, _, says = wren.post("/my/3/8/hint", "")
	assert.NotContains(t, says, "More help", "there are no more hints")
	_, _, says = wren.post("/my/3/8", "main=1&do=anyway")
	holds(t, says, "3 hints used")
	holds(t, says, "0 of 6")

	status, _, says := maren.post("/ledger/3/1/8", "mark=7&reason=")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "The mark must be from 0 to 6, in halves.")
	holds(t, says, "Give a reason")
	_, _, says = maren.post("/ledger/3/1/8", "mark=2,5&reason=read+aloud")
	holds(t, says, "the instructor's mark: read aloud")
	_, _, says = wren.get("/my/3/8")
	holds(t, says, "2.5 of 6")
	holds(t, says, "read aloud")
	_, _, says = maren.get("/ledger/3")
	holds(t, says, "gave 2.5 on card 8 of Wren A.: read aloud")
	ivo := as(t, base, "ivo")
	status, _, _ = ivo.post("/ledger/3/1/8", "mark=1&reason=x")
	assert.Equal(t, http.StatusNotFound, status)

	_, _, says = maren.post("/ledger/2/remark", "method.decimals=lenient&do=preview")
	holds(t, says, "Idris W.", "who drops zeros gains")
	assert.NotContains(t, says, ">0 of 190")
	status, _, says = maren.post("/ledger/2/remark", "method.decimals=loose&do=apply")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "not one of the choices")
	_, _, says = maren.post("/ledger/2/remark", "method.decimals=lenient&do=apply")
	holds(t, says, en("class.ledger.show-ledger"))
	_, _, says = maren.post("/ledger/2/undo", "")
	holds(t, says, en("class.ledger.marks-stand-as-before"))
	status, _, _ = maren.post("/ledger/2/undo", "")
	assert.Equal(t, http.StatusNotFound, status, "once")
	for _, path := range []string{"/ledger/2/remark", "/ledger/2/undo"} {
		status, _, _ = ivo.post(path, "do=apply")
		assert.Equal(t, http.StatusNotFound, status)
	}

	tobin := as(t, base, "Tobin F.")
	maren.post("/slips", "code=main-next-mark&named=on&advice=Look+left+of+the+0.&note=Ask+me.")
	_, _, says = tobin.get("/my/2/1")
	holds(t, says, "Look left of the 0. Ask me.")
	maren.post("/slips", "code=main-next-mark")
	_, _, says = tobin.get("/my/2/1")
	assert.NotContains(t, says, "Look left of the 0.")
	status, _, _ = maren.post("/slips", "code=nonsense")
	assert.Equal(t, http.StatusNotFound, status)

	_, _, says = maren.post("/classes/1/settings", "method.zero_term=correction&method.tenths_tolerance=3")
	holds(t, says, "The settings are saved")
	status, _, says = maren.post("/classes/1/settings", "method.tenths_tolerance=30")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "from 0 to 9")
}

// A card that lost marks for its form alone is told from one with a slip, in the ledger and for the student.
func TestMarksLostWithoutASlip(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	row := func(page, name string) string {
		t.Helper()
		found := regexp.MustCompile(`(?s)<tr id="s\d+">\s*<th scope="row">` + regexp.QuoteMeta(name) +
			`</th>.*?</tr>`).FindString(page)
		require.NotEmpty(t, found, name)
		return found
	}
	_, _, says := maren.get("/ledger/2")
	idris, tobin := row(says, "Idris W."), row(says, "Tobin F.")
	assert.Contains(t, idris, "◇")
	assert.NotContains(t, idris, "▲", "drops zeros, and makes no slip")
	assert.Contains(t, tobin, "▲")
	_, _, says = as(t, base, "Tobin F.").get("/my/2")
	holds(t, says, en("student.mysheet.a-slip"))
	holds(t, says, "You read one mark too far.")
	assert.NotContains(t, says, "◇ marks lost")
}

// The upright scale of a pair is set by number and by its buttons; the level one stays where it is.
func TestTheUprightScaleOnTheBench(t *testing.T) {
	t.Parallel()
	maren := as(t, demoSite(t), "maren")
	_, _, says := maren.get("/bench/18")
	form := fields(says)
	steps := form.Get("steps")
	set := func(field, value string) url.Values {
		form.Set(field, value)
		_, _, says := maren.post("/bench/18", form.Encode())
		form.Del(field)
		if field == "upright" && !strings.Contains(says, "cannot be") {
			form = fields(says)
		}
		return fields(says)
	}
	assert.Equal(t, "7,38", set("upright", "7,38").Get("upright"), "what was typed stays")
	for _, tt := range []struct{ by, want string }{{"1", "7.40"}, {"-1", "7.36"}} {
		got := set("raise", tt.by)
		assert.Equal(t, tt.want, got.Get("upright"))
		assert.Equal(t, steps, got.Get("steps"))
	}
	form.Set("upright", "500")
	status, _, says := maren.post("/bench/18", form.Encode())
	assert.Equal(t, http.StatusOK, status)
	holds(t, says, "cannot be")
	holds(t, says, `value="500"`)
	holds(t, says, "<svg", "a figure stays")
}

// What a sheet settles about its marking is kept as it was set, and refused at its field.
func TestTheComposerKeepsItsSchool(t *testing.T) {
	long(t)
	t.Parallel()
	una := as(t, demoSite(t), "una")
	_, _, rack := una.get("/rack")
	racked := regexp.MustCompile(`/workshop/(\d+)"`).FindStringSubmatch(rack)
	require.NotNil(t, racked)
	block := func(field string) string { return "blocks[0]." + field }
	setting := func(id string) string { return block("settings[" + id + "]") }
	marks := func(step string) string { return block("marks[" + step + "]") }
	form := url.Values{"title": {"Tight fits"}, block("kind"): {"read"}, block("cards"): {"3"},
		setting("zero"): {"own"}, setting("awkward"): {"0"},
		setting("ask"): {"main", "observed", "zero_error", "corrected"}, block("instruments"): {racked[1]},
		"do": {"keep"}}
	send := func(field, value string) (int, string) {
		sent := maps.Clone(form)
		sent.Set(field, value)
		status, _, written := una.post("/sheets/new", sent.Encode())
		return status, written
	}
	for _, tt := range []struct{ field, value, says string }{
		{"method.tie", "unfavourable", "limits"},
		{"method.unit", "furlong", "not one of the choices"},
		{"method.tenths_tolerance", "12", "from 0 to 9"},
		{marks("observed"), "-3", "marks"},
		{marks("observed"), "many", "marks"},
		{setting("lower"), "low", "low"},
		{"hint_cost", "99", "hint_cost"},
	} {
		status, written := send(tt.field, tt.value)
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s=%s", tt.field, tt.value)
		if tt.field != "hint_cost" {
			holds(t, written, tt.says, tt.field)
		}
		holds(t, written, `value="Tight fits"`, "what was typed stays")
	}
	for field, value := range map[string]string{"method.tie": "unfavourable", setting("lower"): "24,95",
		setting("upper"): "25.05", "method.zero_term": "correction",
		"method.unit": "required", marks("corrected"): "3", "hint_cost": "2"} {
		form.Set(field, value)
	}
	_, at, _ := una.post("/sheets/new", form.Encode())
	require.Regexp(t, `^/sheets/\d+$`, at)
	_, _, written := una.get(at)
	kept := fields(written)
	for field := range form {
		if slices.Contains([]string{setting("zero"), "do", block("instruments"), setting("ask")}, field) {
			continue
		}
		assert.Equal(t, form.Get(field), kept.Get(field), field)
	}
	_, _, written = una.get(at + "/try/1/1")
	holds(t, written, "zero correction", "the card asks for what the class records")
	holds(
		t,
		written,
		"Here: exactly midway, take the line nearer to a limit: 24.95 and 25.05 mm; write the sign of the zero "+
			"correction; write the unit of every length.",
	)
	_, _, written = una.post(at+"/try/1/1", "main=1&observed=1&zero_error=1&corrected=1&do=anyway")
	holds(t, written, "of 6", "1 + 1 + 1 + 3")
}

func TestServedFigureDoesNotTellTheAnswer(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	wren := as(t, base, "Wren A.")
	_, _, says := wren.get("/my/3/8")
	require.Contains(t, says, `name="observed"`)
	assert.NotRegexp(t, `(?i)expected|solution|correct[^e]|indicated`, says)
	svg := regexp.MustCompile(`(?s)<svg.*?</svg>`).FindAllString(says, -1)
	require.GreaterOrEqual(t, len(svg), 8, "open and closed, each with three strengths")
	for _, s := range svg {
		assert.NotContains(t, s, "tag")
		assert.NotContains(t, s, "counted")
	}
}

// Whatever is sent, no page fails: odd fields get an answer below 500, and quickly.
func TestOddInputBreaksNothing(t *testing.T) {
	if testing.Short() {
		t.Skip("sends hundreds of forms; left out with -short")
	}
	t.Parallel()
	base := demoSite(t)
	maren, wren := as(t, base, "maren"), as(t, base, "Wren A.")
	odd := []string{"", "0", "-1", "1/0", "1/3", "99999999999999999999", "1e9", "−0,5", "0.000000000000000001", "½",
		"NaN", "<script>", strings.Repeat("9", 38), "\x00", "on", "second", "beam", "500", "2"}
	draws := rand.New(rand.NewPCG(2, 9))
	pages := []struct {
		who    *visitor
		path   string
		fields []string
	}{
		{maren, "/workshop", nil}, {maren, "/workshop/17", nil}, {maren, "/bench/17", nil}, {maren, "/bench/3", nil},
		{maren, "/bench/18", nil},
		{maren, "/sheets/2", []string{"title", "blocks[0].kind", "blocks[0].cards", "blocks[0].settings[awkward]",
			"blocks[0].settings[zero]", "blocks[0].settings[ask]",
			"blocks[0].instruments", "seed", "blocks[0].own", "blocks[0].marks[main]", "blocks[1].kind",
			"blocks[99].kind", "blocks[x].cards", "do", "own", "effort", "open", "task", "picture", "own_picture",
			"mode",
			"help", "attempts", "minutes", "counts", "release", "shuffled", "late", "blocks[0].settings[shape]",
			"blocks[0].settings[between]", "blocks[0].settings[scale]"}},
		{maren, "/bank/care/new", []string{"sort", "question", "lines", "before", "right", "reason", "do"}},
		{maren, "/ledger/8/times", []string{"opens", "closes"}},
		{maren, "/classes/1/settings", []string{"name", "method.tie", "seen", "joining", "guests", "zone"}},
		{maren, "/classes", []string{"name", "like", "start"}},
		{maren, "/classes/1/people/1", []string{"do", "name", "team", "extra", "to"}},
		{maren, "/classes/1/people/preview", []string{"list"}}, {maren, "/classes/1/people/bring", []string{"list"}},
		{maren, "/classes/1/staff", []string{"login", "role"}},
		{maren, "/classes/1/weights", []string{"weight[1]", "weight[x]", "weight"}},
		{maren, "/ledger/2/excuse", []string{"student", "reason", "do"}}, {maren, "/classes/1/train", []string{"slip"}},
		{maren, "/classes/1/settings", []string{"base", "own[drum]", "own[nothing]", "own", "own[]", "own[mark]"}},
		{maren, "/board/1", []string{"do", "moved", "instrument", "value", "asked", "eye", "point"}},
		{wren, "/round", []string{"round", "observed", "main", "do"}},
		{wren, "/handbook/micrometer/2", []string{"steps", "moved", "uncover", "do", "only", "eye", "object"}},
		{wren, "/handbook/display/1", []string{"steps", "moved", "uncover", "do", "zeroed", "display"}},
		{maren, "/classes/1/give", []string{"sheet", "opens", "closes"}},
		{wren, "/practice/families", []string{"families"}}, {wren, "/practice/1", []string{"main", "observed", "do"}},
		{wren, "/my/8/begin", []string{"again"}}, {wren, "/my/8/1/draft", []string{"main", "fine_line", "choice"}},
		{wren, "/my/8/1", []string{"main", "fine_line", "observed", "choice", "do", "moved"}},
		{maren, "/sheets/2/try/1/1", []string{"main", "fine_line", "observed", "zero_error", "corrected", "do"}},
		{wren, "/my/3/9", []string{"main", "fine_line", "fine", "observed", "zero_error", "corrected"}},
		{maren, "/sheets/7/try/1/1", []string{"main", "observed", "corrected", "verdict", "do"}},
		{maren, "/sheets/7/try/1/9", []string{"value", "do"}},
		{maren, "/sheets/7/try/1/11", []string{"go", "no_go", "go.1", "verdict.2", "verdict.99", "do"}},
		{maren, "/sheets/7/try/1/13", []string{"choice", "do"}},
		{maren, "/sheets/7/try/1/15", []string{"addendum", "upright", "moved", "main", "observed", "do"}},
		{maren, "/sheets/7/try/1/16", []string{"order", "choice", "do"}},
		{maren, "/rack/import", []string{"document"}}, {maren, "/classes", []string{"name"}},
	}
	for _, p := range pages {
		form := url.Values{}
		if p.fields == nil {
			_, _, says := p.who.get(p.path)
			form = fields(says)
			for k := range form {
				p.fields = append(p.fields, k)
			}
			slices.Sort(p.fields)
			p.fields = append(p.fields, "do", "use", "form", "move", "slide", "want", "want_division", "edge", "hold",
				"travel", "eye", "uncover", "object", "raise")
		}
		for range 12 {
			sent := url.Values{}
			maps.Copy(sent, form)
			for range 1 + draws.IntN(3) {
				sent.Set(p.fields[draws.IntN(len(p.fields))], odd[draws.IntN(len(odd))])
			}
			status, _, _ := p.who.post(p.path, sent.Encode())
			require.Less(t, status, 500, "%s with %v", p.path, sent)
		}
	}
	_, _, says := wren.get("/my/3/9")
	assert.NotContains(t, says, "<script>alert", "nothing typed becomes markup")
}

// A digital that is zeroed at the nominal size shows how far a part is from it, with its sign.
func TestADisplayZeroedAtTheNominal(t *testing.T) {
	t.Parallel()
	una := as(t, demoSite(t), "una")
	_, at, _ := una.post(
		"/rack/import",
		url.Values{"document": {`{"format":"cavix/instrument","version":1,"name":"Digital","family":"digital",
		"unit":"mm","main":{"from":"0","to":"150"},"fine":{"kind":"display","step":{"mm":"0.01",
		"in":"0.0005"}}}`}}.Encode(),
	)
	bench := "/bench/" + regexp.MustCompile(`\d+$`).FindString(at)
	field := func(page, name string) string {
		found := regexp.MustCompile(`name="` + name + `" value="([^"]*)"`).FindStringSubmatch(page)
		require.NotNil(t, found, name)
		return found[1]
	}
	_, _, page := una.post(bench, "do=object&object=20.00&steps=0")
	_, _, page = una.post(bench, url.Values{"do": {"zero"}, "steps": {field(page, "steps")}}.Encode())
	_, _, page = una.post(bench, url.Values{"do": {"object"}, "object": {"19.97"}, "steps": {field(page, "steps")},
		"zeroed": {field(page, "zeroed")}}.Encode())
	_, _, page = una.post(bench, url.Values{"do": {"all"}, "steps": {field(page, "steps")},
		"zeroed": {field(page, "zeroed")}}.Encode())
	holds(t, page, "−0.03")
}

// en is what an entry of the English catalogue says.
func en(key string, pairs ...any) string { return locale.English(text.Words{}).Say(key, pairs...) }

// tableOf reads a table that was saved as CSV, which begins with the mark by which spreadsheets know its letters.
func tableOf(says string) ([][]string, error) {
	plain, marked := strings.CutPrefix(says, "\ufeff")
	if !marked {
		return nil, errors.New("the table has no mark of its encoding")
	}
	return csv.NewReader(strings.NewReader(plain)).ReadAll()
}
