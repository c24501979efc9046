package store_test

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/marking"
	"cavix/store"
)

// school is a store with two instructors, a class each and a sheet given to the first.
type school struct {
	*store.Store
	path                   string
	anna, otto             int64
	class, other           int64
	pupil, rival, stranger int64
	assignment             int64
}

func newSchool(t testing.TB) *school {
	t.Helper()
	s := &school{path: filepath.Join(t.TempDir(), "school.db")}
	ctx := t.Context()
	var err error
	s.Store, err = store.Open(ctx, s.path)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	must := func(id int64, err error) int64 {
		t.Helper()
		require.NoError(t, err)
		return id
	}
	s.anna = must(s.AddFirstInstructor(ctx, store.Instructor{Login: "Anna", Name: "Anna"}))
	s.otto = must(s.AddInstructor(ctx, store.Instructor{Login: "otto", Name: "Otto"}))
	s.class = must(s.AddClass(ctx, s.anna, "Mondays", "AAAAAA"))
	s.other = must(s.AddClass(ctx, s.otto, "Tuesdays", "BBBBBB"))
	s.pupil = must(s.AddStudent(ctx, s.class, "Wren A.", "hash"))
	s.rival = must(s.AddStudent(ctx, s.class, "Bram H.", "hash"))
	s.stranger = must(s.AddStudent(ctx, s.other, "Wren A.", "hash"))
	in, err := instrument.New(instrument.Spec{Name: "Twentieth", Family: instrument.VernierCaliper, Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Int(1), To: length.Int(150)}, Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 20, Spans: 19}})
	require.NoError(t, err)
	racked := must(s.KeepInstrument(ctx, s.anna, 0, in))
	sheet := must(s.KeepSheet(ctx, s.anna, store.Sheet{Title: "Pins", Racked: []int64{racked},
		Definition: exercise.Sheet{Instruments: []*instrument.Instrument{in}, Cards: 4, Ask: []marking.Step{marking.Main, marking.Observed}, Zero: exercise.ZeroOwn}}))
	s.assignment = must(s.Give(ctx, s.anna, s.class, sheet, 5, time.Now()))
	return s
}

func (s *school) card(t testing.TB, student int64, n int) store.Card {
	t.Helper()
	require.NoError(t, s.Deal(t.Context(), student, s.assignment))
	c, err := s.Card(t.Context(), student, s.assignment, n)
	require.NoError(t, err)
	return c
}

func mark(t testing.TB, c store.Card, a marking.Answer) *marking.Result {
	t.Helper()
	r, err := c.Item.Mark(a)
	require.NoError(t, err)
	return &r
}

func TestACardSurvivesAndCountsOnce(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	k := s.card(t, s.pupil, 2)
	require.NoError(t, s.SaveDraft(ctx, s.pupil, k.ID, marking.Answer{"main": "47"}))
	require.NoError(t, s.Close())
	var err error
	s.Store, err = store.Open(ctx, s.path) // the server was started anew
	require.NoError(t, err)
	again := s.card(t, s.pupil, 2)
	assert.Equal(t, marking.Answer{"main": "47"}, again.Draft)
	assert.Equal(t, k.Item.Indicated, again.Item.Indicated, "dealt once")
	assert.False(t, again.Done())

	first := marking.Answer{"main": "1", "observed": "2.00"}
	counted, err := s.Submit(ctx, s.pupil, k.ID, first, mark(t, k, first), length.Number{}, time.Now())
	require.NoError(t, err)
	assert.True(t, counted)
	second := marking.Answer{"main": "3", "observed": "4.00"}
	counted, err = s.Submit(ctx, s.pupil, k.ID, second, mark(t, k, second), length.Number{}, time.Now())
	require.NoError(t, err)
	assert.False(t, counted, "sent twice counts once")
	require.NoError(t, s.SaveDraft(ctx, s.pupil, k.ID, second), "too late, and no harm")
	done := s.card(t, s.pupil, 2)
	assert.True(t, done.Done())
	assert.Equal(t, first, done.Answer)
	assert.Empty(t, done.Draft)
	assert.Equal(t, "2", done.Of.String())
}

func TestEverybodySeesOnlyWhatIsTheirs(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	k := s.card(t, s.pupil, 1)
	s.card(t, s.rival, 1)
	notFound := func(err error) { t.Helper(); assert.ErrorIs(t, err, store.ErrNotFound) }

	assert.NotEqual(t, k.Item.Indicated, s.card(t, s.rival, 1).Item.Indicated, "each gets own values")
	notFound(s.Deal(ctx, s.stranger, s.assignment))
	_, err := s.Card(ctx, s.stranger, s.assignment, 1)
	notFound(err)
	_, err = s.StudentAssignment(ctx, s.stranger, s.assignment)
	notFound(err)
	a := marking.Answer{"main": "1", "observed": "1.00"}
	counted, err := s.Submit(ctx, s.rival, k.ID, a, mark(t, k, a), length.Number{}, time.Now())
	require.NoError(t, err)
	assert.False(t, counted, "not the rival's card")
	require.NoError(t, s.SaveDraft(ctx, s.rival, k.ID, a))
	assert.Empty(t, s.card(t, s.pupil, 1).Draft)

	_, err = s.StudentCard(ctx, s.anna, s.assignment, s.pupil, 1)
	require.NoError(t, err)
	_, err = s.StudentCard(ctx, s.otto, s.assignment, s.pupil, 1)
	notFound(err)
	_, err = s.Assignment(ctx, s.otto, s.assignment)
	notFound(err)
	_, err = s.Class(ctx, s.otto, s.class)
	notFound(err)
	notFound(s.ClearPassphrase(ctx, s.otto, s.class, s.pupil))
	notFound(s.ClearPassphrase(ctx, s.otto, s.other, s.pupil))
	rack, err := s.Rack(ctx, s.anna)
	require.NoError(t, err)
	_, err = s.Racked(ctx, s.otto, rack[0].ID)
	notFound(err)
	notFound(s.DropInstrument(ctx, s.otto, rack[0].ID))
	_, err = s.KeepInstrument(ctx, s.otto, rack[0].ID, rack[0].Instrument)
	notFound(err)
	sheets, err := s.Sheets(ctx, s.anna)
	require.NoError(t, err)
	_, err = s.Sheet(ctx, s.otto, sheets[0].ID)
	notFound(err)
	_, err = s.Give(ctx, s.otto, s.other, sheets[0].ID, 1, time.Now())
	notFound(err)
	_, err = s.Give(ctx, s.otto, s.class, sheets[0].ID, 1, time.Now())
	notFound(err)
	_, err = s.Give(ctx, s.anna, s.class, sheets[0].ID, 1, time.Now())
	assert.ErrorIs(t, err, store.ErrTaken, "given already")
	for _, list := range []func() (int, error){
		func() (int, error) { l, err := s.Ledger(ctx, s.otto, s.assignment); return len(l), err },
		func() (int, error) { l, err := s.Students(ctx, s.otto, s.class); return len(l), err },
		func() (int, error) { l, err := s.Assignments(ctx, s.otto, s.class); return len(l), err },
	} {
		n, err := list()
		require.NoError(t, err)
		assert.Zero(t, n)
	}
}

func TestNamesAndPassphrases(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	_, err := s.AddFirstInstructor(ctx, store.Instructor{Login: "late"})
	assert.ErrorIs(t, err, store.ErrTaken)
	_, err = s.AddInstructor(ctx, store.Instructor{Login: " ANNA "})
	assert.ErrorIs(t, err, store.ErrTaken)
	_, err = s.AddStudent(ctx, s.class, "wren  a.", "x")
	assert.ErrorIs(t, err, store.ErrTaken)
	st, err := s.StudentByName(ctx, s.class, "WREN A.")
	require.NoError(t, err)
	assert.Equal(t, s.pupil, st.ID)

	assert.ErrorIs(t, s.ChoosePassphrase(ctx, s.pupil, "new"), store.ErrTaken, "the old one stands")
	require.NoError(t, s.ClearPassphrase(ctx, s.anna, s.class, s.pupil))
	require.NoError(t, s.ChoosePassphrase(ctx, s.pupil, "new"))
	assert.ErrorIs(t, s.ChoosePassphrase(ctx, s.pupil, "newer"), store.ErrTaken)

	hash := store.HashPassphrase("skerry point")
	assert.True(t, store.CheckPassphrase(hash, "skerry point"))
	assert.False(t, store.CheckPassphrase(hash, "Skerry point"))
	assert.NotEqual(t, hash, store.HashPassphrase("skerry point"), "salted")
	for _, h := range []string{"", "$argon2id$v=19$m=1,t=1,p=1$x", "$a$b$c$d$e"} {
		assert.False(t, store.CheckPassphrase(h, ""))
	}
}

// Work that fails, panics or is given up undoes itself alone, though it shares a commit with others.
func TestWritersShareACommitButNotAFate(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	gone, cancel := context.WithCancel(ctx)
	cancel()
	boom := errors.New("boom")
	add := func(tx *store.Tx, name string) error {
		_, err := tx.Exec("INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, '', 0)", s.other, name, name)
		return err
	}
	var wg sync.WaitGroup
	errs := make([]error, 400)
	for i := range errs {
		wg.Go(func() {
			c := ctx
			if i%4 == 3 {
				c = gone
			}
			errs[i] = s.Write(c, func(tx *store.Tx) error {
				if err := add(tx, fmt.Sprintf("pupil %d", i)); err != nil {
					return err
				}
				switch i % 4 {
				case 1:
					return boom
				case 2:
					panic("dropped")
				}
				return nil
			})
		})
	}
	wg.Wait()
	for i, err := range errs {
		switch i % 4 {
		case 0:
			assert.NoError(t, err)
		case 1:
			assert.ErrorIs(t, err, boom)
		case 2:
			assert.ErrorContains(t, err, "dropped")
		case 3:
			assert.ErrorIs(t, err, context.Canceled)
		}
	}
	people, err := s.Students(ctx, s.otto, s.other)
	require.NoError(t, err)
	assert.Len(t, people, 1+100)
	require.NoError(t, s.Close())
	assert.Error(t, s.Write(ctx, func(*store.Tx) error { return nil }), "closed")
}

func TestSessionsExpire(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	ss := store.Sessions{Store: s.Store}
	require.NoError(t, ss.CommitCtx(ctx, "live", []byte("a"), time.Now().Add(time.Hour)))
	require.NoError(t, ss.CommitCtx(ctx, "dead", []byte("b"), time.Now().Add(-time.Hour)))
	b, ok, err := ss.FindCtx(ctx, "live")
	require.NoError(t, err)
	assert.True(t, ok)
	assert.Equal(t, "a", string(b))
	_, ok, err = ss.FindCtx(ctx, "dead")
	require.NoError(t, err)
	assert.False(t, ok)
	require.NoError(t, ss.DeleteCtx(ctx, "live"))
	_, ok, _ = ss.FindCtx(ctx, "live")
	assert.False(t, ok)
}

func TestTheLedgerAddsUp(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	for n := 1; n <= 3; n++ {
		k := s.card(t, s.pupil, n)
		sol, err := k.Item.Solutions()
		require.NoError(t, err)
		a := marking.Answer{"main": k.Item.Text("main", sol[0].Main.Add(length.Int(1))), "observed": k.Item.Text("observed", sol[0].Observed)}
		_, err = s.Submit(ctx, s.pupil, k.ID, a, mark(t, k, a), length.Number{}, time.Now())
		require.NoError(t, err)
	}
	list, err := s.Assignments(ctx, s.anna, s.class)
	require.NoError(t, err)
	assert.Equal(t, 3, list[0].Answered)
	assert.Equal(t, "3 of 6", list[0].Marks.String()+" of "+list[0].Of.String())
	assert.Equal(t, marking.MainNextMark, list[0].Slip)
	assert.Equal(t, 2, list[0].Students)
	mine, err := s.StudentAssignments(ctx, s.rival)
	require.NoError(t, err)
	assert.Zero(t, mine[0].Answered, "a student's tally is of own cards")
	marks, err := s.Ledger(ctx, s.anna, s.assignment)
	require.NoError(t, err)
	assert.Len(t, marks, 4)
	assert.True(t, marks[0].Done && !marks[3].Done)
}

// Marking anew by another method shows beforehand what changes, keeps what stood, and is taken back in one
// step; an instructor's own mark stands over all of it.
func TestMarkingAnewAndBack(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	for n := 1; n <= 2; n++ { // right, but without the instrument's decimals
		k := s.card(t, s.pupil, n)
		sol, err := k.Item.Solutions()
		require.NoError(t, err)
		a := marking.Answer{"main": k.Item.Text("main", sol[0].Main), "observed": sol[0].Observed.Text(4)}
		_, err = s.Submit(ctx, s.pupil, k.ID, a, mark(t, k, a), length.Number{}, time.Now())
		require.NoError(t, err)
	}
	total := func() string {
		t.Helper()
		a, err := s.Assignment(ctx, s.anna, s.assignment)
		require.NoError(t, err)
		return a.Marks.String()
	}
	assert.Equal(t, "3", total())
	lenient := marking.Method{Decimals: "lenient"}
	list, err := s.Remark(ctx, s.anna, s.assignment, lenient)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "1.5 → 2", list[0].Before.String()+" → "+list[0].After.String())
	assert.Equal(t, "3", total(), "looking changes nothing")
	_, err = s.Remark(ctx, s.otto, s.assignment, lenient)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, s.UndoRemark(ctx, s.anna, s.assignment, "Anna", time.Now()), store.ErrNotFound, "nothing to take back")

	require.NoError(t, s.ApplyRemark(ctx, s.anna, s.assignment, lenient, "Anna", time.Now()))
	assert.Equal(t, "4", total())
	assert.Equal(t, "lenient", s.card(t, s.pupil, 1).Item.Method.Decimals)
	assert.Equal(t, "lenient", s.card(t, s.pupil, 3).Item.Method.Decimals, "open cards are asked by it too")
	half := int64(1)
	require.NoError(t, s.SetOwnMark(ctx, s.anna, s.assignment, s.pupil, 1, &half, "copied", "Anna", time.Now()))
	assert.ErrorIs(t, s.SetOwnMark(ctx, s.otto, s.assignment, s.pupil, 1, &half, "no", "Otto", time.Now()), store.ErrNotFound)
	assert.Equal(t, "2.5", total())
	k := s.card(t, s.pupil, 1)
	assert.True(t, k.Own)
	assert.Equal(t, "0.5 copied", k.Marks.String()+" "+k.Reason)

	late := s.card(t, s.pupil, 3) // answered between the two
	sol, err := late.Item.Solutions()
	require.NoError(t, err)
	a := marking.Answer{"main": late.Item.Text("main", sol[0].Main), "observed": sol[0].Observed.Text(4)}
	_, err = s.Submit(ctx, s.pupil, late.ID, a, mark(t, late, a), length.Int(1), time.Now())
	require.NoError(t, err)
	assert.Equal(t, "3.5", total(), "help took one mark off")

	require.NoError(t, s.UndoRemark(ctx, s.anna, s.assignment, "Anna", time.Now()))
	assert.Empty(t, s.card(t, s.pupil, 1).Item.Method.Decimals)
	require.NoError(t, s.SetOwnMark(ctx, s.anna, s.assignment, s.pupil, 1, nil, "", "Anna", time.Now()))
	assert.Equal(t, "4.5", total(), "as before, and the late card by the old method")
	changes, err := s.Changes(ctx, s.anna, s.assignment)
	require.NoError(t, err)
	require.Len(t, changes, 4)
	assert.Contains(t, changes[3].What, "2 of 2 marks changed")
	assert.Contains(t, changes[2].What, "gave 0.5 on card 1 of Wren A.: copied")
}

func TestHintsHistoryAndWords(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	k := s.card(t, s.pupil, 1)
	for range 5 {
		require.NoError(t, s.TakeHint(ctx, s.pupil, k.ID, 3))
	}
	require.NoError(t, s.TakeHint(ctx, s.rival, k.ID, 3))
	assert.Equal(t, 3, s.card(t, s.pupil, 1).Hints, "the ladder ends")
	sol, err := k.Item.Solutions()
	require.NoError(t, err)
	a := marking.Answer{"main": k.Item.Text("main", sol[0].Main.Add(length.Int(1))), "observed": k.Item.Text("observed", sol[0].Observed)}
	_, err = s.Submit(ctx, s.pupil, k.ID, a, mark(t, k, a), length.Int(9), time.Now())
	require.NoError(t, err)
	assert.Zero(t, s.card(t, s.pupil, 1).Marks.Sign(), "never below nothing")

	other := s.card(t, s.pupil, 2)
	h, err := s.History(ctx, s.pupil, other.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, h.Student[marking.MainNextMark])
	h, err = s.History(ctx, s.rival, other.ID)
	require.NoError(t, err)
	assert.Zero(t, h.Student[marking.MainNextMark])
	assert.Equal(t, 1, h.Class[marking.MainNextMark])

	require.NoError(t, s.SetWording(ctx, s.anna, marking.MainNextMark, marking.Wording{Advice: "Look left.", Off: true}))
	require.NoError(t, s.SetWording(ctx, s.anna, marking.MainNextMark, marking.Wording{Advice: "Look left of the 0."}))
	w, err := s.StudentWordings(ctx, s.pupil)
	require.NoError(t, err)
	assert.Equal(t, marking.Wording{Advice: "Look left of the 0."}, w[marking.MainNextMark])
	w, err = s.StudentWordings(ctx, s.stranger)
	require.NoError(t, err)
	assert.Empty(t, w, "another instructor's students read the handbook's")

	require.NoError(t, s.SetMethod(ctx, s.anna, s.class, marking.Method{ZeroTerm: "correction"}))
	assert.ErrorIs(t, s.SetMethod(ctx, s.otto, s.class, marking.Method{}), store.ErrNotFound)
	sheets, err := s.Sheets(ctx, s.anna)
	require.NoError(t, err)
	sh := sheets[0]
	sh.ID, sh.Definition.Method.Decimals = 0, "lenient"
	id, err := s.KeepSheet(ctx, s.anna, sh)
	require.NoError(t, err)
	gift, err := s.Give(ctx, s.anna, s.class, id, 1, time.Now())
	require.NoError(t, err)
	given, err := s.Assignment(ctx, s.anna, gift)
	require.NoError(t, err)
	assert.Equal(t, marking.Method{ZeroTerm: "correction", Decimals: "lenient"}, given.Definition.Method, "the sheet's over the class's")
}
