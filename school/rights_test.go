package school_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/survey"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/schooltest"
	"cavix/school/sitting"
	"cavix/store"
)

// staffed is a school whose class has colleagues in every role, and something of every sort to act on.
type staffed struct {
	*schooltest.School
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
	s := &staffed{School: schooltest.New(t), by: map[string]access.Actor{}, sheets: map[string]int64{},
		instructorClass: map[string]int64{}}
	ctx, now := t.Context(), time.Now()
	s.by["owner"], s.by["stranger"] = access.Actor{ID: s.Anna, Name: "Anna", At: now},
		access.Actor{ID: s.Otto, Name: "Otto", At: now}
	for role, as := range map[string]access.Role{"marker": access.Marker, "viewer": access.Viewer} {
		id := s.Must(s.Roster.AddInstructor(ctx, roster.Instructor{Login: role, Name: role}))
		s.by[role] = access.Actor{ID: id, Name: role, At: now}
		require.NoError(t, s.Roster.SetRole(ctx, s.by["owner"], s.Class, role, as))
	}
	for role, by := range s.by {
		s.instructorClass[role] = s.Must(s.Roster.AddClass(ctx, by.ID, "Another of "+role, ""))
		s.sheets[role] = s.Must(s.Rack.KeepSheet(ctx, by.ID, rack.Sheet{Title: "Own", Racked: [][]int64{{}},
			Definition: exercise.Sheet{
				Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "care", Cards: 1}}}}))
	}
	k := s.Card(s.Pupil, 1)
	s.Submit(k, s.Right(k))
	s.answered, s.item = s.Card(s.Pupil, 1), k.Item
	s.waiting = s.Must(s.Roster.Join(ctx, s.Class, "Juniper T.", "", now))
	s.round = s.Must(s.Rounds.Open(ctx, s.Anna, s.Class, s.item, true, now))
	plan := survey.Plan{Instruments: nil, Places: 1, Repeats: 1, Same: true,
		Parts: []survey.Part{{Name: "pin", Size: length.Int(20)}}}
	in := schooltest.Twentieth(t)
	plan.Instruments = append(plan.Instruments, in)
	s.study = s.Must(s.Studies.GiveSurvey(ctx, s.by["owner"], s.Class, "Pins", plan, 1))
	s.mine = s.Must(s.Studies.GiveSurvey(ctx, s.by["marker"], s.Class, "Pins too", plan, 1))
	require.NoError(t, s.Studies.Record(ctx, s.Pupil, s.study, 0, "20.00", now))
	return s
}

// rights says of every use case on a class who may do it: "owner" is the class's owner alone, "marker" also a colleague
// who can mark, "viewer" whoever teaches the class. What only reads stands in rights_reads_test.go.
var rights = []struct {
	name, from string
	do         func(s *staffed, role string, by access.Actor) error
}{
	{"Roster.ClearPassphrase", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.ClearPassphrase(s.T.Context(), by, s.Class, s.Pupil)
	}},
	{"Merging.Merge", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Merging.Merge(s.T.Context(), by, s.Class, s.Pupil, s.Rival)
	}},
	{"Merging.Unmerge", "owner", func(s *staffed, _ string, by access.Actor) error {
		if list, err := s.Merging.Merges(s.T.Context(), s.Anna, s.Class, s.Pupil); err != nil || len(list) == 0 {
			require.NoError(s.T, s.Merging.Merge(s.T.Context(), access.Actor{ID: s.Anna}, s.Class, s.Pupil, s.Rival))
		}
		return s.Merging.Unmerge(s.T.Context(), by, s.Class, s.Pupil, s.Rival)
	}},
	{"Roster.ImportPeople", "owner", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Roster.ImportPeople(s.T.Context(), by, s.Class, []roster.ImportedPerson{{Name: "Una V."}},
			map[string]string{"name": "name"})
		return err
	}},
	{"Roster.ChangeStudent", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.ChangeStudent(s.T.Context(), by, roster.Student{ID: s.Pupil, Class: s.Class, Name: "Wren B.",
			Extra: 5})
	}},
	{"Roster.Admit", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.Admit(s.T.Context(), by, s.Class, []int64{s.waiting}, true)
	}},
	{"Roster.SetLeft", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.SetLeft(s.T.Context(), by, s.Class, s.Rival, false)
	}},
	{"Roster.Move", "owner", func(s *staffed, role string, by access.Actor) error {
		return s.Roster.Move(s.T.Context(), by, s.Class, s.Rival, s.instructorClass[role])
	}},
	{"Roster.NoteExport", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.NoteExport(s.T.Context(), by, s.Class, s.Pupil)
	}},
	{"Roster.Archive", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.Archive(s.T.Context(), by, s.Class, false)
	}},
	{"Roster.SetRole", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.SetRole(s.T.Context(), by, s.Class, "viewer", access.Viewer)
	}},
	{"Roster.Import", "owner", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Roster.Import(s.T.Context(), by, s.Class, []roster.ImportedPerson{{Name: "Ash W."}})
		return err
	}},
	{"Roster.SaveSettings", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.SaveSettings(s.T.Context(), by, s.Class,
			roster.Settings{Name: "Mondays", Joining: roster.JoinShut})
	}},
	{"Sitting.AddClassLike", "owner", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Sitting.AddClassLike(s.T.Context(), by, "Next year", s.Class, time.Now())
		return err
	}},
	{"Roster.RenewCode", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.RenewCode(s.T.Context(), by, s.Class)
	}},
	{"Roster.DropStudent", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.DropStudent(s.T.Context(), by, s.Class, s.Rival)
	}},
	{"Roster.DropClass", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Roster.DropClass(s.T.Context(), by, s.Class)
	}},
	{"Studies.DropSurvey", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.DropSurvey(s.T.Context(), by, s.study)
	}},

	{"Studies.DropSurvey of one's own", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.DropSurvey(s.T.Context(), by, s.mine)
	}},
	{"Sitting.Give", "marker", func(s *staffed, role string, by access.Actor) error {
		_, err := s.Sitting.Give(s.T.Context(), by.ID, s.Class, s.sheets[role], 1, time.Now())
		return err
	}},
	{"Sitting.SetDates", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Sitting.SetDates(s.T.Context(), by.ID, s.Assignment, time.Time{}, time.Now().Add(time.Hour))
	}},
	{"Marking.Release", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Marking.Release(s.T.Context(), by.ID, s.Assignment, time.Now())
	}},
	{"Ledgers.DismissMarkChanges", "owner", func(s *staffed, _ string, by access.Actor) error {
		return s.Ledgers.DismissMarkChanges(s.T.Context(), by, s.Class)
	}},
	{"Sitting.SetSheetDates", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Sitting.SetSheetDates(s.T.Context(), by, sitting.SheetDates{Assignment: s.Assignment, Student: s.Pupil,
			Closes: time.Now().Add(time.Hour)})
	}},
	{"Sitting.MoreMinutes", "marker", func(s *staffed, _ string, by access.Actor) error {
		err := s.Sitting.MoreMinutes(s.T.Context(), by, s.Assignment, s.Pupil, 5)
		if errors.Is(err, sitting.ErrNoEnd) {
			return nil // it was allowed, and the sheet needs none
		}
		return err
	}},
	{"Ledgers.SetWeights", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Ledgers.SetWeights(s.T.Context(), by, s.Class, map[int64]int{s.Assignment: 2})
	}},
	{"Ledgers.Excuse", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Ledgers.Excuse(s.T.Context(), by, ledgers.Excuse{Assignment: s.Assignment, Student: s.Pupil,
			Reason: "ill"})
	}},
	{"Marking.SetOwnMark", "marker", func(s *staffed, _ string, by access.Actor) error {
		half := int64(1)
		return s.Marking.SetOwnMark(s.T.Context(), by.ID, s.answered.CardRow, &half, "seen", by.Name, time.Now())
	}},
	{"Marking.ApplyRemark", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Marking.ApplyRemark(s.T.Context(), by.ID, s.Assignment, exercise.Method{Decimals: "lenient"}, false,
			by.Name, time.Now())
	}},
	{"Ledgers.MakeVersions", "marker", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Ledgers.MakeVersions(s.T.Context(), by, s.Assignment, ledgers.Printing{Per: ledgers.ForAll,
			Anew: true})
		return err
	}},
	{"Rounds.Open", "marker", func(s *staffed, _ string, by access.Actor) error {
		_, err := s.Rounds.Open(s.T.Context(), by.ID, s.Class, s.item, true, time.Now())
		return err
	}},
	{"Rounds.Close", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Rounds.Close(s.T.Context(), by.ID, s.Class, time.Now())
	}},
	{"Rounds.Reveal", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Rounds.Reveal(s.T.Context(), by.ID, s.Class, time.Now())
	}},
	{"Rounds.SetBoard", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Rounds.SetBoard(s.T.Context(), by.ID, s.Class, "{}")
	}},
	{"Studies.GiveSurvey", "marker", func(s *staffed, _ string, by access.Actor) error {
		sv, err := s.Studies.Survey(s.T.Context(), s.Anna, s.study)
		require.NoError(s.T, err)
		_, err = s.Studies.GiveSurvey(s.T.Context(), by, s.Class, "More pins", sv.Plan, 2)
		return err
	}},
	{"Studies.CloseSurvey", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.CloseSurvey(s.T.Context(), by, s.study, false)
	}},
	{"Studies.RemoveReading", "marker", func(s *staffed, _ string, by access.Actor) error {
		return s.Studies.RemoveReading(s.T.Context(), by, s.study, s.Pupil, 0)
	}},
	{"Marking.UndoRemark", "marker", func(s *staffed, _ string, by access.Actor) error {
		require.NoError(s.T, s.Marking.ApplyRemark(s.T.Context(), s.Anna, s.Assignment,
			exercise.Method{Decimals: "lenient"}, false, "Anna", time.Now()))
		return s.Marking.UndoRemark(s.T.Context(), by.ID, s.Assignment, by.Name, time.Now())
	}},
	{"Ledgers.EnterAnswers", "marker", func(s *staffed, _ string, by access.Actor) error {
		versions, err := s.Ledgers.MakeVersions(s.T.Context(), s.by["owner"], s.Assignment,
			ledgers.Printing{Per: ledgers.PerStudent})
		require.NoError(s.T, err)
		return s.Ledgers.EnterAnswers(s.T.Context(), by, s.Assignment,
			[]ledgers.EnteredPaper{{Version: versions[0], Student: s.Rival,
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
	require.NoError(t, s.Roster.SetRole(t.Context(), s.by["owner"], s.Class, "marker", access.Viewer))
	require.ErrorIs(t, s.Studies.DropSurvey(t.Context(), s.by["marker"], s.mine), access.ErrForbidden)
}
