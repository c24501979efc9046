package school_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/survey"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/school/sitting"
	"cavix/store"
)

// staffed is a school whose class has colleagues in every role, and something of every sort to act on.
type staffed struct {
	*testSchool
	by              map[string]access.Actor // owner, marker, viewer, and a stranger, who teaches another class
	study, mine     int64                   // a study that the owner gave, and one that the marker gave
	waiting, round  int64
	answered        sitting.Card
	item            exercise.Item
	sheets          map[string]int64 // of each role's own, not given yet
	instructorClass map[string]int64 // another class that each role leads
}

func newStaffed(t *testing.T) *staffed {
	t.Helper()
	s := &staffed{testSchool: newSchool(t), by: map[string]access.Actor{}, sheets: map[string]int64{},
		instructorClass: map[string]int64{}}
	ctx, now := t.Context(), time.Now()
	s.by["owner"], s.by["stranger"] = access.Actor{ID: s.anna, Name: "Anna", At: now},
		access.Actor{ID: s.otto, Name: "Otto", At: now}
	for role, as := range map[string]access.Role{"marker": access.Marker, "viewer": access.Viewer} {
		id := s.must(s.Roster.AddInstructor(ctx, roster.Instructor{Login: role, Name: role}))
		s.by[role] = access.Actor{ID: id, Name: role, At: now}
		require.NoError(t, s.Roster.SetRole(ctx, s.by["owner"], s.class, role, as))
	}
	for role, by := range s.by {
		s.instructorClass[role] = s.must(s.Roster.AddClass(ctx, by.ID, "Another of "+role, ""))
		s.sheets[role] = s.must(s.Rack.KeepSheet(ctx, by.ID, rack.Sheet{Title: "Own", Racked: [][]int64{{}},
			Definition: exercise.Sheet{
				Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "care", Cards: 1}}}}))
	}
	k := s.card(s.pupil, 1)
	s.submit(k, s.right(k))
	s.answered, s.item = s.card(s.pupil, 1), k.Item
	s.waiting = s.must(s.Roster.Join(ctx, s.class, "Juniper T.", "", now))
	s.round = s.must(s.Rounds.Open(ctx, s.anna, s.class, s.item, true, now))
	plan := survey.Plan{Instruments: nil, Places: 1, Repeats: 1, Same: true,
		Parts: []survey.Part{{Name: "pin", Size: length.Int(20)}}}
	in := twentieth(t)
	plan.Instruments = append(plan.Instruments, in)
	s.study = s.must(s.Studies.GiveSurvey(ctx, s.by["owner"], s.class, "Pins", plan, 1))
	s.mine = s.must(s.Studies.GiveSurvey(ctx, s.by["marker"], s.class, "Pins too", plan, 1))
	require.NoError(t, s.Studies.Record(ctx, s.pupil, s.study, 0, "20.00", now))
	return s
}

// rights says of every use case on a class who may do it: "owner" is the class's owner alone, "marker" also a colleague
// who can mark, "viewer" whoever teaches the class. What only reads stands in rights_reads_test.go.
var rights = []struct {
	name, from string
	do         func(s *staffed, role string, by access.Actor) error
}{
	{"Roster.ClearPassphrase", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.ClearPassphrase(s.t.Context(), by, s.class, s.pupil)
	}},
	{"Merging.Merge", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Merging.Merge(s.t.Context(), by, s.class, s.pupil, s.rival)
	}},
	{"Merging.Unmerge", "owner", func(s *staffed, _ string, by access.Actor) error {
		if list, err := s.Merging.Merges(s.t.Context(), s.anna, s.class, s.pupil); err != nil || len(list) == 0 {
			require.NoError(s.t, s.Merging.Merge(s.t.Context(), access.Actor{ID: s.anna}, s.class, s.pupil, s.rival))
		}
		return s.Merging.Unmerge(s.t.Context(), by, s.class, s.pupil, s.rival)
	}},
	{"Roster.ImportPeople", "owner", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Roster.ImportPeople(s.t.Context(), by, s.class, []roster.ImportedPerson{{Name: "Una V."}},
			map[string]string{"name": "name"})
		return err
	}},
	{"Roster.ChangeStudent", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.ChangeStudent(s.t.Context(), by, roster.Student{ID: s.pupil, Class: s.class, Name: "Wren B.",
			Extra: 5})
	}},
	{"Roster.Admit", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.Admit(s.t.Context(), by, s.class, []int64{s.waiting}, true)
	}},
	{"Roster.SetLeft", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.SetLeft(s.t.Context(), by, s.class, s.rival, false)
	}},
	{"Roster.Move", "owner", func(s *staffed, role string, by access.Actor) error {
		return s.Roster.Move(s.t.Context(), by, s.class, s.rival, s.instructorClass[role])
	}},
	{"Roster.NoteExport", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.NoteExport(s.t.Context(), by, s.class, s.pupil)
	}},
	{"Roster.Archive", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.Archive(s.t.Context(), by, s.class, false)
	}},
	{"Roster.SetRole", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.SetRole(s.t.Context(), by, s.class, "viewer", access.Viewer)
	}},
	{"Roster.Import", "owner", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Roster.Import(s.t.Context(), by, s.class, []roster.ImportedPerson{{Name: "Ash W."}})
		return err
	}},
	{"Roster.SaveSettings", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.SaveSettings(s.t.Context(), by, s.class,
			roster.Settings{Name: "Mondays", Joining: roster.JoinShut})
	}},
	{"Sitting.AddClassLike", "owner", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Sitting.AddClassLike(s.t.Context(), by, "Next year", s.class, time.Now())
		return err
	}},
	{"Roster.RenewCode", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.RenewCode(s.t.Context(), by, s.class)
	}},
	{"Roster.DropStudent", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.DropStudent(s.t.Context(), by, s.class, s.rival)
	}},
	{"Roster.DropClass", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.DropClass(s.t.Context(), by, s.class)
	}},
	{"Studies.DropSurvey", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.DropSurvey(s.t.Context(), by, s.study)
	}},

	{"Studies.DropSurvey of one's own", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.DropSurvey(s.t.Context(), by, s.mine)
	}},
	{"Sitting.Give", "marker", func(s *staffed, role string, by access.Actor) error {
		_, err := s.Sitting.Give(s.t.Context(), by.ID, s.class, s.sheets[role], 1, time.Now())
		return err
	}},
	{"Sitting.SetDates", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Sitting.SetDates(s.t.Context(), by.ID, s.assignment, time.Time{}, time.Now().Add(time.Hour))
	}},
	{"Marking.Release", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Marking.Release(s.t.Context(), by.ID, s.assignment, time.Now())
	}},
	{"Ledgers.DismissMarkChanges", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Ledgers.DismissMarkChanges(s.t.Context(), by, s.class)
	}},
	{"Sitting.SetSheetDates", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Sitting.SetSheetDates(s.t.Context(), by, sitting.SheetDates{Assignment: s.assignment, Student: s.pupil,
			Closes: time.Now().Add(time.Hour)})
	}},
	{"Sitting.MoreMinutes", "marker", func(s *staffed, _ string, by access.Actor) error {
		err := s.Sitting.MoreMinutes(s.t.Context(), by, s.assignment, s.pupil, 5)
		if errors.Is(err, sitting.ErrNoEnd) {
			return nil // it was allowed, and the sheet needs none
		}
		return err
	}},
	{"Ledgers.SetWeights", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Ledgers.SetWeights(s.t.Context(), by, s.class, map[int64]int{s.assignment: 2})
	}},
	{"Ledgers.Excuse", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Ledgers.Excuse(s.t.Context(), by, ledgers.Excuse{Assignment: s.assignment, Student: s.pupil,
			Reason: "ill"})
	}},
	{"Marking.SetOwnMark", "marker", func(s *staffed, _ string, by access.Actor) error {
		half := int64(1)
		return s.Marking.SetOwnMark(s.t.Context(), by.ID, s.answered.CardRow, &half, "seen", by.Name, time.Now())
	}},
	{"Marking.ApplyRemark", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Marking.ApplyRemark(s.t.Context(), by.ID, s.assignment, exercise.Method{Decimals: "lenient"}, false,
			by.Name, time.Now())
	}},
	{"Ledgers.MakeVersions", "marker", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Ledgers.MakeVersions(s.t.Context(), by, s.assignment, ledgers.Printing{Per: ledgers.ForAll,
			Anew: true})
		return err
	}},
	{"Rounds.Open", "marker", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Rounds.Open(s.t.Context(), by.ID, s.class, s.item, true, time.Now())
		return err
	}},
	{"Rounds.Close", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Rounds.Close(s.t.Context(), by.ID, s.class, time.Now())
	}},
	{"Rounds.Reveal", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Rounds.Reveal(s.t.Context(), by.ID, s.class, time.Now())
	}},
	{"Rounds.SetBoard", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Rounds.SetBoard(s.t.Context(), by.ID, s.class, "{}")
	}},
	{"Studies.GiveSurvey", "marker", func(s *staffed, _ string, by access.Actor) error {
		sv, err := s.Studies.Survey(s.t.Context(), s.anna, s.study)
		require.NoError(s.t, err)
		_, err = s.Studies.GiveSurvey(s.t.Context(), by, s.class, "More pins", sv.Plan, 2)
		return err
	}},
	{"Studies.CloseSurvey", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.CloseSurvey(s.t.Context(), by, s.study, false)
	}},
	{"Studies.RemoveReading", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.RemoveReading(s.t.Context(), by, s.study, s.pupil, 0)
	}},
	{"Marking.UndoRemark", "marker", func(s *staffed, _ string, by access.Actor) error {
		require.NoError(s.t, s.Marking.ApplyRemark(s.t.Context(), s.anna, s.assignment,
			exercise.Method{Decimals: "lenient"}, false, "Anna", time.Now()))
		return s.Marking.UndoRemark(s.t.Context(), by.ID, s.assignment, by.Name, time.Now())
	}},
	{"Ledgers.EnterAnswers", "marker", func(s *staffed, _ string, by access.Actor) error {
		versions, err := s.Ledgers.MakeVersions(s.t.Context(), s.by["owner"], s.assignment,
			ledgers.Printing{Per: ledgers.PerStudent})
		require.NoError(s.t, err)
		return s.Ledgers.EnterAnswers(s.t.Context(), by, s.assignment,
			[]ledgers.EnteredPaper{{Version: versions[0], Student: s.rival,
				Answers: map[int]exercise.Answer{1: {"main": "3"}}}})
	}},
}

// Every use case on a class is done for those who may do it, and refused to all others before anything is changed.
func TestRights(t *testing.T) {
	ranks := []string{"stranger", "viewer", "marker", "owner"}
	for _, u := range rights {
		t.Run(u.name, func(t *testing.T) {
			t.Parallel()
			s := newStaffed(t)
			for rank, role := range ranks {
				err := u.do(s, role, s.by[role])
				switch {
				case role == "stranger":
					assert.ErrorIs(t, err, store.ErrNotFound, role)
				case rank < slices.Index(ranks, u.from):
					assert.ErrorIs(t, err, access.ErrForbidden, role)
				default: // the first who may do it; others find it done
					require.NoError(t, err, role)
					return
				}
			}
		})
	}
}

// Who only looks at a class any more removes nothing from it, not even a study of their own.
func TestAViewersOwnStudyStays(t *testing.T) {
	t.Parallel()
	s := newStaffed(t)
	require.NoError(t, s.Roster.SetRole(t.Context(), s.by["owner"], s.class, "marker", access.Viewer))
	require.ErrorIs(t, s.Studies.DropSurvey(t.Context(), s.by["marker"], s.mine), access.ErrForbidden)
}

// What arrives after an attempt was handed in, or from one who has left the class, does not count, however early its
// page was read.
func TestNothingCountsAfterTheEnd(t *testing.T) {
	ctx := t.Context()
	late := func(s *testSchool, c sitting.Card, before sitting.State) map[string]error {
		_, err := s.Sitting.Submit(ctx, s.pupil, c, before, s.right(c), time.Now())
		return map[string]error{"answer": err, "draft": s.Sitting.SaveDraft(ctx, s.pupil, c, before,
			exercise.Answer{"main": "3"}), "hint": s.Sitting.TakeHint(ctx, s.pupil, c, before)}
	}
	t.Run("handed in", func(t *testing.T) {
		s := newSchool(t)
		c, before := s.card(s.pupil, 1), s.stands(s.pupil)
		require.NoError(t, s.Sitting.HandIn(ctx, s.pupil, s.assignment, time.Now()))
		for what, err := range late(s, c, before) {
			assert.ErrorIs(t, err, sitting.ErrOver, what)
		}
		now := s.card(s.pupil, 1)
		assert.False(t, now.Done())
	})
	for name, end := range map[string]func(s *testSchool, by access.Actor) error{
		"left": func(s *testSchool, by access.Actor) error {
			return s.Roster.SetLeft(ctx, by, s.class, s.pupil,
				false)
		},
		"removed": func(s *testSchool, by access.Actor) error {
			return s.Roster.DropStudent(ctx, by, s.class,
				s.pupil)
		},
		"archived": func(s *testSchool, by access.Actor) error { return s.Roster.Archive(ctx, by, s.class, false) },
	} {
		t.Run(name, func(t *testing.T) {
			s := newSchool(t)
			c, before := s.card(s.pupil, 1), s.stands(s.pupil)
			practised, err := s.Sitting.NextCard(ctx, s.pupil, 3)
			require.NoError(t, err)
			require.NoError(t, end(s, access.Actor{ID: s.anna, Name: "Anna", At: time.Now()}))
			for what, err := range late(s, c, before) {
				assert.ErrorIs(t, err, sitting.ErrOver, what)
			}
			gone := func(err error) { t.Helper(); assert.ErrorIs(t, err, store.ErrNotFound) }
			gone(s.Sitting.CheckPractice(ctx, s.pupil, practised, exercise.Answer{}, time.Now()))
			gone(s.Sitting.KeepPractice(ctx, s.pupil, practised, exercise.Answer{"main": "3"}))
			gone(s.Sitting.HelpPractice(ctx, s.pupil, practised))
			again, err := s.Sitting.Stands(ctx, s.rival, s.assignment, time.Now())
			if err == nil && name == "archived" {
				_, err = s.Sitting.Sit(ctx, s.rival, s.assignment, again.At)
				gone(err)
			}
		})
	}
}

// A class's round keeps its stage however many press at once: what pages are told is what stands in the file.
func TestStagesOfARoundInAnyOrder(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	it := s.card(s.pupil, 1).Item
	for range 10 {
		done := make(chan error, 9)
		for range 3 {
			go func() { _, err := s.Rounds.Open(ctx, s.anna, s.class, it, true, time.Now()); done <- err }()
			go func() { done <- s.Rounds.Close(ctx, s.anna, s.class, time.Now()) }()
			go func() { done <- s.Rounds.Reveal(ctx, s.anna, s.class, time.Now()) }()
		}
		for range 9 {
			require.NoError(t, <-done)
		}
		told, err := s.Rounds.ClassStamp(ctx, s.class)
		require.NoError(t, err)
		kept, err := s.Rounds.LatestRound(ctx, s.anna, s.class)
		require.NoError(t, err)
		require.Equal(t, kept.Stamp(), told)
	}
	k, err := s.Rounds.LatestRound(ctx, s.anna, s.class)
	require.NoError(t, err)
	require.NoError(t, s.Rounds.Reveal(ctx, s.anna, s.class, time.Now()))
	assert.ErrorIs(t, s.Rounds.Reply(ctx, s.pupil, s.class, k.ID, exercise.Answer{}, time.Now()), rounds.ErrClosed)
	id := s.must(s.Rounds.Open(ctx, s.anna, s.class, it, true, time.Now()))
	require.NoError(t, s.Roster.SetLeft(ctx, access.Actor{ID: s.anna, Name: "Anna", At: time.Now()}, s.class, s.pupil,
		false))
	assert.ErrorIs(t, s.Rounds.Reply(ctx, s.pupil, s.class, id, exercise.Answer{}, time.Now()), rounds.ErrClosed,
		"who has left answers nothing")
}

// While a student takes a timed test the Bench and practice are closed for instruments like those of the test, unless
// its sheet says otherwise; afterwards they are open again. A test without an end closes nothing.
func TestAidsDuringATest(t *testing.T) {
	for name, tt := range map[string]struct {
		minutes int
		mode    exercise.Mode
		aids    exercise.Aids
		closed  bool
	}{"timed": {30, exercise.Test, exercise.AidsClosed, true}, "allowed": {30, exercise.Test, exercise.AidsOpen, false},
		"no end":   {0, exercise.Test, exercise.AidsClosed, false},
		"practice": {30, exercise.Practice, exercise.AidsClosed, false}} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			s := newSchool(t)
			ctx := t.Context()
			in := twentieth(t)
			sheet := s.must(s.Rack.KeepSheet(ctx, s.anna, rack.Sheet{Title: "Half-term", Racked: [][]int64{{}},
				Definition: exercise.Sheet{
					Dealer: exercise.Dealing, Delivery: exercise.Delivery{Mode: tt.mode, Minutes: tt.minutes,
						Aids: tt.aids},
					Blocks: []exercise.Block{{Kind: "read", Cards: 2, Instruments: []*instrument.Instrument{in}}}}}))
			test := s.must(s.Sitting.Give(ctx, s.anna, s.class, sheet, 7, time.Now()))
			practised, err := s.Sitting.NextCard(ctx, s.pupil, 1)
			require.NoError(t, err)
			bench, err := s.Sitting.StudentBench(ctx, s.pupil)
			require.NoError(t, err)
			require.NotEmpty(t, bench)
			check := func(closed bool) {
				t.Helper()
				now, err := s.Sitting.StudentBench(ctx, s.pupil)
				require.NoError(t, err)
				_, stand := s.Sitting.Stand(ctx, s.pupil, bench[0].Key)
				_, next := s.Sitting.NextCard(ctx, s.pupil, 2)
				_, again := s.Sitting.PractisedCard(ctx, s.pupil, practised.N)
				if !closed {
					assert.Len(t, now, len(bench))
					assert.NoError(t, stand)
					assert.NoError(t, next)
					assert.NoError(t, again)
					return
				}
				assert.Empty(t, now)
				for _, err := range []error{stand, next, again} {
					assert.ErrorIs(t, err, sitting.ErrInTest)
				}
			}
			check(false)
			_, err = s.Sitting.Sit(ctx, s.pupil, test, time.Now())
			require.NoError(t, err)
			check(tt.closed)
			other, err := s.Sitting.StudentBench(ctx, s.rival)
			require.NoError(t, err)
			assert.Len(t, other, len(bench), "others are not in the test")
			require.NoError(t, s.Sitting.HandIn(ctx, s.pupil, test, time.Now()))
			check(false)
		})
	}
}
