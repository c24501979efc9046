package school_test

import (
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
	"cavix/store/storetest"
)

// school is a room with two instructors, a class each and a sheet given to the first.
type testSchool struct {
	*school.School
	db                     *store.DB
	t                      testing.TB
	path                   string
	anna, otto             int64
	class, other           int64
	pupil, rival, stranger int64
	assignment             int64
}

func (s *testSchool) open() {
	s.t.Helper()
	st, err := store.Open(s.t.Context(), s.path)
	require.NoError(s.t, err)
	s.t.Cleanup(func() { st.Close() })
	s.db, s.School = st, school.New(st)
}

func (s *testSchool) must(id int64, err error) int64 {
	s.t.Helper()
	require.NoError(s.t, err)
	return id
}

func twentieth(t testing.TB) *instrument.Instrument {
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
	testSchool
	file []byte
}

func newSchool(t testing.TB) *testSchool {
	t.Helper()
	begun.Do(func() {
		s := setUp(t)
		require.NoError(t, s.db.Close())
		file, err := os.ReadFile(s.path)
		require.NoError(t, err)
		begun.testSchool, begun.file = *s, file
	})
	s := begun.testSchool
	s.t, s.path = t, filepath.Join(t.TempDir(), "school.db")
	require.NoError(t, os.WriteFile(s.path, begun.file, 0o600))
	s.open()
	return &s
}

// setUp makes the school that tests begin with.
func setUp(t testing.TB) *testSchool {
	t.Helper()
	s := &testSchool{t: t, path: filepath.Join(t.TempDir(), "school.db")}
	s.open()
	ctx := t.Context()
	s.anna = s.must(s.Roster.SetUp(ctx, roster.Instructor{Login: "Anna", Name: "Anna"}))
	s.otto = s.must(s.Roster.AddInstructor(ctx, roster.Instructor{Login: "otto", Name: "Otto"}))
	s.class = s.must(s.Roster.AddClass(ctx, s.anna, "Mondays", "AAAAAA"))
	s.other = s.must(s.Roster.AddClass(ctx, s.otto, "Tuesdays", ""))
	s.pupil = s.must(s.Roster.Join(ctx, s.class, "Wren A.", "hash", time.Now()))
	s.rival = s.must(s.Roster.Join(ctx, s.class, "Bram H.", "hash", time.Now()))
	s.stranger = s.must(s.Roster.Join(ctx, s.other, "Wren A.", "hash", time.Now()))
	in := twentieth(t)
	racked := s.must(s.Rack.KeepInstrument(ctx, s.anna, 0, in))
	sheet := s.must(s.Rack.KeepSheet(ctx, s.anna, rack.Sheet{Title: "Pins", Racked: [][]int64{{racked}},
		Definition: exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "read", Cards: 4,
				Instruments: []*instrument.Instrument{in}, Settings: map[string]string{"ask": "main observed"}}}}}))
	s.assignment = s.must(s.Sitting.Give(ctx, s.anna, s.class, sheet, 5, time.Now()))
	return s
}

func (s *testSchool) card(student int64, n int) sitting.Card {
	s.t.Helper()
	c, _, err := s.Sitting.MyCard(s.t.Context(), student, s.assignment, n, time.Now())
	require.NoError(s.t, err)
	return c
}

// stands is how a student stands with the sheet now.
func (s *testSchool) stands(student int64) sitting.State {
	s.t.Helper()
	st, err := s.Sitting.Stands(s.t.Context(), student, s.assignment, time.Now())
	require.NoError(s.t, err)
	return st
}

// draft keeps what is typed on a card, as its page sends it.
func (s *testSchool) draft(student int64, c sitting.Card, typed exercise.Answer) error {
	return s.Sitting.SaveDraft(s.t.Context(), student, c, s.stands(student), typed)
}

// hint takes one hint.
func (s *testSchool) hint(student int64, c sitting.Card) {
	s.t.Helper()
	require.NoError(s.t, s.Sitting.TakeHint(s.t.Context(), student, c, s.stands(student)))
}

// right is what a card should hold.
func (s *testSchool) right(c sitting.Card) exercise.Answer {
	s.t.Helper()
	r, err := c.Item.Mark(nil)
	require.NoError(s.t, err)
	a := exercise.Answer{}
	for _, m := range r.Fields {
		a[m.Field] = m.Expected
	}
	return a
}

func (s *testSchool) submit(c sitting.Card, a exercise.Answer) {
	s.t.Helper()
	counted, err := s.Sitting.Submit(s.t.Context(), c.Student, c, s.stands(c.Student), a, time.Now())
	require.NoError(s.t, err)
	require.True(s.t, counted)
}

// total are the marks of the class on the sheet.
func (s *testSchool) total() string {
	s.t.Helper()
	g, err := s.Sitting.GivenSheet(s.t.Context(), s.anna, s.assignment)
	require.NoError(s.t, err)
	return g.Marks.String()
}

func TestACardSurvivesAndCountsOnce(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	k := s.card(s.pupil, 2)
	require.NoError(t, s.draft(s.pupil, k, exercise.Answer{"main": "47"}))
	require.NoError(t, s.db.Close())
	s.open() // the server was started anew
	again := s.card(s.pupil, 2)
	assert.Equal(t, exercise.Answer{"main": "47"}, again.Draft)
	assert.Equal(t, k.CardRow.Item, again.CardRow.Item, "dealt once")
	assert.False(t, again.Done())

	first, second := exercise.Answer{"main": "1", "observed": "2.00"}, exercise.Answer{"main": "3", "observed": "4.00"}
	_, err := s.Sitting.Submit(ctx, s.pupil, k, s.stands(s.pupil), exercise.Answer{"main": "one"}, time.Now())
	require.ErrorContains(t, err, "main: contains no number")
	s.submit(k, first)
	counted, err := s.Sitting.Submit(ctx, s.pupil, k, s.stands(s.pupil), second, time.Now())
	require.NoError(t, err)
	assert.False(t, counted, "sent twice counts once")
	require.ErrorIs(t, s.draft(s.pupil, k, second), sitting.ErrOver, "too late, and no harm")
	done := s.card(s.pupil, 2)
	assert.True(t, done.Done())
	assert.Equal(t, first, done.Answer)
	assert.Empty(t, done.Draft)
	assert.Equal(t, "2", done.Of.String())

	// What is read back is what marking said.
	want, err := k.Item.Mark(first)
	require.NoError(t, err)
	for i, m := range want.Fields {
		got := done.Result.Fields[i]
		assert.Equal(t, []any{m.Field, m.Given, m.Expected, m.Follows, m.Outcome, m.Slips, m.Faults},
			[]any{got.Field, got.Given, got.Expected, got.Follows, got.Outcome, got.Slips, got.Faults})
	}
	assert.Equal(t, want.Slips, done.Result.Slips)
}

func TestEverybodySeesOnlyWhatIsTheirs(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	read := s
	k := s.card(s.pupil, 1)
	notFound := func(err error) { t.Helper(); assert.ErrorIs(t, err, store.ErrNotFound) }

	assert.NotEqual(t, k.CardRow.Item, s.card(s.rival, 1).CardRow.Item, "each gets own values")
	_, err := s.Sitting.Sit(ctx, s.stranger, s.assignment, time.Now())
	notFound(err)
	_, _, err = s.Sitting.MyCard(ctx, s.stranger, s.assignment, 1, time.Now())
	notFound(err)
	_, err = s.Sitting.StudentSheet(ctx, s.stranger, s.assignment)
	notFound(err)
	_, err = s.Sitting.Submit(ctx, s.stranger, k, s.stands(s.pupil), exercise.Answer{"main": "1"}, time.Now())
	assert.ErrorIs(t, err, sitting.ErrOver)
	require.ErrorIs(t, s.draft(s.rival, k, exercise.Answer{"main": "1"}), sitting.ErrOver)
	assert.Empty(t, s.card(s.pupil, 1).Draft, "not the rival's card")

	_, err = s.Sitting.CardOf(ctx, s.anna, s.assignment, s.pupil, 0, 1)
	require.NoError(t, err)
	_, err = s.Sitting.CardOf(ctx, s.otto, s.assignment, s.pupil, 0, 1)
	notFound(err)
	_, err = s.Sitting.GivenSheet(ctx, s.otto, s.assignment)
	notFound(err)
	_, err = read.Roster.Class(ctx, s.otto, s.class)
	notFound(err)
	notFound(s.Roster.ClearPassphrase(ctx, access.Actor{ID: s.otto}, s.class, s.pupil))
	notFound(s.Roster.ClearPassphrase(ctx, access.Actor{ID: s.otto}, s.other, s.pupil))
	rack, err := s.Rack.Rack(ctx, s.anna)
	require.NoError(t, err)
	_, err = s.Rack.Racked(ctx, s.otto, rack[0].ID)
	notFound(err)
	notFound(s.Rack.DropInstrument(ctx, access.Actor{ID: s.otto, At: time.Now()}, rack[0].ID))
	_, err = s.Rack.KeepInstrument(ctx, s.otto, rack[0].ID, rack[0].Instrument)
	notFound(err)
	sheets, err := s.Rack.Sheets(ctx, s.anna)
	require.NoError(t, err)
	_, err = s.Rack.Sheet(ctx, s.otto, sheets[0].ID)
	notFound(err)
	_, err = s.Sitting.Give(ctx, s.otto, s.other, sheets[0].ID, 1, time.Now())
	notFound(err)
	_, err = s.Sitting.Give(ctx, s.otto, s.class, sheets[0].ID, 1, time.Now())
	notFound(err)
	_, err = s.Sitting.Give(ctx, s.anna, s.class, sheets[0].ID, 1, time.Now())
	assert.ErrorIs(t, err, sitting.ErrGiven)
	_, err = s.Marking.Remark(ctx, s.otto, s.assignment, exercise.Method{}, false)
	notFound(err)
	half := int64(1)
	notFound(s.Marking.SetOwnMark(ctx, s.otto, k.CardRow, &half, "no", "Otto", time.Now()))
	for _, list := range []func() (int, error){
		func() (int, error) { l, err := read.Ledgers.SheetMarks(ctx, s.otto, s.assignment); return len(l), err },
		func() (int, error) {
			l, err := read.Ledgers.LedgerOf(ctx, s.otto, s.assignment, s.pupil, 1)
			return len(l), err
		},
		func() (int, error) { l, err := read.Roster.Students(ctx, s.otto, s.class); return len(l), err },
		func() (int, error) { l, err := read.Sitting.Assignments(ctx, s.otto, s.class); return len(l), err },
	} {
		n, err := list()
		notFound(err)
		assert.Zero(t, n)
	}
}

func TestNamesAndPassphrases(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	_, err := s.Roster.SetUp(ctx, roster.Instructor{Login: "late"})
	assert.ErrorIs(t, err, roster.ErrSetUp)
	_, err = s.Roster.AddInstructor(ctx, roster.Instructor{Login: " ANNA "})
	assert.ErrorIs(t, err, roster.ErrLoginTaken)
	_, err = s.Roster.Join(ctx, s.class, "wren  a.", "x", time.Now())
	assert.ErrorIs(t, err, roster.ErrHasPassphrase, "the old passphrase stands")
	require.NoError(t, s.Roster.ClearPassphrase(ctx, access.Actor{ID: s.anna}, s.class, s.pupil))
	assert.Equal(t, s.pupil, s.must(s.Roster.Join(ctx, s.class, "WREN A.", "new", time.Now())))
	_, err = s.Roster.Join(ctx, s.class, "Wren A.", "newer", time.Now())
	assert.ErrorIs(t, err, roster.ErrHasPassphrase)

	hash, err := roster.HashPassphrase("skerry point")
	require.NoError(t, err)
	other, err := roster.HashPassphrase("skerry point")
	require.NoError(t, err)
	assert.NotEqual(t, hash, other, "salted")
	assert.True(t, roster.CheckPassphrase(hash, "skerry point"))
	assert.False(t, roster.CheckPassphrase(hash, "Skerry point"))
	for _, h := range []string{"", "$argon2id$v=19$m=1,t=1,p=1$x", "$a$b$c$d$e"} {
		assert.False(t, roster.CheckPassphrase(h, ""))
	}
}

func TestTheLedgerAddsUp(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	for n := 1; n <= 3; n++ {
		c := s.card(s.pupil, n)
		a := s.right(c)
		x, err := length.Parse(a["main"])
		require.NoError(t, err)
		a["main"] = x.Add(length.Int(1)).String()
		s.submit(c, a)
	}
	list, err := s.Sitting.GivenTo(ctx, s.anna, s.class)
	require.NoError(t, err)
	assert.Equal(t, 3, list[0].Answered)
	assert.Equal(t, "3 of 6", list[0].Marks.String()+" of "+list[0].Of.String())
	assert.Equal(t, "main-next-mark", list[0].Slip)
	assert.Equal(t, 2, list[0].Students)
	mine, err := s.Sitting.StudentSheets(ctx, s.rival)
	require.NoError(t, err)
	assert.Zero(t, mine[0].Answered, "a student's tally is of own cards")
	marks, err := s.Ledgers.SheetMarks(ctx, s.anna, s.assignment)
	require.NoError(t, err)
	assert.Len(t, marks, 4)
	assert.True(t, marks[0].Done && !marks[3].Done)
}

// careless are the right values, without the instrument's decimals.
func (s *testSchool) careless(c sitting.Card) exercise.Answer {
	a := s.right(c)
	a["observed"] += "00"
	return a
}

var lenient = exercise.Method{Decimals: "lenient"}

// Marking anew by another method shows beforehand what changes, keeps what stood, and is taken back in one
// step; an instructor's own mark stands over all of it.
func TestMarkingAnewAndBack(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	for n := 1; n <= 2; n++ {
		c := s.card(s.pupil, n)
		s.submit(c, s.careless(c))
	}
	assert.Equal(t, "3", s.total())
	list, err := s.Marking.Remark(ctx, s.anna, s.assignment, lenient, false)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "1.5 → 2", list[0].Before.String()+" → "+list[0].After.String())
	assert.Equal(t, "3", s.total(), "looking changes nothing")
	assert.ErrorIs(t, s.Marking.UndoRemark(ctx, s.anna, s.assignment, "Anna", time.Now()), store.ErrNotFound,
		"nothing to take back")

	require.NoError(t, s.Marking.ApplyRemark(ctx, s.anna, s.assignment, lenient, false, "Anna", time.Now()))
	assert.Equal(t, "4", s.total())
	school := func(n int) string { return s.card(s.pupil, n).Item.(*kinds.Reading).Method.Decimals }
	assert.Equal(t, "lenient", school(1))
	assert.Equal(t, "lenient", school(3), "open cards are asked by it too")
	half := int64(1)
	require.NoError(t, s.Marking.SetOwnMark(ctx, s.anna, s.card(s.pupil, 1).CardRow, &half, "copied", "Anna",
		time.Now()))
	assert.Equal(t, "2.5", s.total())
	k := s.card(s.pupil, 1)
	assert.Equal(t, "0.5 copied", k.Marks.String()+" "+k.Reason)

	late := s.card(s.pupil, 3) // answered between the two, with help
	for range 2 {
		s.hint(s.pupil, late)
	}
	s.submit(s.card(s.pupil, 3), s.careless(late))
	assert.Equal(t, "3.5", s.total(), "help took one mark off")

	require.NoError(t, s.Marking.UndoRemark(ctx, s.anna, s.assignment, "Anna", time.Now()))
	assert.Empty(t, school(1))
	require.NoError(t, s.Marking.SetOwnMark(ctx, s.anna, k.CardRow, nil, "", "Anna", time.Now()))
	assert.Equal(t, "3.5", s.total(), "as before, and the late card by the old method")
	changes, err := s.Access.Changes(ctx, s.anna, s.assignment)
	require.NoError(t, err)
	require.Len(t, changes, 4)
	assert.Contains(t, changes[3].What.String(), "changed=2 answered=2")
	assert.Contains(t, changes[2].What.String(), "halves=0.5 n=1 name=Wren A. reason=copied")
}

// A submission that waits while its sheet is marked anew is marked by the new method.
func TestASubmissionDuringARemarking(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	for n := 1; n <= 4; n++ { // the card as a page had it, before; the answer comes after
		c := s.card(s.pupil, n)
		method := []exercise.Method{lenient, {}}[n%2]
		require.NoError(t, s.Marking.ApplyRemark(ctx, s.anna, s.assignment, method, false, "Anna", time.Now()))
		s.submit(c, s.careless(c))
		assert.Equal(t, []string{"2", "1.5"}[n%2], s.card(s.pupil, n).Marks.String())
	}
	done := make(chan error)
	c := s.card(s.rival, 1)
	go func() { done <- s.Marking.ApplyRemark(ctx, s.anna, s.assignment, lenient, false, "Anna", time.Now()) }()
	s.submit(c, s.careless(c))
	require.NoError(t, <-done)
	assert.Equal(t, "2", s.card(s.rival, 1).Marks.String(), "whichever was first")
}

func TestHintsHistoryAndWords(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	k := s.card(s.pupil, 1)
	for range 5 {
		s.hint(s.pupil, k)
	}
	require.ErrorIs(t, s.Sitting.TakeHint(ctx, s.rival, k, s.stands(s.pupil)), sitting.ErrOver,
		"of another's card nothing is taken")
	assert.Equal(t, 3, s.card(s.pupil, 1).Hints, "there are no more hints")
	a := s.right(k)
	x, err := length.Parse(a["main"])
	require.NoError(t, err)
	a["main"] = x.Add(length.Int(1)).String()
	s.submit(k, a)
	assert.Zero(t, s.card(s.pupil, 1).Marks.Sign(), "never below nothing")

	other := s.card(s.pupil, 2)
	v, err := s.Sitting.Wording(ctx, s.pupil, other.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, v.History.Student[slips.MainNextMark])
	v, err = s.Sitting.Wording(ctx, s.rival, other.ID)
	require.NoError(t, err)
	assert.Zero(t, v.History.Student[slips.MainNextMark])
	assert.Equal(t, 1, v.History.Class[slips.MainNextMark])

	require.NoError(t, s.Rack.SetWording(ctx, s.anna, slips.MainNextMark,
		exercise.SlipWording{Advice: "Look left.", Off: true}))
	s.submit(other, exercise.Answer{"main": a["main"], "observed": ""})
	assert.Empty(t, s.card(s.pupil, 2).Slip, "a slip that is switched off is not counted")
	require.NoError(t, s.Rack.SetWording(ctx, s.anna, slips.MainNextMark,
		exercise.SlipWording{Advice: "Look left of the 0."}))
	v, err = s.Sitting.Wording(ctx, s.pupil, 0)
	require.NoError(t, err)
	assert.Equal(t, exercise.SlipWording{Advice: "Look left of the 0."}, v.Wordings[slips.MainNextMark])
	v, err = s.Sitting.Wording(ctx, s.stranger, 0)
	require.NoError(t, err)
	assert.Empty(t, v.Wordings, "another instructor's students read the handbook's")

	require.NoError(t, s.settle(func(c *roster.Settings) { c.Convention = exercise.Method{ZeroTerm: "correction"} }))
	sheets, err := s.Rack.Sheets(ctx, s.anna)
	require.NoError(t, err)
	sh := sheets[0]
	sh.ID, sh.Definition.Method.Decimals = 0, "lenient"
	gift := s.must(s.Sitting.Give(ctx, s.anna, s.class, s.must(s.Rack.KeepSheet(ctx, s.anna, sh)), 1, time.Now()))
	given, err := s.Sitting.GivenSheet(ctx, s.anna, gift)
	require.NoError(t, err)
	assert.Equal(t, exercise.Method{ZeroTerm: "correction", Decimals: "lenient"}, given.Sheet.Method,
		"the sheet's over the class's")
}

// What this program cannot read stands in the lists with the reason, and everything else is shown.
func TestARowThatCannotBeRead(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	for query, document := range map[string]string{
		"INSERT INTO instruments (owner, name, document, changed, used) VALUES (?, 'From tomorrow', ?, 9999999999, " +
			"9999999999)": `{"format":"cavix/instrument","version":9}`,
		"INSERT INTO sheets (owner, title, definition, racked, changed) VALUES (?, 'From tomorrow', ?, '[]', " +
			"1)": `{"format":"cavix/sheet","version":9}`,
	} {
		storetest.Exec(t, s.db, query, s.anna, document)
	}
	kept, err := s.Rack.Rack(ctx, s.anna)
	require.NoError(t, err)
	require.Len(t, kept, 2)
	assert.ErrorContains(t, kept[0].Err, "version=9")
	assert.NoError(t, kept[1].Err)
	require.NoError(t, s.Rack.DropInstrument(ctx, access.Actor{ID: s.anna, At: time.Now()}, kept[0].ID),
		"it can be taken off")
	sheets, err := s.Rack.Sheets(ctx, s.anna)
	require.NoError(t, err)
	require.Len(t, sheets, 2)
	assert.True(t, strings.Contains(sheets[0].Err.Error(), "version 9"))
	free, err := s.Rack.SheetsNotGiven(ctx, s.anna, s.class)
	require.NoError(t, err)
	assert.Empty(t, free, "it cannot be given")
	_, err = s.Rack.KeepSheet(ctx, s.anna, rack.Sheet{Title: "Empty"})
	assert.ErrorContains(t, err, "blocks")
}
