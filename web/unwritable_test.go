package web_test

import (
	"database/sql"
	"errors"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/store"
	"cavix/store/storetest"
)

// set does something to the connection that writes.
func set(t *testing.T, s *store.DB, what string) {
	t.Helper()
	storetest.Exec(t, s, what)
}

// When nothing can be written the page says so and repeats what was sent, reading goes on, and sending it again works
// as soon as it can be kept. A passphrase is never repeated.
func TestWhatCannotBeKeptStaysOnThePage(t *testing.T) {
	base, s := demoStore(t)
	wren, maren := as(t, base, "Wren A."), as(t, base, "maren")
	set(t, s, "PRAGMA query_only = 1")
	status, _, says := wren.post("/my/3/7", "main=8&fine_line=4&observed=8.20")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	holdAll(t, says, en("ui.fail.nothing-can-saved-now"), `<form method="post" action="/my/3/7">`,
		`name="observed" value="8.20"`, en("ui.error.send-it-again"))
	status, _, says = maren.post("/classes", "name=Weirs+%22and%22+sluices")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	holds(t, says, `name="name" value="Weirs &#34;and&#34; sluices"`)
	status, _, says = maren.post("/account", "do=change&old=skerry-point&passphrase=another+eight")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.NotContains(t, says, "another eight")
	assert.NotContains(t, says, "skerry-point")
	for _, path := range []string{"/desk", "/classes/1/ledger", "/ledger/2", "/rack"} {
		status, _, _ = maren.get(path)
		assert.Equal(t, http.StatusOK, status, "reading goes on: %s", path)
	}
	status, _, _ = wren.get("/my/3/1")
	assert.Equal(t, http.StatusOK, status)
	status, _, _ = wren.get("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, status)
}

// pagesRead opens what a lesson opens, and wants each at once, whatever hinders writing.
func pagesRead(t *testing.T, wren, maren *visitor, why string) {
	t.Helper()
	for path, v := range map[string]*visitor{"/desk": maren, "/classes/1": maren, "/classes/1/ledger": maren,
		"/ledger/2": maren, "/board/1": maren, "/rack": maren, "/account": maren, "/my": wren, "/my/3/1": wren,
		"/my/2": wren, "/practice": wren, "/round": wren} {
		began := time.Now()
		status, _, _ := v.get(path)
		assert.Equal(t, http.StatusOK, status, "%s: %s", why, path)
		assert.Less(t, time.Since(began), 2*time.Second, "%s: %s", why, path)
	}
}

// While another program holds the file, and while the disk is full, every page is read as ever, and none waits.
func TestPagesAreReadWhileNothingCanBeWritten(t *testing.T) {
	if testing.Short() {
		t.Skip("waits for what is held; left out with -short")
	}
	base, s, file := demoFile(t)
	wren, maren := as(t, base, "Wren A."), as(t, base, "maren")
	other, err := sql.Open("sqlite", file)
	require.NoError(t, err)
	defer other.Close()
	other.SetMaxOpenConns(1)
	_, err = other.Exec("BEGIN IMMEDIATE")
	require.NoError(t, err)
	pagesRead(t, wren, maren, "held")
	status, _, says := wren.post("/my/3/7", "main=8&fine_line=4&observed=8.20")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	holds(t, says, "Send it again in a moment")
	_, err = other.Exec("ROLLBACK")
	require.NoError(t, err)

	set(t, s, "PRAGMA max_page_count = 1") // no page more than there are
	full := false
	for range 400 { // what is free in the file is used up
		err := s.Write(t.Context(), func(tx *store.Tx) error {
			_, err := tx.Exec(t.Context(),
				store.Named("fill", "INSERT INTO changes (assignment, who, what, at) SELECT 1, '', "+
					"hex(zeroblob(4000)), 0"))
			return err
		})
		if full = errors.Is(err, store.ErrFull); full {
			break
		}
		require.NoError(t, err)
	}
	require.True(t, full, "the disk is full")
	pagesRead(t, wren, maren, "full")
}

// While cards cannot be written a student keeps working: what is typed stays in the browser, is sent again, and can be
// handed in as soon as it can be kept.
func TestCardsThatCannotBeWrittenStayInTheBrowser(t *testing.T) {
	base, s := demoStore(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("Wren A.")
	b.open("/my/3/7")
	b.wait("document.querySelector('[name=main]') !== null && window.Alpine !== undefined")
	set(t, s, "CREATE TEMP TRIGGER broken BEFORE UPDATE ON main.cards BEGIN SELECT RAISE(FAIL, 'no cards just "+
		"now'); END")
	b.fill("[name=main]", "8")
	b.waitText(".cardpage", "The server cannot save this now")
	b.open("/my/3/7") // even the page opened anew
	b.wait("document.querySelector('[name=main]').value === '8'")
	b.fill("[name=observed]", "8.20")
	b.click(".boxes .acts .btn-primary")
	b.waitText(".cardpage", "The server cannot save this now")
	b.wait("document.querySelector('[name=observed]').value === '8.20'")
	set(t, s, "DROP TRIGGER broken")
	b.wait("document.querySelector('.cardpage').textContent.includes('saved') && " + nothingKept)
	b.click(".boxes .acts .btn-primary")
	b.click("[value=anyway]")
	b.waitText(".acts", "Next")
}
