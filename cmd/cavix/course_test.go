package main

import (
	"archive/zip"
	"context"
	"encoding/csv"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/school"
	"cavix/school/roster"
	"cavix/store"
)

// database makes a database file and fills it.
func database(t *testing.T, fill func(context.Context, *store.DB) error) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "data.db")
	s, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	require.NoError(t, fill(t.Context(), s))
	require.NoError(t, s.Close())
	return path
}

// files are what a course file holds, by name.
func files(t *testing.T, path string) map[string]string {
	t.Helper()
	z, err := zip.OpenReader(path)
	require.NoError(t, err)
	defer z.Close()
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		b, err := io.ReadAll(r)
		require.NoError(t, err)
		out[f.Name] = string(b)
	}
	return out
}

// A course goes out of one database and into another, and out of that again just as it was; brought in once more all of
// it is the same. People and answers go along only where that is asked for.
func TestACourseTravels(t *testing.T) {
	if testing.Short() {
		t.Skip("fills two schools; left out with -short")
	}
	from := database(t, func(ctx context.Context, s *store.DB) error { return demo.Fill(ctx, s, time.Now()) })
	to := database(t, func(ctx context.Context, s *store.DB) error {
		_, err := school.New(s).Roster.AddInstructor(ctx, roster.Instructor{Login: "odo", Name: "Odo Pell"})
		return err
	})
	dir := t.TempDir()
	first, second, plain := filepath.Join(dir, "first.cavix"), filepath.Join(dir, "second.cavix"),
		filepath.Join(dir, "plain.cavix")
	code, out, errs := call(t, "export", "--data", from, "--class", "MILL47", "--to", first, "--with-people")
	require.Zero(t, code, errs)
	assert.Regexp(t, `\d\d instruments, \d+ sheets, \d+ items of care, 20 people`, out)
	code, _, errs = call(t, "export", "--data", from, "--class", "MILL47", "--to", plain)
	require.Zero(t, code, errs)
	for name := range files(t, plain) {
		assert.NotContains(t, []string{"people.csv", "answers.csv"}, name)
	}
	for _, says := range files(t, plain) {
		assert.NotContains(t, says, "Wren A.", "nobody's name goes along unasked")
	}

	code, looked, errs := call(t, "import", "--data", to, "--as", "odo", "--from", first, "--look")
	require.Zero(t, code, errs)
	assert.NotContains(t, looked, "the same")
	code, brought, errs := call(t, "import", "--data", to, "--as", "odo", "--from", first)
	require.Zero(t, code, errs)
	assert.Equal(t, looked, brought, "what was foretold was done")
	code, again, errs := call(t, "import", "--data", to, "--as", "odo", "--from", first)
	require.Zero(t, code, errs)
	for line := range strings.Lines(again) {
		if !strings.HasPrefix(line, "answers.csv") {
			assert.Contains(t, line, "the same")
		}
	}
	s, err := store.Open(t.Context(), to)
	require.NoError(t, err)
	who, err := school.New(s).Roster.InstructorByLogin(t.Context(), "odo")
	require.NoError(t, err)
	classes, err := school.New(s).Roster.Classes(t.Context(), who.ID)
	require.NoError(t, err)
	require.Len(t, classes, 1)
	sheets, err := school.New(s).Rack.Sheets(t.Context(), who.ID)
	require.NoError(t, err)
	for _, sh := range sheets {
		for i, b := range sh.Definition.Blocks {
			require.Len(t, sh.Racked[i], len(b.Instruments), sh.Title)
			for _, id := range sh.Racked[i] {
				assert.NotZero(t, id, "%s: each instrument is on the Rack", sh.Title)
			}
		}
	}
	require.NoError(t, s.Close())
	code, _, errs = call(t, "export", "--data", to, "--class", classes[0].Code, "--to", second, "--with-people")
	require.Zero(t, code, errs)
	before, after := files(t, first), files(t, second)
	rows, err := csv.NewReader(strings.NewReader(before["answers.csv"])).ReadAll()
	require.NoError(t, err)
	assert.Greater(t, len(rows), 3000, "all answers are in the table")
	delete(before, "answers.csv")
	delete(after, "answers.csv")
	assert.Equal(t, before, after, "a round trip loses nothing")

	code, _, errs = call(t, "import", "--data", to, "--as", "nobody", "--from", first)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "no instructor signs in")
	code, _, errs = call(t, "export", "--data", from, "--class", "NONE99", "--to", first)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "no class has the joining code")
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, left, 3, "nothing half written is left")
}
