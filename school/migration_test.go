package school_test

import (
	"database/sql"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/schooltest"
	"cavix/store"
	"cavix/store/storetest"
)

// A database of the first schema, with answers, drafts, an own mark and a marking anew, opens: every mark
// is as it was, every card can be worked, marked anew and back.
func TestADatabaseOfTheFirstSchemaOpens(t *testing.T) {
	data, err := os.ReadFile("../testdata/first-schema.db")
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "school.db")
	require.NoError(t, os.WriteFile(path, data, 0o600))

	type row struct {
		student    string
		n          int
		item       string
		half, own  sql.NullInt64
		slip       sql.NullString
		result     sql.NullString
		hints      int
		draft, ans sql.NullString
	}
	old, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	rows, err := old.Query(
		`SELECT s.name, k.n, k.item, k.half_marks, k.own_half_marks, k.slip, k.result, k.hints, k.draft, k.answer
		FROM cards k JOIN students s ON s.id = k.student ORDER BY s.folded, k.n`,
	)
	require.NoError(t, err)
	var before []row
	for rows.Next() {
		var r row
		require.NoError(t, rows.Scan(&r.student, &r.n, &r.item, &r.half, &r.own, &r.slip, &r.result, &r.hints,
			&r.draft, &r.ans))
		before = append(before, r)
	}
	require.NoError(t, rows.Err())
	require.Len(t, before, 12)
	require.NoError(t, old.Close())

	ctx := t.Context()
	st, err := store.Open(ctx, path)
	require.NoError(t, err)
	defer st.Close()
	room := school.New(st)
	maren, err := school.New(st).Roster.InstructorByLogin(ctx, "maren")
	require.NoError(t, err)
	assert.True(t, roster.CheckPassphrase(maren.Hash, "skerry-point"))
	given, err := room.Ledgers.RecentSheets(ctx, maren.ID, 100)
	require.NoError(t, err)
	require.Len(t, given, 1)
	require.NoError(t, given[0].Err)
	assert.Equal(t, 4, given[0].Sheet.Cards())
	people, err := school.New(st).Roster.Students(ctx, maren.ID, given[0].Class)
	require.NoError(t, err)
	at := map[string]int64{}
	for _, p := range people {
		at[p.Name] = p.ID
	}
	same := func(why string) {
		t.Helper()
		for _, r := range before {
			c, err := room.Sitting.CardOf(ctx, maren.ID, given[0].ID, at[r.student], 0, r.n)
			require.NoError(t, err)
			assert.Equal(t, r.item, c.CardRow.Item, "what was asked stays, word for word")
			assert.Equal(t, r.result.Valid, c.Done())
			assert.Equal(t, r.hints, c.Hints)
			assert.Equal(t, r.draft.String, c.CardRow.Draft)
			assert.Equal(t, r.ans.String, c.CardRow.Answer)
			if !c.Done() {
				continue
			}
			assert.Equal(t, r.half.Int64, c.Half, "%s, card %d, %s", r.student, r.n, why)
			assert.Equal(t, r.slip.String, c.Slip)
			assert.Equal(t, r.own.Valid, c.Own != nil)
			assert.JSONEq(t, r.result.String, asJSON(t, c.Result), "read back, not worked out again")
			anew, err := c.Item.Mark(c.Answer)
			require.NoError(t, err)
			assert.JSONEq(t, r.result.String, asJSON(t, anew), "and worked out again it is the same")
		}
	}
	same("as opened")
	require.NoError(t, room.Marking.ApplyRemark(ctx, maren.ID, given[0].ID, exercise.Method{ZeroSign: "optional"},
		false, "Maren", time.Now()))
	require.NoError(t, room.Marking.UndoRemark(ctx, maren.ID, given[0].ID, "Maren", time.Now()))
	same("marked anew and back")
	require.NoError(t, room.Marking.UndoRemark(ctx, maren.ID, given[0].ID, "Maren", time.Now()),
		"the marking anew of the old database too")
	wren, now, err := room.Sitting.MyCard(ctx, at["Wren A."], given[0].ID, 4, time.Now())
	require.NoError(t, err)
	counted, err := room.Sitting.Submit(ctx, at["Wren A."], wren, now, wren.Draft, time.Now())
	require.NoError(t, err)
	assert.True(t, counted)
}

// Cards that were dealt by an earlier version get their full marks at the upgrade, and the class's leader is told once
// whose marks change by that.
func TestFullMarksOfAnOlderDatabase(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{})
	ctx := t.Context()
	sheet := s.Must(s.Rack.KeepSheet(ctx, s.Anna, rack.Sheet{Title: "Practice", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: 4,
			Instruments: []*instrument.Instrument{schooltest.Twentieth(t)},
			Settings:    map[string]string{"ask": "main observed"}}}}}))
	s.Test = s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, sheet, 6, s.Now))
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, s.Test, time.Time{}, s.Now.Add(time.Hour)))
	s.Sit(s.Pupil)
	s.Check(s.Pupil, 1, s.Right(s.CardAt(s.Pupil, 1)))
	s.Now = s.Now.Add(2 * time.Hour)
	require.NoError(t, s.Sitting.CloseOver(ctx, s.Now))
	storetest.Exec(t, s.DB, "UPDATE cards SET half_full = half_of") // as a migration leaves it
	assert.Equal(t, "100 %", s.Standing(s.Pupil))
	require.NoError(t, s.Ledgers.FinishUpgrade(ctx, s.Now))
	assert.Equal(t, "25 %", s.Standing(s.Pupil))

	changes, err := s.Ledgers.MarkChanges(ctx, s.Anna)
	require.NoError(t, err)
	require.Len(t, changes, 1)
	assert.Equal(t, []ledgers.ShareChange{{Name: "Wren A.", Was: "100", Now: "25"}}, changes[0].Students)
	none, err := s.Ledgers.MarkChanges(ctx, s.Otto)
	require.NoError(t, err)
	assert.Empty(t, none, "not another's")
	require.NoError(t, s.Ledgers.DismissMarkChanges(ctx, access.Actor{ID: s.Anna, At: s.Now}, s.Class))
	require.NoError(t, s.Ledgers.FinishUpgrade(ctx, s.Now), "at the next start")
	changes, err = s.Ledgers.MarkChanges(ctx, s.Anna)
	require.NoError(t, err)
	assert.Empty(t, changes, "listed once")
}

func asJSON(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}
