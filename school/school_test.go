package school_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/schooltest"
	"cavix/school/sitting"
	"cavix/store"
	"cavix/store/storetest"
)

func TestEverybodySeesOnlyWhatIsTheirs(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	read := s
	k := s.Card(s.Pupil, 1)
	notFound := func(err error) { t.Helper(); assert.ErrorIs(t, err, store.ErrNotFound) }

	assert.NotEqual(t, k.CardRow.Item, s.Card(s.Rival, 1).CardRow.Item, "each gets own values")
	_, err := s.Sitting.Sit(ctx, s.Stranger, s.Assignment, time.Now())
	notFound(err)
	_, _, err = s.Sitting.MyCard(ctx, s.Stranger, s.Assignment, 1, time.Now())
	notFound(err)
	_, err = s.Sitting.StudentSheet(ctx, s.Stranger, s.Assignment)
	notFound(err)
	_, err = s.Sitting.Submit(ctx, s.Stranger, k, s.Stands(s.Pupil), exercise.Answer{"main": "1"}, time.Now())
	assert.ErrorIs(t, err, sitting.ErrOver)
	require.ErrorIs(t, s.Draft(s.Rival, k, exercise.Answer{"main": "1"}), sitting.ErrOver)
	assert.Empty(t, s.Card(s.Pupil, 1).Draft, "not the rival's card")

	_, err = s.Sitting.CardOf(ctx, s.Anna, s.Assignment, s.Pupil, 0, 1)
	require.NoError(t, err)
	_, err = s.Sitting.CardOf(ctx, s.Otto, s.Assignment, s.Pupil, 0, 1)
	notFound(err)
	_, err = s.Sitting.GivenSheet(ctx, s.Otto, s.Assignment)
	notFound(err)
	_, err = read.Roster.Class(ctx, s.Otto, s.Class)
	notFound(err)
	notFound(s.Roster.ClearPassphrase(ctx, access.Actor{ID: s.Otto}, s.Class, s.Pupil))
	notFound(s.Roster.ClearPassphrase(ctx, access.Actor{ID: s.Otto}, s.Other, s.Pupil))
	rack, err := s.Rack.Rack(ctx, s.Anna)
	require.NoError(t, err)
	_, err = s.Rack.Racked(ctx, s.Otto, rack[0].ID)
	notFound(err)
	notFound(s.Rack.DropInstrument(ctx, access.Actor{ID: s.Otto, At: time.Now()}, rack[0].ID))
	_, err = s.Rack.KeepInstrument(ctx, s.Otto, rack[0].ID, rack[0].Instrument)
	notFound(err)
	sheets, err := s.Rack.Sheets(ctx, s.Anna)
	require.NoError(t, err)
	_, err = s.Rack.Sheet(ctx, s.Otto, sheets[0].ID)
	notFound(err)
	_, err = s.Sitting.Give(ctx, s.Otto, s.Other, sheets[0].ID, 1, time.Now())
	notFound(err)
	_, err = s.Sitting.Give(ctx, s.Otto, s.Class, sheets[0].ID, 1, time.Now())
	notFound(err)
	_, err = s.Sitting.Give(ctx, s.Anna, s.Class, sheets[0].ID, 1, time.Now())
	assert.ErrorIs(t, err, sitting.ErrGiven)
	_, err = s.Marking.Remark(ctx, s.Otto, s.Assignment, exercise.Method{}, false)
	notFound(err)
	half := int64(1)
	notFound(s.Marking.SetOwnMark(ctx, s.Otto, k.CardRow, &half, "no", "Otto", time.Now()))
	for _, list := range []func() (int, error){
		func() (int, error) { l, err := read.Ledgers.SheetMarks(ctx, s.Otto, s.Assignment); return len(l), err },
		func() (int, error) {
			l, err := read.Ledgers.LedgerOf(ctx, s.Otto, s.Assignment, s.Pupil, 1)
			return len(l), err
		},
		func() (int, error) { l, err := read.Roster.Students(ctx, s.Otto, s.Class); return len(l), err },
		func() (int, error) { l, err := read.Sitting.Assignments(ctx, s.Otto, s.Class); return len(l), err },
	} {
		n, err := list()
		notFound(err)
		assert.Zero(t, n)
	}
}

// What this program cannot read stands in the lists with the reason, and everything else is shown.
func TestARowThatCannotBeRead(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	for query, document := range map[string]string{
		"INSERT INTO instruments (owner, name, document, changed, used) VALUES (?, 'From tomorrow', ?, 9999999999, " +
			"9999999999)": `{"format":"cavix/instrument","version":9}`,
		"INSERT INTO sheets (owner, title, definition, racked, changed) VALUES (?, 'From tomorrow', ?, '[]', " +
			"1)": `{"format":"cavix/sheet","version":9}`,
	} {
		storetest.Exec(t, s.DB, query, s.Anna, document)
	}
	kept, err := s.Rack.Rack(ctx, s.Anna)
	require.NoError(t, err)
	require.Len(t, kept, 2)
	assert.ErrorContains(t, kept[0].Err, "version=9")
	assert.NoError(t, kept[1].Err)
	require.NoError(t, s.Rack.DropInstrument(ctx, access.Actor{ID: s.Anna, At: time.Now()}, kept[0].ID),
		"it can be taken off")
	sheets, err := s.Rack.Sheets(ctx, s.Anna)
	require.NoError(t, err)
	require.Len(t, sheets, 2)
	assert.True(t, strings.Contains(sheets[0].Err.Error(), "version 9"))
	free, err := s.Rack.SheetsNotGiven(ctx, s.Anna, s.Class)
	require.NoError(t, err)
	assert.Empty(t, free, "it cannot be given")
	_, err = s.Rack.KeepSheet(ctx, s.Anna, rack.Sheet{Title: "Empty"})
	assert.ErrorContains(t, err, "blocks")
}
