package server_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/comparator"
	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/core/refusal"
	"cavix/core/survey"
	"cavix/school/access"
	"cavix/school/bin"
	"cavix/school/rounds"
	"cavix/school/schooltest"
	"cavix/school/server"
	"cavix/school/studies"
	"cavix/store"
)

// huge passes the bound of digits as it is typed, and grows beyond it when it is brought to millimetres.
const huge = "1/987654321987654321 in"

// A number that is accepted anywhere is read again for ever: what grows by conversion is refused at each door, and what
// was kept by an earlier version without that bound is read all the same.
func TestNumbersThatGrowByConversion(t *testing.T) {
	s := schooltest.New(t)
	ctx, now := t.Context(), time.Now()
	by := access.Actor{ID: s.Anna, Name: "Anna", At: now}
	in := schooltest.Twentieth(t)

	comparison := s.Must(s.Studies.AddComparison(ctx, s.Anna, "Pins", comparator.Plan{Nominal: length.Int(12),
		Unit: length.Millimetre, Places: 2}, now))
	taken, err := s.Studies.Paste(ctx, s.Anna, comparison, huge+"\n+0.02 mm", now)
	require.NoError(t, err)
	assert.Equal(t, studies.Taken{Read: 1, Apart: 1}, taken)
	study := s.Must(s.Studies.GiveSurvey(ctx, by, s.Class, "Pins", survey.Plan{
		Instruments: schooltest.OneOf(in), Places: 1,
		Repeats: 2, Same: true, Parts: []survey.Part{{Name: "pin", Size: length.Int(20)}}}, 1))
	var refused refusal.Refusal
	require.ErrorAs(t, s.Studies.Record(ctx, s.Pupil, study, 0, huge, now), &refused)
	require.NoError(t, s.Studies.Record(ctx, s.Pupil, study, 0, "20.00", now))
	racked := s.Must(s.Rack.KeepInstrument(ctx, s.Anna, 0, in))
	zero := length.Number{}
	require.NoError(t, s.Rack.WriteBook(ctx, s.Anna, racked, logbook.Entry{At: now, Closed: &zero, Who: "Anna",
		Condition: logbook.Clean, Decision: logbook.InUse}))

	typed, err := length.ReadTyped(huge)
	require.NoError(t, err)
	large := length.Convert(typed.Value, typed.Unit, length.Millimetre) // as an earlier version kept it
	for _, change := range []string{"UPDATE compared SET deviation = ? WHERE deviation IS NOT NULL",
		"UPDATE readings SET value = ?", "UPDATE instruments SET zero_limit = ?"} {
		s.Change(change, large.String())
	}
	_, lines, err := s.Studies.Comparison(ctx, s.Anna, comparison)
	require.NoError(t, err)
	require.NotNil(t, lines[1].Deviation)
	assert.True(t, lines[1].Deviation.Equal(large))
	read, damaged, err := s.Studies.Readings(ctx, s.Anna, study)
	require.NoError(t, err)
	assert.Empty(t, damaged)
	assert.True(t, read[0].Value.Equal(large))
	book, err := s.Rack.Book(ctx, s.Anna, racked, now)
	require.NoError(t, err)
	assert.True(t, book.Limit.Equal(large))
	a, err := s.Server.Audit(ctx, server.Auditing{})
	require.NoError(t, err)
	assert.Empty(t, a.Faults)
}

// What cannot be read is shown as such and can be removed, and no list or page beside it fails.
func TestDamagedRowsAreShownAndRemoved(t *testing.T) {
	s := schooltest.New(t)
	ctx, now := t.Context(), time.Now()
	by := access.Actor{ID: s.Anna, Name: "Anna", At: now}
	in := schooltest.Twentieth(t)
	comparison := s.Must(s.Studies.AddComparison(ctx, s.Anna, "Pins", comparator.Plan{Nominal: length.Int(12),
		Unit: length.Millimetre, Places: 2}, now))
	lost := s.Must(s.Studies.AddComparison(ctx, s.Anna, "Lost", comparator.Plan{Nominal: length.Int(12),
		Unit: length.Millimetre, Places: 2}, now))
	_, err := s.Studies.Paste(ctx, s.Anna, comparison, "+0.02 mm\n+0.03 mm", now)
	require.NoError(t, err)
	plan := survey.Plan{Instruments: schooltest.OneOf(in), Places: 1, Repeats: 2, Same: true,
		Parts: []survey.Part{{Name: "pin", Size: length.Int(20)}}}
	study := s.Must(s.Studies.GiveSurvey(ctx, by, s.Class, "Pins", plan, 1))
	gone := s.Must(s.Studies.GiveSurvey(ctx, by, s.Class, "Gone", plan, 1))
	require.NoError(t, s.Studies.Record(ctx, s.Pupil, study, 0, "20.00", now))
	require.NoError(t, s.Studies.Record(ctx, s.Pupil, study, 1, "20.00", now))
	racked := s.Must(s.Rack.KeepInstrument(ctx, s.Anna, 0, in))
	zero := length.Number{}
	entry := logbook.Entry{At: now, Closed: &zero, Who: "Anna", Condition: logbook.Clean, Decision: logbook.InUse}
	require.NoError(t, s.Rack.WriteBook(ctx, s.Anna, racked, entry, entry))
	round := s.Must(s.Rounds.Open(ctx, s.Anna, s.Class, s.Card(s.Pupil, 1).Item, true, now))
	for _, change := range []string{"UPDATE compared SET deviation = 'x' WHERE id = 1",
		"UPDATE comparisons SET plan = '[]' WHERE title = 'Lost'", "UPDATE readings SET value = 'x' WHERE cell = 0",
		"UPDATE surveys SET plan = '[]' WHERE title = 'Gone'",
		"UPDATE logbook SET entry = '[]' WHERE id = 1", "UPDATE instruments SET zero_limit = 'x'",
		"UPDATE rounds SET item = '{}'"} {
		s.Change(change)
	}
	s.Open() // as a server finds the file

	_, lines, err := s.Studies.Comparison(ctx, s.Anna, comparison)
	require.NoError(t, err)
	require.True(t, lines[0].Damaged)
	require.NoError(t, s.Studies.RemoveCompared(ctx, s.Anna, comparison, lines[0].ID))
	_, lines, err = s.Studies.Comparison(ctx, s.Anna, comparison)
	require.NoError(t, err)
	assert.Len(t, lines, 1)
	all, err := s.Studies.Comparisons(ctx, s.Anna)
	require.NoError(t, err)
	assert.ErrorAs(t, all[0].Err, new(store.DamagedRow))
	require.NoError(t, s.Studies.DropComparison(ctx, by, lost))

	studies, err := s.Studies.Surveys(ctx, s.Anna)
	require.NoError(t, err)
	assert.ErrorAs(t, studies[0].Err, new(store.DamagedRow))
	require.NoError(t, s.Studies.DropSurvey(ctx, by, gone))
	read, damaged, err := s.Studies.Readings(ctx, s.Anna, study)
	require.NoError(t, err)
	assert.Len(t, read, 1)
	require.Len(t, damaged, 1)
	require.NoError(t, s.Studies.Record(ctx, s.Pupil, study, 0, "20.05", now), "the student reads it once more")
	read, damaged, err = s.Studies.Readings(ctx, s.Anna, study)
	require.NoError(t, err)
	assert.Len(t, read, 2)
	assert.Empty(t, damaged)
	require.NoError(t, s.Studies.Record(ctx, s.Pupil, study, 0, "20.10", now))
	again, _, err := s.Studies.Readings(ctx, s.Anna, study)
	require.NoError(t, err)
	assert.Equal(t, read, again, "a reading that was taken stays")
	require.NoError(t, s.Studies.RemoveReading(ctx, by, study, s.Pupil, 0))

	_, err = s.Rack.Rack(ctx, s.Anna)
	require.NoError(t, err)
	book, err := s.Rack.Book(ctx, s.Anna, racked, now)
	require.NoError(t, err)
	require.Len(t, book.Damaged, 1)
	assert.Equal(t, "x", book.BadLimit)
	assert.Len(t, book.Entries, 1)
	require.Error(t, s.Rack.RemoveDamaged(ctx, s.Anna, racked, book.Entries[0].ID), "a sound entry stays")
	require.NoError(t, s.Rack.RemoveDamaged(ctx, s.Anna, racked, book.Damaged[0].ID))
	require.NoError(t, s.Rack.SetZeroLimit(ctx, s.Anna, racked, nil))

	asked, err := s.Rounds.Rounds(ctx, s.Anna, s.Class, 10)
	require.NoError(t, err)
	assert.Nil(t, asked[0].Item)
	assert.Equal(t, round, asked[0].ID)
	k, _, err := s.Rounds.StudentRound(ctx, s.Pupil)
	require.NoError(t, err)
	assert.Equal(t, rounds.NoRound, k.Stage(), "the class goes on with its next question")

	lying, err := s.Bin.Bin(ctx, s.Anna)
	require.NoError(t, err)
	require.Len(t, lying, 2)
	for _, b := range lying {
		require.NoError(t, s.Bin.Restore(ctx, by, b.Sort, b.ID))
		require.Error(t, s.Bin.Restore(ctx, by, b.Sort, b.ID), "it is not there any more")
	}
	require.NoError(t, s.Studies.DropSurvey(ctx, by, study))
	_, err = s.Studies.StudentSurvey(ctx, s.Pupil, study)
	require.Error(t, err)
	require.NoError(t, s.Bin.EmptyBins(ctx, now.Add(bin.Keeps+time.Hour)))
	s.Count(0, "SELECT count(*) FROM readings WHERE survey = ?", study)
}

// A card that an earlier version marked by a rule that has changed since is told apart from a mark that somebody
// changed.
func TestMarksOfAnEarlierVersion(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	by := access.Actor{ID: s.Anna, Name: "Anna", At: time.Now()}
	k := s.Card(s.Pupil, 1)
	a := s.Right(k)
	x, err := length.Parse(a["main"])
	require.NoError(t, err)
	y, err := length.Parse(a["observed"])
	require.NoError(t, err)
	a["main"], a["observed"] = x.Add(length.Int(1)).String(), y.Add(length.Int(1)).Text(2)
	s.Submit(k, a)
	require.Equal(t, string(exercise.Carried), string(s.Card(s.Pupil, 1).Result.Field("observed").Outcome))
	s.Change(`UPDATE cards SET result = json_set(unpacked(result), '$[1].outcome', 'form', '$[1].marks', '0.5'),
		half_marks = half_marks - 1 WHERE result IS NOT NULL`)
	found, err := s.Server.Audit(ctx, server.Auditing{})
	require.NoError(t, err)
	require.Len(t, found.Faults, 1)
	assert.Contains(t, found.Faults[0], "whether it lost marks for form")
	s.Change("UPDATE cards SET form = 1 WHERE result IS NOT NULL")
	found, err = s.Server.Audit(ctx, server.Auditing{})
	require.NoError(t, err)
	assert.Empty(t, found.Faults)
	require.Len(t, found.Earlier, 1)
	assert.Equal(t, 1, found.Earlier[0].Cards)
	assert.Contains(t, found.Earlier[0].String(), "decimal places")

	require.NoError(t, s.Marking.NoteEarlier(ctx, found.Earlier, time.Now()))
	list, err := s.Marking.ToRemark(ctx, s.Anna, false)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.True(t, list[0].May)
	others, err := s.Marking.ToRemark(ctx, s.Otto, false)
	require.NoError(t, err)
	assert.Empty(t, others)
	keeper, err := s.Marking.ToRemark(ctx, s.Otto, true)
	require.NoError(t, err)
	assert.False(t, keeper[0].May, "somebody leads the class")
	require.ErrorIs(t, s.Marking.RemarkEarlier(ctx, access.Actor{ID: s.Otto, Name: "Otto", At: time.Now()},
		s.Assignment), access.ErrForbidden)
	require.NoError(t, s.Marking.RemarkEarlier(ctx, by, s.Assignment))
	found, err = s.Server.Audit(ctx, server.Auditing{})
	require.NoError(t, err)
	assert.Empty(t, found.Faults)
	assert.Empty(t, found.Earlier)
	list, err = s.Marking.ToRemark(ctx, s.Anna, false)
	require.NoError(t, err)
	assert.Empty(t, list)

	s.Change("UPDATE cards SET half_marks = half_marks - 1 WHERE answered IS NOT NULL")
	found, err = s.Server.Audit(ctx, server.Auditing{})
	require.NoError(t, err)
	assert.Len(t, found.Faults, 1, "half a mark that no entry has lost was taken by somebody")
}
