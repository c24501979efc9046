// Package schooltest makes a small school for tests: two instructors, their classes, and a sheet that was given.
package schooltest

import (
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// School has two instructors with a class each, and a sheet of four cards that the first class was given.
type School struct {
	*school.School
	DB                     *store.DB
	T                      testing.TB
	Path                   string // of its file
	Anna, Otto             int64  // the instructors
	Class, Other           int64  // Anna's and Otto's
	Pupil, Rival, Stranger int64  // two students of Anna's class, and one of Otto's
	Assignment             int64  // the sheet that Anna's class was given
}

// Open opens the school's file, as a server does that starts.
func (s *School) Open() {
	s.T.Helper()
	st, err := store.Open(s.T.Context(), s.Path)
	require.NoError(s.T, err)
	s.T.Cleanup(func() { st.Close() })
	s.DB, s.School = st, school.New(st)
}

// Must returns the id of something that was kept, and ends the test where it was not.
func (s *School) Must(id int64, err error) int64 {
	s.T.Helper()
	require.NoError(s.T, err)
	return id
}

// Twentieth returns a vernier calliper that reads to 0.05 mm.
func Twentieth(t testing.TB) *instrument.Instrument {
	t.Helper()
	in, err := instrument.New(instrument.Spec{Name: "Twentieth", Family: instrument.VernierCaliper,
		Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 20, MainDivisions: 19}})
	require.NoError(t, err)
	return in
}

// begun is the school as every test begins with it, set up once: who is in it, and its file.
var begun struct {
	sync.Once
	School
	file []byte
}

// New returns a school of its own for a test.
func New(t testing.TB) *School {
	t.Helper()
	begun.Do(func() {
		s := setUp(t)
		require.NoError(t, s.DB.Close())
		file, err := os.ReadFile(s.Path)
		require.NoError(t, err)
		begun.School, begun.file = *s, file
	})
	s := begun.School
	s.T, s.Path = t, filepath.Join(t.TempDir(), "school.db")
	require.NoError(t, os.WriteFile(s.Path, begun.file, 0o600))
	s.Open()
	return &s
}

// setUp makes the school that tests begin with.
func setUp(t testing.TB) *School {
	t.Helper()
	s := &School{T: t, Path: filepath.Join(t.TempDir(), "school.db")}
	s.Open()
	ctx := t.Context()
	s.Anna = s.Must(s.Roster.SetUp(ctx, roster.Instructor{Login: "Anna", Name: "Anna"}))
	s.Otto = s.Must(s.Roster.AddInstructor(ctx, roster.Instructor{Login: "otto", Name: "Otto"}))
	s.Class = s.Must(s.Roster.AddClass(ctx, s.Anna, "Mondays", "AAAAAA"))
	s.Other = s.Must(s.Roster.AddClass(ctx, s.Otto, "Tuesdays", ""))
	s.Pupil = s.Must(s.Roster.Join(ctx, s.Class, "Wren A.", "hash", time.Now()))
	s.Rival = s.Must(s.Roster.Join(ctx, s.Class, "Bram H.", "hash", time.Now()))
	s.Stranger = s.Must(s.Roster.Join(ctx, s.Other, "Wren A.", "hash", time.Now()))
	in := Twentieth(t)
	racked := s.Must(s.Rack.KeepInstrument(ctx, s.Anna, 0, in))
	sheet := s.Must(s.Rack.KeepSheet(ctx, s.Anna, rack.Sheet{Title: "Pins", Racked: [][]int64{{racked}},
		Definition: exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "read", Cards: 4,
				Instruments: []*instrument.Instrument{in}, Settings: map[string]string{"ask": "main observed"}}}}}))
	s.Assignment = s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, sheet, 5, time.Now()))
	return s
}

// Card returns the student's card with a number, on the sheet that was given.
func (s *School) Card(student int64, n int) sitting.Card {
	s.T.Helper()
	c, _, err := s.Sitting.MyCard(s.T.Context(), student, s.Assignment, n, time.Now())
	require.NoError(s.T, err)
	return c
}

// Stands returns how a student stands with the sheet now.
func (s *School) Stands(student int64) sitting.State {
	s.T.Helper()
	st, err := s.Sitting.Stands(s.T.Context(), student, s.Assignment, time.Now())
	require.NoError(s.T, err)
	return st
}

// Draft keeps what is typed on a card, as its page sends it.
func (s *School) Draft(student int64, c sitting.Card, typed exercise.Answer) error {
	return s.Sitting.SaveDraft(s.T.Context(), student, c, s.Stands(student), typed)
}

// Hint takes one hint.
func (s *School) Hint(student int64, c sitting.Card) {
	s.T.Helper()
	require.NoError(s.T, s.Sitting.TakeHint(s.T.Context(), student, c, s.Stands(student)))
}

// Right returns what a card should hold.
func (s *School) Right(c sitting.Card) exercise.Answer {
	s.T.Helper()
	r, err := c.Item.Mark(nil)
	require.NoError(s.T, err)
	a := exercise.Answer{}
	for _, m := range r.Fields {
		a[m.Field] = m.Expected
	}
	return a
}

// Submit checks a card with an answer, which must count.
func (s *School) Submit(c sitting.Card, a exercise.Answer) {
	s.T.Helper()
	counted, err := s.Sitting.Submit(s.T.Context(), c.Student, c, s.Stands(c.Student), a, time.Now())
	require.NoError(s.T, err)
	require.True(s.T, counted)
}

// Total returns the marks of the class on the sheet.
func (s *School) Total() string {
	s.T.Helper()
	g, err := s.Sitting.GivenSheet(s.T.Context(), s.Anna, s.Assignment)
	require.NoError(s.T, err)
	return g.Marks.String()
}

// Careless returns the right values, with two decimals too many.
func (s *School) Careless(c sitting.Card) exercise.Answer {
	a := s.Right(c)
	a["observed"] += "00"
	return a
}

// Lenient takes a reading with any number of decimals.
var Lenient = exercise.Method{Decimals: "lenient"}

// Change changes rows of the file behind the program's back.
func (s *School) Change(query string, args ...any) {
	s.T.Helper()
	db, err := sql.Open("sqlite", s.Path)
	require.NoError(s.T, err)
	defer db.Close()
	_, err = db.Exec(query, args...)
	require.NoError(s.T, err)
}

// Count checks a number that a query of the file returns.
func (s *School) Count(want int, query string, args ...any) {
	s.T.Helper()
	db, err := sql.Open("sqlite", s.Path)
	require.NoError(s.T, err)
	defer db.Close()
	var n int
	require.NoError(s.T, db.QueryRow(query, args...).Scan(&n))
	assert.Equal(s.T, want, n)
}

// OneOf returns a list of one instrument.
func OneOf(in *instrument.Instrument) []*instrument.Instrument { return []*instrument.Instrument{in} }

// Settle changes settings of the class as its owner does.
func (s *School) Settle(change func(*roster.Settings)) error {
	c, err := s.Roster.Class(s.T.Context(), s.Anna, s.Class)
	require.NoError(s.T, err)
	now, err := roster.SettingsOf(c)
	require.NoError(s.T, err)
	change(&now)
	return s.Roster.SaveSettings(s.T.Context(), access.Actor{ID: s.Anna, Name: "Anna", At: time.Now()}, s.Class, now)
}

// Test is a school at a time of its own, whose first class was given a test.
type Test struct {
	*School
	Now  time.Time
	Test int64 // the assignment
}

// NewTest returns a school whose first class was given a test of three cards, with a delivery.
func NewTest(t *testing.T, c exercise.Delivery) *Test {
	t.Helper()
	s := &Test{School: New(t), Now: time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)}
	c.Mode = exercise.Test
	in := Twentieth(t)
	sheet := s.Must(s.Rack.KeepSheet(t.Context(), s.Anna, rack.Sheet{Title: "Test", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Delivery: c, Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "read", Cards: 3, Instruments: []*instrument.Instrument{in},
				Settings: map[string]string{"ask": "main observed"}}}}}))
	s.Test = s.Must(s.Sitting.Give(t.Context(), s.Anna, s.Class, sheet, 5, s.Now))
	s.Assignment = s.Test
	return s
}

// Sit has a student begin the test, or go on with it.
func (s *Test) Sit(student int64) sitting.State {
	s.T.Helper()
	st, err := s.Sitting.Sit(s.T.Context(), student, s.Test, s.Now)
	require.NoError(s.T, err)
	return st
}

// At returns how a student stands with the test, with the marks.
func (s *Test) At(student int64) sitting.State {
	s.T.Helper()
	st, err := s.Sitting.Stands(s.T.Context(), student, s.Test, s.Now)
	require.NoError(s.T, err)
	st, err = s.Sitting.Score(s.T.Context(), student, st)
	require.NoError(s.T, err)
	return st
}

// CardAt returns a card of the test as a student sees it at the time of the school.
func (s *Test) CardAt(student int64, n int) sitting.Card {
	s.T.Helper()
	c, _, err := s.Sitting.MyCard(s.T.Context(), student, s.Test, n, s.Now)
	require.NoError(s.T, err)
	return c
}

// Type keeps what a student types on a card of the test.
func (s *Test) Type(student int64, n int, a exercise.Answer) error {
	s.T.Helper()
	return s.Sitting.SaveDraft(s.T.Context(), student, s.CardAt(student, n), s.At(student), a)
}

// Check checks a card of the test with an answer, which must count.
func (s *Test) Check(student int64, n int, a exercise.Answer) {
	s.T.Helper()
	c, st, err := s.Sitting.MyCard(s.T.Context(), student, s.Test, n, s.Now)
	require.NoError(s.T, err)
	counted, err := s.Sitting.Submit(s.T.Context(), student, c, st, a, s.Now)
	require.NoError(s.T, err)
	require.True(s.T, counted)
}

// Standing returns a student's total of the sheet in the ledger of the class, alone.
func (s *Test) Standing(student int64) string {
	s.T.Helper()
	l, err := s.Ledgers.Ledger(s.T.Context(), s.Anna, s.Class, s.Now)
	require.NoError(s.T, err)
	weights := map[int64]int{}
	for _, g := range l.Sheets {
		weights[g.ID] = 0
	}
	weights[s.Test] = 1
	require.NoError(s.T, s.Ledgers.SetWeights(s.T.Context(), access.Actor{ID: s.Anna, At: s.Now}, s.Class, weights))
	l, err = s.Ledgers.Ledger(s.T.Context(), s.Anna, s.Class, s.Now)
	require.NoError(s.T, err)
	for _, row := range l.Rows {
		if row.Student.ID != student {
			continue
		}
		sum := row.Total
		if !sum.Counts {
			return "not counted"
		}
		share := sum.Share.MulInt(100).Text(0) + " %"
		if sum.Cards > 0 {
			return fmt.Sprintf("%d of %d cards, %s", sum.Done, sum.Cards, share)
		}
		return share
	}
	return "not in the ledger"
}

// Extra gives the pupil more minutes for whatever is timed.
func (s *School) Extra(minutes int) error {
	ctx := s.T.Context()
	st, err := s.Roster.Student(ctx, s.Pupil)
	require.NoError(s.T, err)
	st.Extra = minutes
	return s.Roster.ChangeStudent(ctx, access.Actor{ID: s.Anna, Name: "Anna", At: time.Now()}, st)
}
