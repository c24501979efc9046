package demo_test

import (
	"context"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/slips"
	"cavix/demo"
	"cavix/school"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// filled is a demo that the tests read and none changes.
var filled = sync.OnceValue(func() *store.DB {
	s, err := fill(filepath.Join(folder, "demo.db"))
	if err != nil {
		panic(err)
	}
	return s
})

// folder is where it stands.
var folder string

func TestMain(m *testing.M) {
	var err error
	if folder, err = os.MkdirTemp("", "cavix-demo-"); err != nil {
		panic(err)
	}
	code := m.Run()
	_ = os.RemoveAll(folder)
	os.Exit(code)
}

func fill(file string) (*store.DB, error) {
	ctx := context.Background()
	if err := store.Fill(ctx, file, func(s *store.DB) error {
		return demo.Fill(ctx, s, time.Date(2026, time.November, 25, 10, 20, 0, 0, time.UTC))
	}); err != nil {
		return nil, err
	}
	return store.Open(ctx, file)
}

// ledgers are all marks of an instructor's classes, by the name of the student.
func ledgers(t *testing.T, s *store.DB, login string) map[string][]sitting.Mark {
	t.Helper()
	who, err := school.New(s).Roster.InstructorByLogin(t.Context(), login)
	require.NoError(t, err)
	classes, err := school.New(s).Roster.Classes(t.Context(), who.ID)
	require.NoError(t, err)
	out := map[string][]sitting.Mark{}
	for _, c := range classes {
		names := map[int64]string{}
		students, err := school.New(s).Roster.Students(t.Context(), who.ID, c.ID)
		require.NoError(t, err)
		for _, st := range students {
			names[st.ID] = st.Name
		}
		given, err := school.New(s).Sitting.Assignments(t.Context(), who.ID, c.ID)
		require.NoError(t, err)
		for _, g := range given {
			marks, err := school.New(s).Ledgers.SheetMarks(t.Context(), who.ID, g.ID)
			require.NoError(t, err)
			for _, m := range marks {
				out[names[m.Student]] = append(out[names[m.Student]], m)
			}
		}
	}
	return out
}

// Two fresh demos hold the same people, cards and marks, though their students answer at once.
func TestTheDemoIsTheSameEveryTime(t *testing.T) {
	if testing.Short() {
		t.Skip("fills a second demo; left out with -short")
	}
	one := filled()
	two, err := fill(filepath.Join(t.TempDir(), "demo.db"))
	require.NoError(t, err)
	defer two.Close()
	for _, login := range []string{"maren", "ivo", "una"} {
		assert.Equal(t, ledgers(t, one, login), ledgers(t, two, login), login)
	}
}

// The people of the demo are what its pages say: habits show in the ledger, careful students lose little.
func TestHabitsShowInTheLedger(t *testing.T) {
	if testing.Short() {
		t.Skip("fills the demo once more; left out with -short")
	}
	marks := ledgers(t, filled(), "maren")
	made := func(name string) (of map[string]int, done int) {
		of = map[string]int{}
		for _, m := range marks[name] {
			if m.Done {
				done++
				of[m.Slip]++
			}
		}
		require.Positive(t, done, name)
		return of, done
	}
	for name, habit := range map[string]exercise.Code{"Tobin F.": slips.MainNextMark,
		"Elspeth O.": slips.ZeroSignFlipped, "Fenella K.": slips.LabelTakenAsLine} {
		of, _ := made(name)
		for code, n := range of {
			assert.True(t, code == "" || code == string(habit) || n < of[string(habit)],
				"%s makes %s %d times, %s %d times", name, habit, of[string(habit)], code, n)
		}
	}
	of, done := made("Caspian R.")
	assert.Greater(t, 10*of[""], 8*done, "a careful student")
	open := 0
	for _, m := range marks["Wren A."] {
		if !m.Done {
			open++
		}
	}
	assert.Positive(t, open, "has cards left to work")
}

// Every way in that the pages offer is one.
func TestSignInsAreThoseOfTheStore(t *testing.T) {
	if testing.Short() {
		t.Skip("fills a demo; left out with -short")
	}
	s := filled()
	for i, in := range demo.SignIns() {
		if testing.Short() && i%4 != 0 { // a passphrase takes a while to check
			continue
		}
		if in.Code == "" {
			who, err := school.New(s).Roster.InstructorByLogin(t.Context(), in.Name)
			require.NoError(t, err, in.Name)
			assert.True(t, roster.CheckPassphrase(who.Hash, in.Passphrase))
			continue
		}
		class, err := school.New(s).Roster.ClassByCode(t.Context(), in.Code)
		require.NoError(t, err, in.Code)
		who, err := school.New(s).Roster.StudentByName(t.Context(), class.ID, in.Name)
		require.NoError(t, err, in.Name)
		assert.True(t, roster.CheckPassphrase(who.Hash, in.Passphrase))
	}
}
