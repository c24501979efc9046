package classroom_test

import (
	"errors"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/survey"
	"cavix/store"
)

// staffed is a school whose class has colleagues in every role, and something of every sort to act on.
type staffed struct {
	*school
	by              map[string]classroom.Hand // owner, marker, viewer, and a stranger, who teaches another class
	study, mine     int64                     // a study that the owner gave, and one that the marker gave
	waiting, round  int64
	answered        classroom.Card
	item            exercise.Item
	sheets          map[string]int64 // of each role's own, not given yet
	instructorClass map[string]int64 // another class that each role leads
}

func newStaffed(t *testing.T) *staffed {
	t.Helper()
	s := &staffed{school: newSchool(t), by: map[string]classroom.Hand{}, sheets: map[string]int64{}, instructorClass: map[string]int64{}}
	ctx, now := t.Context(), time.Now()
	s.by["owner"], s.by["stranger"] = classroom.Hand{ID: s.anna, Name: "Anna", At: now}, classroom.Hand{ID: s.otto, Name: "Otto", At: now}
	for role, as := range map[string]store.Role{"marker": store.Marks, "viewer": store.Looks} {
		id := s.must(s.AddInstructor(ctx, store.Instructor{Login: role, Name: role}))
		s.by[role] = classroom.Hand{ID: id, Name: role, At: now}
		require.NoError(t, s.SetRole(ctx, s.by["owner"], s.class, role, as))
	}
	for role, by := range s.by {
		s.instructorClass[role] = s.must(s.AddClass(ctx, by.ID, "Another of "+role, ""))
		s.sheets[role] = s.must(s.KeepSheet(ctx, by.ID, classroom.Sheet{Title: "Own", Racked: [][]int64{{}}, Definition: exercise.Sheet{
			Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "care", Cards: 1}}}}))
	}
	k := s.card(s.pupil, 1)
	s.submit(k, s.right(k))
	s.answered, s.item = s.card(s.pupil, 1), k.Item
	s.waiting = s.must(s.Join(ctx, s.class, "Juniper T.", "", now))
	s.round = s.must(s.OpenRound(ctx, s.anna, s.class, s.item, true, now))
	plan := survey.Plan{Instruments: nil, Places: 1, Repeats: 1, Same: true, Parts: []survey.Part{{Name: "pin", Size: length.Int(20)}}}
	in := twentieth(t)
	plan.Instruments = append(plan.Instruments, in)
	s.study = s.must(s.GiveSurvey(ctx, s.by["owner"], s.class, "Pins", plan, 1))
	s.mine = s.must(s.GiveSurvey(ctx, s.by["marker"], s.class, "Pins too", plan, 1))
	require.NoError(t, s.WriteDown(ctx, s.pupil, s.study, 0, "20.00", now))
	return s
}

// rights says of every use case on a class who may do it: "owner" is the class's owner alone, "marker" also a colleague who
// can mark, "viewer" whoever teaches the class.
var rights = []struct {
	name, from string
	do         func(s *staffed, role string, by classroom.Hand) error
}{
	{"ClearPassphrase", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.ClearPassphrase(s.t.Context(), by, s.class, s.pupil)
	}},
	{"Merge", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.Merge(s.t.Context(), by, s.class, s.pupil, s.rival)
	}},
	{"Unmerge", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		if list, err := s.Merges(s.t.Context(), s.class, s.pupil); err != nil || len(list) == 0 {
			require.NoError(s.t, s.Merge(s.t.Context(), classroom.Hand{ID: s.anna}, s.class, s.pupil, s.rival))
		}
		return s.Unmerge(s.t.Context(), by, s.class, s.pupil, s.rival)
	}},
	{"ImportPeople", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.ImportPeople(s.t.Context(), by, s.class, []classroom.Coming{{Name: "Una V."}}, map[string]string{"name": "name"})
		return err
	}},
	{"SetPupil", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SetPupil(s.t.Context(), by, store.Student{ID: s.pupil, Class: s.class, Name: "Wren B.", Extra: 5})
	}},
	{"SetExtra", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SetExtra(s.t.Context(), by.ID, s.class, s.pupil, 5)
	}},
	{"LetIn", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.LetIn(s.t.Context(), by, s.class, []int64{s.waiting}, true)
	}},
	{"Leave", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.Leave(s.t.Context(), by, s.class, s.rival, false)
	}},
	{"Move", "owner", func(s *staffed, role string, by classroom.Hand) error {
		return s.Move(s.t.Context(), by, s.class, s.rival, s.instructorClass[role])
	}},
	{"NoteExport", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.NoteExport(s.t.Context(), by, s.class, s.pupil)
	}},
	{"Archive", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.Archive(s.t.Context(), by, s.class, false)
	}},
	{"SetRole", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SetRole(s.t.Context(), by, s.class, "viewer", store.Looks)
	}},
	{"Bring", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.Bring(s.t.Context(), by, s.class, []classroom.Coming{{Name: "Ash W."}})
		return err
	}},
	{"SaveSettings", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SaveSettings(s.t.Context(), by, s.class, classroom.Settings{Name: "Mondays", Joining: store.JoinShut})
	}},
	{"AddClassLike", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.AddClassLike(s.t.Context(), by, "Next year", s.class, time.Now())
		return err
	}},
	{"RenewCode", "owner", func(s *staffed, _ string, by classroom.Hand) error { return s.RenewCode(s.t.Context(), by, s.class) }},
	{"DropStudent", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.DropStudent(s.t.Context(), by, s.class, s.rival)
	}},
	{"DropClass", "owner", func(s *staffed, _ string, by classroom.Hand) error { return s.DropClass(s.t.Context(), by, s.class) }},
	{"DropSurvey", "owner", func(s *staffed, _ string, by classroom.Hand) error { return s.DropSurvey(s.t.Context(), by, s.study) }},

	{"DropSurvey of one's own", "marker", func(s *staffed, _ string, by classroom.Hand) error { return s.DropSurvey(s.t.Context(), by, s.mine) }},
	{"Give", "marker", func(s *staffed, role string, by classroom.Hand) error {
		_, err := s.Give(s.t.Context(), by.ID, s.class, s.sheets[role], 1, time.Now())
		return err
	}},
	{"SetTimes", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SetTimes(s.t.Context(), by.ID, s.assignment, time.Time{}, time.Now().Add(time.Hour))
	}},
	{"Release", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.Release(s.t.Context(), by.ID, s.assignment, time.Now())
	}},
	{"DismissMarkChanges", "owner", func(s *staffed, _ string, by classroom.Hand) error {
		return s.DismissMarkChanges(s.t.Context(), by, s.class)
	}},
	{"SetSheetDates", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SetSheetDates(s.t.Context(), by, store.SheetDates{Assignment: s.assignment, Student: s.pupil, Closes: time.Now().Add(time.Hour)})
	}},
	{"MoreMinutes", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		err := s.MoreMinutes(s.t.Context(), by, s.assignment, s.pupil, 5)
		if errors.Is(err, classroom.ErrNoEnd) {
			return nil // it was allowed, and the sheet needs none
		}
		return err
	}},
	{"SetWeights", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SetWeights(s.t.Context(), by, s.class, map[int64]int{s.assignment: 2})
	}},
	{"Excuse", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.Excuse(s.t.Context(), by, store.Excuse{Assignment: s.assignment, Student: s.pupil, Reason: "ill"})
	}},
	{"SetOwnMark", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		half := int64(1)
		return s.SetOwnMark(s.t.Context(), by.ID, s.answered.Card, &half, "seen", by.Name, time.Now())
	}},
	{"ApplyRemark", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.ApplyRemark(s.t.Context(), by.ID, s.assignment, exercise.Method{Decimals: "lenient"}, false, by.Name, time.Now())
	}},
	{"Print", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.Print(s.t.Context(), by, s.assignment, classroom.Printing{Per: classroom.ForAll, Anew: true})
		return err
	}},
	{"OpenRound", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.OpenRound(s.t.Context(), by.ID, s.class, s.item, true, time.Now())
		return err
	}},
	{"CloseRound", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.CloseRound(s.t.Context(), by.ID, s.class, time.Now())
	}},
	{"TellRound", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.TellRound(s.t.Context(), by.ID, s.class, time.Now())
	}},
	{"SetBoard", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.SetBoard(s.t.Context(), by.ID, s.class, "{}")
	}},
	{"GiveSurvey", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		sv, err := s.Survey(s.t.Context(), s.anna, s.study)
		require.NoError(s.t, err)
		_, err = s.GiveSurvey(s.t.Context(), by, s.class, "More pins", sv.Plan, 2)
		return err
	}},
	{"CloseSurvey", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.CloseSurvey(s.t.Context(), by, s.study, false)
	}},
	{"RemoveReading", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		return s.RemoveReading(s.t.Context(), by, s.study, s.pupil, 0)
	}},
	{"UndoRemark", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		require.NoError(s.t, s.ApplyRemark(s.t.Context(), s.anna, s.assignment, exercise.Method{Decimals: "lenient"}, false, "Anna", time.Now()))
		return s.UndoRemark(s.t.Context(), by.ID, s.assignment, by.Name, time.Now())
	}},
	{"TypeBack", "marker", func(s *staffed, _ string, by classroom.Hand) error {
		versions, err := s.Print(s.t.Context(), s.by["owner"], s.assignment, classroom.Printing{Per: classroom.PerStudent})
		require.NoError(s.t, err)
		return s.TypeBack(s.t.Context(), by, s.assignment, []classroom.Written{{Version: versions[0], Student: s.rival, Answers: map[int]exercise.Answer{1: {"main": "3"}}}})
	}},

	{"Ledger", "viewer", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.Ledger(s.t.Context(), by.ID, s.class, time.Now())
		return err
	}},
	{"Paces", "viewer", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.Paces(s.t.Context(), by.ID, s.assignment)
		return err
	}},
	{"CardOf", "viewer", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.CardOf(s.t.Context(), by.ID, s.assignment, s.pupil, 0, 1)
		return err
	}},
	{"Readings", "viewer", func(s *staffed, _ string, by classroom.Hand) error {
		_, _, err := s.Readings(s.t.Context(), by.ID, s.study)
		return err
	}},
	{"WhatWentWrong", "viewer", func(s *staffed, _ string, by classroom.Hand) error {
		_, err := s.WhatWentWrong(s.t.Context(), by.ID, s.assignment)
		return err
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
					assert.ErrorIs(t, err, classroom.ErrMayNot, role)
				default: // the first who may do it; others find it done
					require.NoError(t, err, role)
					return
				}
			}
		})
	}
}

// A use case that is written anew finds its place in the table of rights, or among those that are about no class.
func TestEveryUseCaseHasItsRight(t *testing.T) {
	aboutNoClass := strings.Fields(`
		SendInstrument SendSheet Copies Copy KeepCopy DeclineCopy Bank KeepBanked DropBanked FillBanks Bin DropInstrument DropSheet DropComparison BringBack Remove Wordings SetWording
		Comparisons Comparison AddComparison RemoveCompared Paste Course Incoming BringCourse Books Book WriteBook RemoveDamaged
		ImportBook SetZeroLimit TakeOver Rack RackPart Racked KeepInstrument ReplaceInstrument KeepAnother MakeAlike EarlierInstruments RestoreInstrument ReplaceSheet EarlierSheets
		RestoreSheet UseInstrument NearName ListColumns Merges Share Sheets SheetsPart Sheet KeepSheet TrainingSheet AddClass
		Invite ResetPassphrase EndSessionsOf SetKeeper SetBarred ChangeOwn EndOwn SetLanguage RemarkEarlier ToRemark FinishUpgrade MarkChanges SheetCells SheetDates

		UndoCheck StudentBench Stand InTest MyCard CardAt SaveDraft TakeHint Submit Voice VoiceFor See Practice ChooseFamilies NextCard PractisedCard KeepPractice
		HelpPractice CheckPractice StudentSheets StudentSheet StudentRound Reply Stands Score Sit SitAgain HandIn Sat StudentSurveys
		StudentSurvey Setup SetTongue Try WriteDown Judge StudentSchool

		Audit EmptyBins Send NoteEarlier Join JoinAsGuest LinkFor ByLink Choose NoteSignIn DeviceKey Ready SetUp AddInstructor DropGuests
		CloseOver CloseBeside Store

		Notices GivenLately Papers Paper WrittenBy Remark CanUndo GivenTo GivenSheet School Arrivals ClassStamp LatestRound Rounds
		Answers Board Surveys Survey ReadingsBy Trials Verdicts SheetsNotGiven`)
	for m := range reflect.TypeFor[*classroom.Room]().Methods() {
		in := slices.ContainsFunc(rights, func(u struct {
			name, from string
			do         func(*staffed, string, classroom.Hand) error
		}) bool {
			return u.name == m.Name
		})
		assert.True(t, in != slices.Contains(aboutNoClass, m.Name), "%s stands in one of the two", m.Name)
	}
}

// What arrives after an attempt was handed in, or from one who has left the class, does not count, however early its page was
// read.
func TestNothingCountsAfterTheEnd(t *testing.T) {
	ctx := t.Context()
	late := func(s *school, c classroom.Card, before classroom.State) map[string]error {
		_, err := s.Submit(ctx, s.pupil, c, before, s.right(c), time.Now())
		return map[string]error{"answer": err, "draft": s.SaveDraft(ctx, s.pupil, c, before, exercise.Answer{"main": "3"}),
			"hint": s.TakeHint(ctx, s.pupil, c, before)}
	}
	t.Run("handed in", func(t *testing.T) {
		s := newSchool(t)
		c, before := s.card(s.pupil, 1), s.stands(s.pupil)
		require.NoError(t, s.HandIn(ctx, s.pupil, s.assignment, time.Now()))
		for what, err := range late(s, c, before) {
			assert.ErrorIs(t, err, classroom.ErrOver, what)
		}
		now := s.card(s.pupil, 1)
		assert.False(t, now.Done())
	})
	for name, end := range map[string]func(s *school, by classroom.Hand) error{
		"left":     func(s *school, by classroom.Hand) error { return s.Leave(ctx, by, s.class, s.pupil, false) },
		"removed":  func(s *school, by classroom.Hand) error { return s.DropStudent(ctx, by, s.class, s.pupil) },
		"archived": func(s *school, by classroom.Hand) error { return s.Archive(ctx, by, s.class, false) },
	} {
		t.Run(name, func(t *testing.T) {
			s := newSchool(t)
			c, before := s.card(s.pupil, 1), s.stands(s.pupil)
			practised, err := s.NextCard(ctx, s.pupil, 3)
			require.NoError(t, err)
			require.NoError(t, end(s, classroom.Hand{ID: s.anna, Name: "Anna", At: time.Now()}))
			for what, err := range late(s, c, before) {
				assert.ErrorIs(t, err, classroom.ErrOver, what)
			}
			gone := func(err error) { t.Helper(); assert.ErrorIs(t, err, store.ErrNotFound) }
			gone(s.CheckPractice(ctx, s.pupil, practised, exercise.Answer{}, time.Now()))
			gone(s.KeepPractice(ctx, s.pupil, practised, exercise.Answer{"main": "3"}))
			gone(s.HelpPractice(ctx, s.pupil, practised))
			again, err := s.Stands(ctx, s.rival, s.assignment, time.Now())
			if err == nil && name == "archived" {
				_, err = s.Sit(ctx, s.rival, s.assignment, again.At)
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
			go func() { _, err := s.OpenRound(ctx, s.anna, s.class, it, true, time.Now()); done <- err }()
			go func() { done <- s.CloseRound(ctx, s.anna, s.class, time.Now()) }()
			go func() { done <- s.TellRound(ctx, s.anna, s.class, time.Now()) }()
		}
		for range 9 {
			require.NoError(t, <-done)
		}
		told, err := s.ClassStamp(ctx, s.class)
		require.NoError(t, err)
		kept, err := s.LatestRound(ctx, s.anna, s.class)
		require.NoError(t, err)
		require.Equal(t, kept.Stamp(), told)
	}
	k, err := s.LatestRound(ctx, s.anna, s.class)
	require.NoError(t, err)
	require.NoError(t, s.TellRound(ctx, s.anna, s.class, time.Now()))
	assert.ErrorIs(t, s.Reply(ctx, s.pupil, s.class, k.ID, exercise.Answer{}, time.Now()), classroom.ErrOver)
	id := s.must(s.OpenRound(ctx, s.anna, s.class, it, true, time.Now()))
	require.NoError(t, s.Leave(ctx, classroom.Hand{ID: s.anna, Name: "Anna", At: time.Now()}, s.class, s.pupil, false))
	assert.ErrorIs(t, s.Reply(ctx, s.pupil, s.class, id, exercise.Answer{}, time.Now()), classroom.ErrOver, "who has left answers nothing")
}

// While a student takes a timed test the Bench and practice are closed for instruments like those of the test, unless its
// sheet says otherwise; afterwards they are open again. A test without an end closes nothing.
func TestAidsDuringATest(t *testing.T) {
	for name, tt := range map[string]struct {
		minutes int
		mode    exercise.Mode
		aids    exercise.Aids
		closed  bool
	}{"timed": {30, exercise.Test, exercise.AidsClosed, true}, "allowed": {30, exercise.Test, exercise.AidsOpen, false},
		"no end": {0, exercise.Test, exercise.AidsClosed, false}, "practice": {30, exercise.Practice, exercise.AidsClosed, false}} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			s := newSchool(t)
			ctx := t.Context()
			in := twentieth(t)
			sheet := s.must(s.KeepSheet(ctx, s.anna, classroom.Sheet{Title: "Half-term", Racked: [][]int64{{}}, Definition: exercise.Sheet{
				Dealer: exercise.Dealing, Conduct: exercise.Conduct{Mode: tt.mode, Minutes: tt.minutes, Aids: tt.aids},
				Blocks: []exercise.Block{{Kind: "read", Cards: 2, Instruments: []*instrument.Instrument{in}}}}}))
			test := s.must(s.Give(ctx, s.anna, s.class, sheet, 7, time.Now()))
			practised, err := s.NextCard(ctx, s.pupil, 1)
			require.NoError(t, err)
			bench, err := s.StudentBench(ctx, s.pupil)
			require.NoError(t, err)
			require.NotEmpty(t, bench)
			check := func(closed bool) {
				t.Helper()
				now, err := s.StudentBench(ctx, s.pupil)
				require.NoError(t, err)
				_, stand := s.Stand(ctx, s.pupil, bench[0].Key)
				_, next := s.NextCard(ctx, s.pupil, 2)
				_, again := s.PractisedCard(ctx, s.pupil, practised.N)
				if !closed {
					assert.Len(t, now, len(bench))
					assert.NoError(t, stand)
					assert.NoError(t, next)
					assert.NoError(t, again)
					return
				}
				assert.Empty(t, now)
				for _, err := range []error{stand, next, again} {
					assert.ErrorIs(t, err, classroom.ErrInTest)
				}
			}
			check(false)
			_, err = s.Sit(ctx, s.pupil, test, time.Now())
			require.NoError(t, err)
			check(tt.closed)
			other, err := s.StudentBench(ctx, s.rival)
			require.NoError(t, err)
			assert.Len(t, other, len(bench), "others are not in the test")
			require.NoError(t, s.HandIn(ctx, s.pupil, test, time.Now()))
			check(false)
		})
	}
}
