package school_test

import (
	"context"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/comparator"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/bin"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/school/rounds"
	"cavix/school/schooltest"
	"cavix/school/sitting"
	"cavix/store"
)

// failed drops what a use case returns beside its error.
func failed[T any](_ T, err error) error { return err }

func failed2[T, U any](_ T, _ U, err error) error { return err }

func each(ledgers.Answered) error { return nil }

// reads says of every use case that only reads of a class who may do it, as rights does.
var reads = []struct {
	name, from string
	do         func(ctx context.Context, s *staffed, me int64) error
}{
	{"Roster.Class", "viewer", func(ctx context.Context, s *staffed,
		me int64) error {
		return failed(s.Roster.Class(ctx, me, s.Class))
	}},
	{"Roster.AllStudents", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Roster.AllStudents(ctx, me, s.Class))
	}},
	{"Roster.Students", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Roster.Students(ctx, me, s.Class))
	}},
	{"Roster.Staff", "viewer", func(ctx context.Context, s *staffed,
		me int64) error {
		return failed(s.Roster.Staff(ctx, me, s.Class))
	}},
	{"Roster.Seats", "viewer", func(ctx context.Context, s *staffed,
		me int64) error {
		return failed(s.Roster.Seats(ctx, me, s.Class))
	}},
	{"Roster.ClassStudent", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Roster.ClassStudent(ctx, me, s.Class, s.Pupil))
	}},
	{"Roster.NameList", "owner", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Roster.NameList(ctx, me, s.Class))
	}},
	{"Roster.ListColumns", "owner", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Roster.ListColumns(ctx, me, s.Class))
	}},
	{"Roster.PreviewImport", "owner", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Roster.PreviewImport(ctx, me, s.Class, nil))
	}},
	{"Access.RoleIn", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Access.RoleIn(ctx, me, s.Class))
	}},
	{"Access.PeopleLog", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Access.PeopleLog(ctx, me, s.Class, 5))
	}},
	{"Access.Changes", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Access.Changes(ctx, me, s.Assignment))
	}},
	{"Merging.Merges", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Merging.Merges(ctx, me, s.Class, s.Pupil))
	}},
	{"Rack.SheetsNotGiven", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Rack.SheetsNotGiven(ctx, me, s.Class))
	}},
	{"Rack.Course", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed2(s.Rack.Course(ctx, me, rack.Taking{Class: s.Class}))
	}},
	{"Sitting.Assignments", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Sitting.Assignments(ctx, me, s.Class))
	}},
	{"Sitting.GivenTo", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Sitting.GivenTo(ctx, me, s.Class))
	}},
	{"Sitting.Term", "viewer", func(ctx context.Context, s *staffed,
		me int64) error {
		return failed(s.Sitting.Term(ctx, me, s.Class))
	}},
	{"Sitting.Assignment", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Sitting.Assignment(ctx, me, s.Assignment))
	}},
	{"Sitting.GivenSheet", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Sitting.GivenSheet(ctx, me, s.Assignment))
	}},
	{"Sitting.SheetDates", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Sitting.SheetDates(ctx, me, s.Assignment))
	}},
	{"Sitting.CardOf", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Sitting.CardOf(ctx, me, s.Assignment, s.Pupil, 0, 1))
	}},
	{"Sitting.WordingFor", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Sitting.WordingFor(ctx, me, s.Pupil, s.answered.ID))
	}},
	{"Marking.Remark", "marker", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Marking.Remark(ctx, me, s.Assignment, exercise.Method{}, false))
	}},
	{"Marking.CanUndo", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Marking.CanUndo(ctx, me, s.Assignment))
	}},
	{"Rounds.Rounds", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Rounds.Rounds(ctx, me, s.Class, 5))
	}},
	{"Rounds.LatestRound", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Rounds.LatestRound(ctx, me, s.Class))
	}},
	{"Rounds.Board", "viewer", func(ctx context.Context, s *staffed,
		me int64) error {
		return failed(s.Rounds.Board(ctx, me, s.Class))
	}},
	{"Rounds.CountReplies", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed2(s.Rounds.CountReplies(ctx, me, s.round))
	}},
	{"Rounds.Replies", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Rounds.Replies(ctx, me, s.round))
	}},
	{"Rounds.Answers", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Rounds.Answers(ctx, me, rounds.Round{RoundRow: rounds.RoundRow{ID: s.round}, Item: s.item}))
	}},
	{"Rounds.RepliesOf", "owner", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Rounds.RepliesOf(ctx, me, s.Class, s.Pupil))
	}},
	{"Studies.Survey", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Studies.Survey(ctx, me, s.study))
	}},
	{"Studies.Readings", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed2(s.Studies.Readings(ctx, me, s.study))
	}},
	{"Studies.ReadingsBy", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Studies.ReadingsBy(ctx, me, s.study, s.Pupil))
	}},
	{"Studies.Trials", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Studies.Trials(ctx, me, s.study))
	}},
	{"Studies.Verdicts", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Studies.Verdicts(ctx, me, s.study))
	}},
	{"Studies.SurveyReadings", "owner", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Studies.SurveyReadings(ctx, me, s.Class, s.Pupil))
	}},
	{"Ledgers.Ledger", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.Ledger(ctx, me, s.Class, time.Now()))
	}},
	{"Ledgers.LedgerFor", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.LedgerFor(ctx, me, s.Class, s.Pupil, time.Now()))
	}},
	{"Ledgers.ClassWeeks", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.ClassWeeks(ctx, me, s.Class, 0, 5))
	}},
	{"Ledgers.ClassSlipWeeks", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.ClassSlipWeeks(ctx, me, s.Class, 0, time.Now()))
	}},
	{"Ledgers.Excuses", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.Excuses(ctx, me, s.Class))
	}},
	{"Ledgers.FamilySlips", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.FamilySlips(ctx, me, s.Class))
	}},
	{"Ledgers.SlipMakers", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.SlipMakers(ctx, me, s.Class))
	}},
	{"Ledgers.MovedStudents", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.MovedStudents(ctx, me, s.Class))
	}},
	{"Ledgers.PracticeSlips", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.PracticeSlips(ctx, me, s.Class, time.Now(), 5))
	}},
	{"Ledgers.PracticeSum", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.PracticeSum(ctx, me, s.Class, time.Now()))
	}},
	{"Ledgers.StudentProgress", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.StudentProgress(ctx, me, s.Pupil, 0, 5))
	}},
	{"Ledgers.SheetMarks", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.SheetMarks(ctx, me, s.Assignment))
	}},
	{"Ledgers.LedgerOf", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.LedgerOf(ctx, me, s.Assignment, s.Pupil, 1))
	}},
	{"Ledgers.SheetCells", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.SheetCells(ctx, me, sitting.Given{Assignment: sitting.Assignment{ID: s.Assignment}},
			nil, time.Now()))
	}},
	{"Ledgers.Watched", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.Watched(ctx, me, s.Assignment))
	}},
	{"Ledgers.Attempts", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.Attempts(ctx, me, s.Assignment))
	}},
	{"Ledgers.Mistakes", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.Mistakes(ctx, me, s.Assignment))
	}},
	{"Ledgers.Papers", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.Papers(ctx, me, s.Assignment))
	}},
	{"Ledgers.Paper", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.Paper(ctx, me, s.Assignment, 1))
	}},
	{"Ledgers.EnteredAnswers", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		return failed(s.Ledgers.EnteredAnswers(ctx, me, s.Assignment, s.Pupil, 1))
	}},
	{"Ledgers.ClassAnswers", "marker", func(ctx context.Context, s *staffed, me int64) error {
		return s.Ledgers.ClassAnswers(ctx, me, s.Class, each)
	}},
	{"Ledgers.SheetAnswers", "marker", func(ctx context.Context, s *staffed, me int64) error {
		return s.Ledgers.SheetAnswers(ctx, me, s.Assignment, each)
	}},
	{"Ledgers.StudentAnswers", "owner", func(ctx context.Context, s *staffed, me int64) error {
		return s.Ledgers.StudentAnswers(ctx, me, s.Class, s.Pupil, each)
	}},
	{"Ledgers.TrainingSheet", "viewer", func(ctx context.Context, s *staffed, me int64) error {
		_, err := s.Ledgers.TrainingSheet(ctx, me, s.Class, "neighbour-line", nil)
		if err == ledgers.ErrUntrained {
			return nil // nobody made the slip
		}
		return err
	}},
}

// Every use case that reads of a class is done for those who may do it, and refused to all others.
func TestReadRights(t *testing.T) {
	s := newStaffed(t)
	_, err := s.Ledgers.MakeVersions(t.Context(), s.by["owner"], s.Assignment, ledgers.Printing{Per: ledgers.ForAll})
	require.NoError(t, err)
	ranks := []string{"stranger", "viewer", "marker", "owner"}
	for _, u := range reads {
		for rank, role := range ranks {
			err := u.do(t.Context(), s, s.by[role].ID)
			switch {
			case role == "stranger":
				assert.ErrorIs(t, err, store.ErrNotFound, "%s: %s", u.name, role)
			case rank < slices.Index(ranks, u.from):
				assert.ErrorIs(t, err, access.ErrForbidden, "%s: %s", u.name, role)
			default:
				assert.NoError(t, err, "%s: %s", u.name, role)
			}
		}
	}
}

// keepers are the use cases of whoever keeps the server.
var keepers = map[string]func(ctx context.Context, s *staffed, by access.Actor) error{
	"Access.Log": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Access.Log(ctx, by.ID, 0, 5))
	},
	"Roster.SignIns": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Roster.SignIns(ctx, by.ID, "", 0, 5))
	},
	"Roster.Instructors": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Roster.Instructors(ctx, by.ID, 5))
	},
	"Roster.Invite": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Roster.Invite(ctx, by, "una", "Una"))
	},
	"Roster.ResetPassphrase": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Roster.ResetPassphrase(ctx, by, s.by["viewer"].ID))
	},
	"Roster.EndSessionsOf": func(ctx context.Context, s *staffed, by access.Actor) error {
		return s.Roster.EndSessionsOf(ctx, by, s.by["viewer"].ID)
	},
	"Roster.SetKeeper": func(ctx context.Context, s *staffed, by access.Actor) error {
		return s.Roster.SetKeeper(ctx, by, s.by["viewer"].ID, false)
	},
	"Roster.SetBarred": func(ctx context.Context, s *staffed, by access.Actor) error {
		return s.Roster.SetBarred(ctx, by, s.by["viewer"].ID, true)
	},
	"Server.Numbers": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Server.Numbers(ctx, by.ID))
	},
	"Server.Schema": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Server.Schema(ctx, by.ID))
	},
	"Server.LastCopy": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed(s.Server.LastCopy(ctx, by.ID))
	},
	"Server.LastCheck": func(ctx context.Context, s *staffed, by access.Actor) error {
		return failed2(s.Server.LastCheck(ctx, by.ID))
	},
}

func TestKeepersRights(t *testing.T) {
	s := newStaffed(t)
	for name, do := range keepers {
		assert.ErrorIs(t, do(t.Context(), s, s.by["stranger"]), access.ErrForbidden, name)
		assert.NoError(t, do(t.Context(), s, s.by["owner"]), name)
	}
}

// things are the use cases on what belongs to one instructor alone: an instrument, a sheet, a care question, a
// comparison, a copy that was sent.
var things = map[string]func(ctx context.Context, s *staffed, by access.Actor, id int64) error{
	"Rack.Racked": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.Racked(ctx, by.ID, id))
	},
	"Rack.KeepInstrument": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.KeepInstrument(ctx, by.ID, id, schooltest.Twentieth(s.T)))
	},
	"Rack.ReplaceInstrument": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.ReplaceInstrument(ctx, by.ID, id, "", schooltest.Twentieth(s.T))
	},
	"Rack.MakeAlike": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.MakeAlike(ctx, by.ID, id, 1, false)
	},
	"Rack.RestoreInstrument": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.RestoreInstrument(ctx, by.ID, id, 1)
	},
	"Rack.Share": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.Share(ctx, by.ID, id, true)
	},
	"Rack.SetZeroLimit": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.SetZeroLimit(ctx, by.ID, id, nil)
	},
	"Rack.TakeOver": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.TakeOver(ctx, by.ID, id)
	},
	"Rack.DropInstrument": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.DropInstrument(ctx, by, id)
	},
	"Rack.SendInstrument": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.SendInstrument(ctx, by, id, "viewer"))
	},
	"Rack.Book": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.Book(ctx, by.ID, id, time.Now()))
	},
	"Rack.ImportBook": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.ImportBook(ctx, by.ID, id, []logbook.Entry{{}}))
	},
	"Rack.RemoveDamaged": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.RemoveDamaged(ctx, by.ID, id, 1)
	},
	"Rack.WriteBook": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.WriteBook(ctx, by.ID, id, logbook.Entry{})
	},
	"Rack.Sheet": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.Sheet(ctx, by.ID, s.sheets["owner"]))
	},
	"Rack.ReplaceSheet": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.ReplaceSheet(ctx, by.ID, s.own(), "")
	},
	"Rack.RestoreSheet": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.RestoreSheet(ctx, by.ID, s.sheets["owner"], 1)
	},
	"Rack.DropSheet": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.DropSheet(ctx, by, s.sheets["owner"])
	},
	"Rack.SendSheet": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.SendSheet(ctx, by, s.sheets["owner"], "viewer"))
	},
	"Rack.KeepSheet": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.KeepSheet(ctx, by.ID, s.own()))
	},
	"Rack.Copy": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.Copy(ctx, by.ID, 1))
	},
	"Rack.KeepCopy": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Rack.KeepCopy(ctx, by.ID, 1))
	},
	"Rack.DeclineCopy": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.DeclineCopy(ctx, by.ID, 1)
	},
	"Rack.DropBanked": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Rack.DropBanked(ctx, by.ID, 1)
	},
	"Studies.Comparison": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed2(s.Studies.Comparison(ctx, by.ID, 1))
	},
	"Studies.DropComparison": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Studies.DropComparison(ctx, by, 1)
	},
	"Studies.Paste": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return failed(s.Studies.Paste(ctx, by.ID, 1, "1", time.Now()))
	},
	"Studies.RemoveCompared": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Studies.RemoveCompared(ctx, by.ID, 1, 1)
	},
	"Bin.Restore": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Bin.Restore(ctx, by, bin.Instrument, s.binned())
	},
	"Bin.Remove": func(ctx context.Context, s *staffed, by access.Actor, id int64) error {
		return s.Bin.Remove(ctx, by, bin.Instrument, s.binned())
	},
}

// own is the owner's sheet that was not given yet.
func (s *staffed) own() rack.Sheet {
	s.T.Helper()
	sh, err := s.Rack.Sheet(s.T.Context(), s.Anna, s.sheets["owner"])
	require.NoError(s.T, err)
	return sh
}

// binned is an instrument in the owner's Bin.
func (s *staffed) binned() int64 {
	s.T.Helper()
	id := s.Must(s.Rack.KeepInstrument(s.T.Context(), s.Anna, 0, schooltest.Twentieth(s.T)))
	require.NoError(s.T, s.Rack.DropInstrument(s.T.Context(), s.by["owner"], id))
	return id
}

// What belongs to one instructor does not exist for any other, not for a colleague in a class either.
func TestThingsOfOneInstructor(t *testing.T) {
	s := newStaffed(t)
	ctx := t.Context()
	id := s.Must(s.Rack.KeepInstrument(ctx, s.Anna, 0, schooltest.Twentieth(t)))
	_, err := s.Rack.SendInstrument(ctx, s.by["marker"],
		s.Must(s.Rack.KeepInstrument(ctx, s.by["marker"].ID, 0, schooltest.Twentieth(t))), "anna")
	require.NoError(t, err)
	for _, k := range kinds.All {
		if bank, has := k.(exercise.Banked); has {
			require.NoError(t, s.Rack.KeepBanked(ctx, s.Anna, bank, rack.Banked{Body: bank.Shipped()[0]}))
		}
	}
	s.Must(s.Studies.AddComparison(ctx, s.Anna, "Pins", comparator.Plan{Nominal: length.Int(20),
		Unit: length.Millimetre, Places: 2}, time.Now()))
	for name, do := range things {
		for _, role := range []string{"stranger", "viewer", "marker"} {
			assert.ErrorIs(t, do(ctx, s, s.by[role], id), store.ErrNotFound, "%s: %s", name, role)
		}
	}
}

// Use cases that need no right of another's: of a student on themselves, of an instructor on what is theirs, of
// anybody, and of the server.
var (
	ofStudents = strings.Fields(
		`Sitting.AllProgress Sitting.CardAt Sitting.CheckPractice Sitting.ChoosePractice Sitting.HandIn
		Sitting.SubmitCard
		Sitting.HelpPractice Sitting.InTest Sitting.KeepPractice Sitting.MyCard Sitting.NextCard Sitting.Practice
		Sitting.PracticeDays
		Sitting.PracticeMarks Sitting.PractisedCard Sitting.Progress Sitting.Sat Sitting.SaveDraft Sitting.Score
		Sitting.See Sitting.Sit Sitting.Speak Sitting.SpeakPractice
		Sitting.SitAgain Sitting.Stand Sitting.Stands Sitting.StudentBench Sitting.StudentSheet Sitting.StudentSheets
		Sitting.Submit
		Sitting.TakeHint Sitting.UndoCheck Sitting.UnreadSheets Sitting.Wording Rounds.ClassStamp Rounds.Reply
		Rounds.StudentRound Studies.Decide
		Studies.OwnReadings Studies.OwnTrials Studies.OwnVerdicts Studies.SetToothDepth Studies.Setup
		Studies.StudentSurvey
		Studies.StudentSurveys Studies.Try Studies.Record Ledgers.OwnAnswers Ledgers.OwnProgress Roster.StudentSchool`)
	ofOwners = strings.Fields(
		`Roster.AddClass Roster.Classes Roster.ChangeOwn Roster.EndOwn Roster.SetLanguage Rack.Bank Rack.Books
		Rack.ImportCourse Rack.Copies Rack.CountRacked Rack.CountSheets Rack.EarlierInstruments Rack.EarlierSheets
		Rack.FillBanks
		Rack.PreviewCourse Rack.KeepAnother Rack.KeepBanked Rack.Rack Rack.RackPart Rack.SetWording Rack.Sheets
		Rack.SheetsPart
		Rack.UseInstrument Rack.Wordings Studies.AddComparison Studies.Comparisons Studies.Surveys Marking.ToRemark
		Marking.RemarkEarlier
		Ledgers.FormLost Ledgers.RecentSheets Ledgers.MarkChanges Ledgers.Notices Ledgers.Pending Ledgers.Running
		Ledgers.WeekSum Bin.Bin`)
	ofAnybody = strings.Fields(
		`Roster.ByLink Roster.Choose Roster.ClassByCode Roster.HasInstructors Roster.Join Roster.JoinAsGuest
		Roster.NearName Roster.NoteSignIn Roster.SetUp Roster.StudentByName Roster.InstructorByLogin Studies.Send`)
	ofTheServer = strings.Fields(
		`Access.InClass Access.Logging Roster.AddInstructor Roster.DeviceKey Roster.DropGuests Roster.Instructor
		Roster.LinkFor Roster.School Roster.Sessions Roster.Student Roster.ChangeInClass
		Sitting.CloseBeside Sitting.CloseOver
		Sitting.OnSheet Sitting.Opened Sitting.Retime Marking.NoteEarlier Ledgers.FinishUpgrade
		Bin.EmptyBins
		Server.Audit Server.Ready`)
)

// A use case that is written anew finds its place in one of the tables.
func TestEveryUseCaseHasItsRight(t *testing.T) {
	stands := map[string]int{}
	for _, u := range rights {
		stands[strings.Fields(u.name)[0]] = 1
	}
	for _, u := range reads {
		stands[u.name]++
	}
	for name := range keepers {
		stands[name]++
	}
	for name := range things {
		stands[name]++
	}
	for _, name := range slices.Concat(ofStudents, ofOwners, ofAnybody, ofTheServer) {
		stands[name]++
	}
	there := map[string]bool{}
	for field := range reflect.TypeFor[school.School]().Fields() {
		for m := range field.Type.Methods() {
			name := field.Name + "." + m.Name
			if field.Name == "Hub" {
				continue
			}
			there[name] = true
			assert.Equal(t, 1, stands[name], "%s stands in one of the tables", name)
		}
	}
	assert.Greater(t, len(there), 150)
	for name := range stands {
		assert.True(t, there[name], "there is no use case %s", name)
	}
}
