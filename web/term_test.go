package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"cavix/school"
	"cavix/store/storetest"
)

// upload sends a file in a form, and returns the page that follows.
func (v *visitor) upload(path, field, name string, content []byte) (int, string) {
	v.t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	part, err := w.CreateFormFile(field, name)
	require.NoError(v.t, err)
	_, err = part.Write(content)
	require.NoError(v.t, err)
	require.NoError(v.t, w.Close())
	r, err := v.Post(v.base+path, w.FormDataContentType(), &b)
	require.NoError(v.t, err)
	defer r.Body.Close()
	says, err := io.ReadAll(r.Body)
	require.NoError(v.t, err)
	return r.StatusCode, string(says)
}

// file fetches a file.
func (v *visitor) file(path string) []byte {
	v.t.Helper()
	r, err := v.Get(v.base + path)
	require.NoError(v.t, err)
	defer r.Body.Close()
	require.Equal(v.t, http.StatusOK, r.StatusCode, path)
	require.Contains(v.t, r.Header.Get("Content-Disposition"), "attachment; filename=")
	b, err := io.ReadAll(r.Body)
	require.NoError(v.t, err)
	return b
}

// spreadsheet writes rows as an XLSX file.
func spreadsheet(t *testing.T, rows [][]any) []byte {
	t.Helper()
	f := excelize.NewFile()
	for i, row := range rows {
		require.NoError(t, f.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row))
	}
	b, err := f.WriteToBuffer()
	require.NoError(t, err)
	return b.Bytes()
}

// Names that are one name to those who join with them are caught in the preview, and so is one that a guest has taken
// between the preview and bringing the list in. Any name that is accepted can be printed.
func TestNamesOfAListOnThePage(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, page := maren.upload("/classes/1/people/preview", "file", "list.csv", []byte("name\nStraße\nSTRASSE\n"))
	holds(t, page, "has the same name as line 2")
	assert.NotContains(t, page, "Import 2 people")

	_, page = maren.upload("/classes/1/people/preview", "file", "list.csv",
		[]byte("name,group\nMo 😀,Weir crew\nLate Q.,\n"))
	holds(t, page, "Import 2 people")
	_, at, _ := newVisitor(t, base).post("/join", "code=MILL47&name=late+q.&passphrase=eight+signs&do=join")
	require.Equal(t, "/my", at)
	status, _, page := maren.post("/classes/1/people/bring", fields(page).Encode())
	if status != http.StatusOK { // the clash is shown row by row, and can be sent again
		assert.Less(t, status, 500)
		holds(t, page, "Late Q.")
		_, _, page = maren.post("/classes/1/people/bring", fields(page).Encode())
	}
	holds(t, page, "Mo 😀")
	assert.Equal(t, 1, strings.Count(strings.ToLower(page), ">late q.</a>"))
	_, _, page = maren.post("/ledger/2/paper", "per=student")
	holds(t, page, "Mo 😀")
	version := regexp.MustCompile(`Mo 😀[^§]*?href="(/ledger/2/paper/\d+)"`).FindStringSubmatch(page)
	require.NotNil(t, version)
	assert.True(t, strings.HasPrefix(string(maren.file(version[1])), "%PDF-"))
}

// A sheet that cannot be read any more is named wherever a total lacks it, on the page and in the table, and keeps no
// other page from opening.
func TestASheetThatCannotBeRead(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	maren, wren := as(t, base, "maren"), as(t, base, "Wren A.")
	_, _, page := maren.get("/classes/1/ledger")
	assert.NotContains(t, page, "Not included in the totals")
	holds(t, page, "Weir shims, fine lines")
	set(t, s, `UPDATE assignments SET definition = '{"format":' WHERE title = 'Weir shims, fine lines'`)
	_, _, page = maren.get("/classes/1/ledger")
	holdAll(t, page, "Not included in the totals, because the sheet cannot be read", "<b>Weir shims, fine lines</b>")
	table := string(maren.file("/classes/1/ledger/table"))
	header, _, _ := strings.Cut(table, "\n")
	assert.Contains(t, header, "\"Weir shims, fine lines (cannot be read, not included in the total)\"")
	for path, v := range map[string]*visitor{"/desk": maren, "/classes/1": maren, "/classes/1/wrong": maren,
		"/classes/1/people/1": maren, "/my": wren, "/practice": wren, "/my/bench": wren} {
		status, _, page := v.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		if path == "/my" || path == "/my/bench" {
			assert.Contains(t, page, "<b>Weir shims, fine lines</b> cannot be read", path)
		}
	}
}

// People are brought in from a spreadsheet after a look at each row; half a list is never brought in; they join with
// the code, move, leave, hand their data out and are deleted, each of which is logged.
func TestPeopleThroughATerm(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	list := spreadsheet(t, [][]any{{"Group", "Full name", "Extra minutes"}, {"Tide crew", "Wren A.", 10},
		{"", "Hesper Q.", ""}, {"Tide crew", "=1+1", nil}, {"", "Hesper q.", ""}})
	_, page := maren.upload("/classes/1/people/preview", "file", "list.xlsx", list)
	holds(t, page, "has the same name as line 3", "nothing is brought in with a row that cannot be")
	assert.NotContains(t, page, "Import 4 people")
	_, _, people := maren.get("/classes/1/people")
	assert.NotContains(t, people, "Hesper")

	good := "name,group,extra minutes\nWren A.,Tide crew,10\nHesper Q.,,\nBram H.,Weir crew,\n"
	_, page = maren.upload("/classes/1/people/preview", "file", "list.csv", []byte(good))
	for _, says := range []string{"<b>1</b> new", "<b>1</b> changed", "<b>1</b> the same", "Import 3 people"} {
		holds(t, page, says)
	}
	_, _, people = maren.post("/classes/1/people/bring", fields(page).Encode())
	for _, says := range []string{"Hesper Q.", "Tide crew", "1 new, 1 changed", "joins with the code"} {
		holds(t, people, says)
	}
	_, _, slips := maren.get("/classes/1/people/slips")
	holds(t, slips, "Hesper Q.")
	assert.Equal(t, 21, strings.Count(slips, `class="qr"`))

	hesper := newVisitor(t, base)
	_, at, _ := hesper.post("/join", "code=MILL47&name=hesper+q.&passphrase=eight+signs&do=join")
	require.Equal(t, "/my", at)
	person := regexp.MustCompile(`href="(/classes/1/people/\d+)">Hesper`).FindStringSubmatch(people)[1]
	_, _, page = maren.post(person, "do=keep&name=Wren+A.&extra=")
	holds(t, page, "has this name already")
	_, _, page = maren.post(person, "do=leave")
	holds(t, page, en("log.set-barred"))
	_, at, _ = hesper.get("/my")
	assert.Equal(t, "/join", at, "at once")
	_, at, page = newVisitor(t, base).post("/join", "code=MILL47&name=hesper+q.&passphrase=eight+signs&do=join")
	assert.Equal(t, "/join", at)
	holds(t, page, en("account.coming.not-class-any-more"))
	maren.post(person, "do=back")

	_, _, page = maren.post("/classes", "name=Evening+boards")
	other := regexp.MustCompile(`/classes/(\d+)/people`).FindStringSubmatch(page)[1]
	_, _, page = maren.post(person, "do=move&to="+other)
	assert.NotContains(t, page, ">Hesper Q.</a>")
	moved := strings.Replace(person, "/1/", "/"+other+"/", 1)
	status, _, page := maren.get(moved)
	assert.Equal(t, http.StatusOK, status)
	holds(t, page, "Hesper Q.")

	// All data of one student, and then none.
	data := maren.file("/classes/1/people/2/data")
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	require.Len(t, z.File, 4)
	f, err := z.Open("answers.csv")
	require.NoError(t, err)
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	assert.Greater(t, len(rows), 100)
	for _, row := range rows[1:] {
		assert.Equal(t, "Tobin F.", row[7])
	}
	_, at, page = maren.post("/classes/1/people/2", "do=drop")
	require.Equal(t, "/bin", at)
	holdAll(t, page, "Tobin F.", "It is in the bin")
	_, _, page = maren.get("/classes/1/people")
	holds(t, page, en("log.drop-student"))
	assert.NotContains(t, page, ">Tobin F.</a>")
	_, _, page = maren.post("/bin", "sort=student&id=2&do=remove")
	holds(t, page, "removed for good")
	status, _, _ = maren.get("/ledger/2/2/1")
	assert.Equal(t, http.StatusNotFound, status)

	// Put away: nobody joins or works, until it is brought back.
	wren := as(t, base, "Wren A.")
	maren.post("/classes/1/archive", "")
	_, at, _ = wren.get("/my")
	assert.Equal(t, "/join", at)
	_, _, page = newVisitor(t, base).post("/join", "code=MILL47&name=Somebody&passphrase=eight+signs&do=join")
	holds(t, page, "No class has this code")
	maren.post("/classes/1/archive", "")
	_, at, _ = as(t, base, "Wren A.").get("/my")
	assert.Equal(t, "/my", at)
}

// What somebody who teaches along may do hangs on their role, on every page and every form.
func TestTeachingAlong(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, una := as(t, base, "maren"), as(t, base, "una")
	mark := func() int {
		status, _, _ := una.post("/ledger/2/3/1?attempt=1", "mark=1&reason=seen+at+the+bench")
		return status
	}
	assert.Equal(t, http.StatusNotFound, mark(), "a stranger to the class")
	_, _, page := maren.post("/classes/1/staff", "login=nobody&role=looks")
	holds(t, page, "No instructor has this sign-in name")
	maren.post("/classes/1/staff", "login=una&role=looks")
	for _, path := range []string{"/classes/1", "/classes/1/people", "/classes/1/people/3", "/classes/1/ledger",
		"/ledger/2", "/wrong/2", "/classes/1/wrong", "/watch/2", "/ledger/2/3/1"} {
		status, _, _ := una.get(path)
		assert.Equal(t, http.StatusOK, status, path)
	}
	assert.Equal(t, http.StatusForbidden, mark())
	maren.post("/classes/1/staff", "login=una&role=marks")
	assert.Equal(t, http.StatusOK, mark())
	for path, form := range map[string]string{"/classes/1/people/3": "do=drop",
		"/classes/1/people/bring": "list=Hesper", "/classes/1/archive": "", "/classes/1/staff": "login=una&role=marks",
		"/classes/1/settings": "base=laboratory"} {
		status, _, _ := una.post(path, form)
		assert.Equal(t, http.StatusForbidden, status, path)
	}
	maren.post("/classes/1/staff", "login=una&role=")
	assert.Equal(t, http.StatusNotFound, mark())
	_, _, page = maren.post("/classes/1/staff", "login=maren&role=looks")
	holds(t, page, "stays the owner")
}

// The ledger of a term: by keyboard from cell to cell and into one, sorted, filtered, weighed, somebody excused; what
// it shows is what its tables hold.
func TestTheLedgerOfATerm(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	b.open("/classes/1/ledger")
	b.do(run("document.querySelector('.term tbody th a').focus()"))
	b.keys(kb.ArrowRight + kb.ArrowRight + kb.ArrowRight + kb.ArrowDown)
	assert.Equal(t, "Bram H. 3",
		eval[string](b, `document.activeElement.closest('tr').cells[0].innerText + " " + document.activeElement
			.closest('td').cellIndex`))
	b.keys(kb.Enter)
	b.waitText("h1", "Sluice pins")
	b.open("/classes/1/ledger?sort=-total")
	totals := eval[[]float64](b,
		"[...document.querySelectorAll('.term tbody .total')].map((c) => parseFloat(c.textContent))")
	for i, x := range totals[1:] {
		assert.LessOrEqual(t, x, totals[i])
	}
	require.Len(t, totals, 20)
	b.fill("[name=q]", "spet")
	b.keys(kb.Enter)
	b.wait("document.querySelectorAll('.term tbody tr').length === 1")
	b.do(chromedp.WaitVisible(chromedp.CSS("[aria-sort=descending]")))

	maren := as(t, base, "maren")
	cell := func() []string {
		_, _, table := maren.get("/classes/1/ledger/table?sort=name")
		rows, err := tableOf(table)
		require.NoError(t, err)
		require.Len(t, rows, 21)
		return rows[4] // Dunstan E., who was not there for the test
	}
	before := cell()
	assert.Equal(t, "Dunstan E.", before[0])
	assert.Equal(t, "0", before[8])
	_, _, table := maren.get("/classes/1/ledger/table?sort=name")
	head, _, _ := strings.Cut(table, "\n")
	holds(t, head, "Sluice pins (marks out of ")
	holds(t, head, "total (%),cards answered of open sheets")
	total := len(before) - 2
	_, _, page := maren.post("/ledger/7/excuse", "student=19&reason=")
	holds(t, page, "Give a reason")
	maren.post("/ledger/7/excuse", "student=19&reason=was+ill")
	after := cell()
	assert.Equal(t, "excused", after[8])
	assert.Greater(t, after[total], before[total], "the total no longer counts it")
	_, _, page = maren.post("/classes/1/weights", "weight[1]=99")
	holds(t, page, "must be from 0 to 20")
	maren.post("/classes/1/weights", "weight[1]=0&weight[2]=5")
	assert.NotEqual(t, after[total], cell()[total])
	_, _, page = maren.get("/ledger/7")
	holds(t, page, "excused Dunstan E.: was ill")
	holds(t, page, "excused</b>")

	x, err := excelize.OpenReader(bytes.NewReader(maren.file("/classes/1/ledger/table?as=xlsx&sort=name")))
	require.NoError(t, err)
	rows, err := x.GetRows(x.GetSheetList()[0])
	require.NoError(t, err)
	assert.Equal(t, cell(), rows[4])
}

// Marks that changed with an upgrade stand on the leader's Desk until they are dismissed, and nowhere after that.
func TestMarksChangedByAnUpgrade(t *testing.T) {
	long(t)
	t.Parallel()
	base, st := demoStore(t)
	ctx := t.Context()
	for _, q := range []string{ // as an earlier version left it: a practice sheet that has closed half done
		"UPDATE cards SET answered = NULL, answer = NULL, half_marks = NULL, half_of = NULL, slip = NULL WHERE " +
			"assignment = 1 AND n > 2",
		"UPDATE cards SET half_full = half_of WHERE assignment = 1",
		"UPDATE assignments SET closes = 1 WHERE id = 1",
	} {
		storetest.Exec(t, st, q)
	}
	require.NoError(t, school.New(st).Ledgers.FinishUpgrade(ctx, time.Now()))
	maren := as(t, base, "maren")
	_, _, desk := maren.get("/desk")
	holds(t, desk, en("class.desk.changed-marks-in-per"))
	assert.Regexp(t, `Bram H\. \d+ → \d+`, desk)
	_, _, other := as(t, base, "tobias").get("/desk")
	assert.NotContains(t, other, "Changed marks")
	maren.post("/classes/1/changed-marks", "")
	_, _, desk = maren.get("/desk")
	assert.NotContains(t, desk, "Changed marks")
}

// From a slip one press composes a sheet that trains it, and from there it is given as any other.
func TestFromASlipToASheetThatTrainsIt(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("maren")
	b.open("/wrong/2")
	b.waitText(".behind", "reading the line next to the right one")
	low := eval[float64](b, "document.querySelector('.behind .btn-link').getBoundingClientRect().bottom")
	assert.Less(t, low, 800.0, "in sight without scrolling")
	b.do(run("document.querySelector('.behind .btn-link').click()"))
	b.wait("location.pathname.startsWith('/sheets/') && document.readyState === 'complete' && " +
		"!!document.querySelector('[name=title]')")
	assert.Equal(t, "Once more: next line", eval[string](b, "document.querySelector('[name=title]').value"))
	b.waitText(".keepbar", "Saved")
	covered := eval[string](b, "document.querySelector('main').textContent")
	assert.Contains(t, covered, "next to the right one")
}

// In a browser: a list with a row at fault is mended and brought in; a mark of one's own is given with its reason, and
// stands in the ledger.
func TestAListIsMendedAndAMarkIsGiven(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("maren")
	b.open("/classes/1/people")
	b.fill("[name=list]", "Hesper Q., Tide crew\nhesper q.\nJunia B., Weir crew, much")
	b.click("form[action$=preview] button")
	b.waitText("[role=alert]", "2 rows cannot be imported")
	b.waitText(".bring tbody tr:nth-child(3)", "must be a whole number")
	b.fill("[name=list]", "Hesper Q., Tide crew\nJunia B., Weir crew, 10")
	b.click("form[action$=preview] button")
	b.waitText("#counts", "2 new")
	b.click("form[action$=bring] button")
	b.waitText(".log", "2 new")
	b.waitText(".peopletable", "Junia B.")

	b.open("/ledger/2/2/1")
	b.fill("[name=mark]", "4.5")
	b.fill("[name=reason]", "read it aloud, rightly")
	b.keys(kb.Enter)
	b.waitText("main", "read it aloud, rightly")
	b.open("/ledger/2")
	b.waitText("main", "on card 1 of Tobin F.: read it aloud, rightly")
}
