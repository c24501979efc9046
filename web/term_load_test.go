package web_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"path/filepath"
	"slices"
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
	"cavix/store"
	"cavix/web"
)

// Size of the class that the ledger and the exports are measured on.
const (
	manyStudents = 300
	manySheets   = 40
	manyCards    = 10
)

// cardsOn is how many cards a sheet has: the first has forty, for the export of 300 × 40.
func cardsOn(sheet int) int {
	if sheet == 0 {
		return 40
	}
	return manyCards
}

// fillMany puts the class that is measured into a store.
func fillMany(s *store.DB) error { return fill(s, manyStudents, manySheets) }

// fill puts one class of so many students into a store, who have answered every card of so many sheets.
func fill(s *store.DB, pupils, sheets int) error {
	ctx, room := context.Background(), school.New(s)
	hash, err := roster.HashPassphrase("skerry-point")
	if err != nil {
		return err
	}
	owner, err := room.Roster.AddInstructor(ctx, roster.Instructor{Login: "maren", Name: "Maren", Hash: hash})
	if err != nil {
		return err
	}
	in, err := instrument.New(instrument.Patterns()[0])
	if err != nil {
		return err
	}
	class, err := room.Roster.AddClass(ctx, owner, "Many", "MANY47")
	if err != nil {
		return err
	}
	var list []roster.ImportedPerson
	for i := range pupils {
		list = append(list, roster.ImportedPerson{Name: fmt.Sprintf("Student %03d", i),
			Group: fmt.Sprint("Crew ", i%6)})
	}
	if _, err := room.Roster.Import(ctx, access.Actor{ID: owner}, class, list); err != nil {
		return err
	}
	students, err := school.New(s).Roster.Students(ctx, owner, class)
	if err != nil {
		return err
	}
	begin := time.Now().AddDate(0, -6, 0)
	for n := range sheets {
		id, err := room.Rack.KeepSheet(ctx, owner, rack.Sheet{Title: fmt.Sprintf("Sheet %02d", n),
			Definition: exercise.Sheet{
				Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: cardsOn(n),
					Instruments: []*instrument.Instrument{in}}}},
			Racked: [][]int64{nil}})
		if err != nil {
			return err
		}
		asg, err := room.Sitting.Give(ctx, owner, class, id, uint64(n), begin.AddDate(0, 0, 4*n))
		if err != nil {
			return err
		}
		if err := answerMany(ctx, s, students, asg, cardsOn(n), begin.AddDate(0, 0, 4*n+1)); err != nil {
			return err
		}
	}
	return nil
}

// answerMany writes the answers of a sheet into the store, as marking would have kept them: dealing and marking 120,000
// cards is not what is measured.
func answerMany(ctx context.Context, s *store.DB, students []roster.Student, asg int64, cards int,
	at time.Time) error {
	var result []exercise.Mark
	for _, f := range []string{"main", "fine_line", "fine", "observed", "corrected"} {
		result = append(result, exercise.Mark{Field: f, Given: "31.40", Expected: "31.45", Outcome: exercise.Wrong,
			Marks: length.Int(1), Of: length.Int(1)})
	}
	kept, err := store.JSON(result)
	if err != nil {
		return err
	}
	return s.Write(ctx, func(tx *store.Tx) error {
		for i, st := range students {
			if _, err := tx.Insert(ctx,
				store.Named("sitting", `INSERT INTO sittings (assignment, student, attempt, began)
				VALUES (?, ?, 1, ?)`), asg, st.ID, at.Unix()); err != nil {
				return err
			}
			for n := 1; n <= cards; n++ {
				slip := ""
				if (i+n)%4 > 0 {
					slip = []string{"neighbour-line", "main-next-mark", "zero-sign-flipped"}[(i+n)%3]
				}
				if _, err := tx.Insert(ctx,
					store.Named("card", `INSERT INTO cards (assignment, student, attempt, n, kind, family, item,
						instrument, least_count, block, answer, answered, half_marks, half_of, half_full, slip, result)
					VALUES (?, ?, 1, ?, 'read', 'vernier-caliper', '{}', 'Caliper 0.05 mm', '0.05 mm', 1, '{}', ?, ?,
					10, 10, nullif(?, ''), packed(?))`),
					asg, st.ID, n, at.Add(time.Duration(n)*time.Minute).Unix(), 10-(i+n)%4, slip,
					kept); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// BenchmarkTerm asks for the pages and tables of a class of 300 with 40 sheets over and over, and tells their size as
// it goes over the line. "answers" is the export of one sheet of 40 cards by 300 students, 60,000 rows.
func BenchmarkTerm(b *testing.B) {
	s, err := store.Open(b.Context(), filepath.Join(b.TempDir(), "many.db"))
	require.NoError(b, err)
	b.Cleanup(func() { require.NoError(b, s.Close()) })
	require.NoError(b, fillMany(s))
	base := site(b, web.Config{School: school.New(s), Log: slog.New(slog.DiscardHandler)})
	maren := newVisitor(b, base)
	_, at, _ := maren.post("/signin", "name=maren&passphrase=skerry-point")
	require.Equal(b, "/desk", at)
	for _, page := range []struct{ name, path string }{
		{"ledger", "/classes/1/ledger"}, {"ledger.csv", "/classes/1/ledger/table"},
		{"ledger.xlsx", "/classes/1/ledger/table?as=xlsx"},
		{"answers.csv", "/ledger/1/answers"}, {"answers.xlsx", "/ledger/1/answers?as=xlsx"}, {"wrong", "/wrong/1"},
		{"wrong-term", "/classes/1/wrong"}, {"desk", "/desk"}, {"people", "/classes/1/people"}, {"class", "/classes/1"},
		{"person", "/classes/1/people/1"}, {"sheet", "/ledger/1"}, {"watch", "/watch/1"}, {"paper", "/ledger/1/paper"},
		{"composer", "/sheets/1"},
	} {
		b.Run(page.name, func(b *testing.B) {
			var size int64
			var each []time.Duration
			for b.Loop() {
				began := time.Now()
				r, err := http.NewRequestWithContext(b.Context(), http.MethodGet, base+page.path, nil)
				require.NoError(b, err)
				r.Header.Set("Accept-Encoding", "gzip")
				answer, err := maren.Do(r)
				require.NoError(b, err)
				require.Equal(b, http.StatusOK, answer.StatusCode)
				size, err = io.Copy(io.Discard, answer.Body)
				require.NoError(b, err)
				require.NoError(b, answer.Body.Close())
				each = append(each, time.Since(began))
			}
			slices.Sort(each)
			b.ReportMetric(float64(each[len(each)/2].Microseconds())/1000, "median-ms")
			b.ReportMetric(float64(size)/1024, "KB-sent")
		})
	}
}

// No page of a class asks the database more often the more students there are, and none more than its bound however
// many sheets; none reads all cards of a class, since what it needs stands ready.
func TestPagesAskFewQuestions(t *testing.T) {
	t.Parallel()
	bounds := map[string]int{"/desk": 70, "/classes/1": 20, "/classes/1/people": 20, "/classes/1/people/1": 40,
		"/classes/1/ledger": 25, "/classes/1/wrong": 25, "/ledger/1": 40, "/wrong/1": 30, "/watch/1": 20,
		"/ledger/1/paper": 30, "/sheets/1": 30}
	asked := func(students int) map[string][]string {
		s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "many.db"))
		require.NoError(t, err)
		t.Cleanup(func() { require.NoError(t, s.Close()) })
		require.NoError(t, fill(s, students, 6))
		var mu sync.Mutex
		var names []string
		s.Watch(store.Watcher{Commit: func(int, time.Duration, error) {}, Slow: func(string, time.Duration) {},
			Asked: func(name string, _ time.Duration) { mu.Lock(); defer mu.Unlock(); names = append(names, name) }})
		maren := newVisitor(t, site(t, web.Config{School: school.New(s), Log: slog.New(slog.DiscardHandler)}))
		maren.post("/signin", "name=maren&passphrase=skerry-point")
		out := map[string][]string{}
		for page := range bounds {
			maren.get(page) // what is remembered is
			mu.Lock()
			names = nil
			mu.Unlock()
			status, _, _ := maren.get(page)
			require.Equal(t, http.StatusOK, status, page)
			mu.Lock()
			out[page] = slices.Clone(names)
			mu.Unlock()
		}
		return out
	}
	few, many := asked(5), asked(25)
	for page, bound := range bounds {
		assert.LessOrEqual(t, len(many[page]), len(few[page]), "%s: %q", page, many[page])
		assert.LessOrEqual(t, len(many[page]), bound, "%s: %q", page, many[page])
	}
}

// BenchmarkThousandPeople brings a list of 1,000 people into a class, looked at first, each time other names.
func BenchmarkThousandPeople(b *testing.B) {
	s, err := store.Open(b.Context(), filepath.Join(b.TempDir(), "many.db"))
	require.NoError(b, err)
	b.Cleanup(func() { require.NoError(b, s.Close()) })
	room := school.New(s)
	hash, err := roster.HashPassphrase("skerry-point")
	require.NoError(b, err)
	base := site(b, web.Config{School: school.New(s), Log: slog.New(slog.DiscardHandler)})
	var maren *visitor
	var owner int64
	for n := 0; b.Loop(); n++ {
		b.StopTimer()
		if n%50 == 0 { // another instructor: one has sixty classes at most
			login := fmt.Sprintf("maren-%d", n)
			owner, err = room.Roster.AddInstructor(b.Context(), roster.Instructor{Login: login, Name: login,
				Hash: hash})
			require.NoError(b, err)
			maren = newVisitor(b, base)
			maren.post("/signin", "passphrase=skerry-point&name="+login)
		}
		class, err := room.Roster.AddClass(b.Context(), owner, "Many", "")
		require.NoError(b, err)
		b.StartTimer()
		list := []byte("name,group,extra_minutes\n")
		for i := range 1000 {
			list = fmt.Appendf(list, "Student %d,Crew %d,%d\n", i, i%9, i%3*5)
		}
		at := fmt.Sprintf("/classes/%d/people/", class)
		_, page := maren.upload(at+"preview", "file", "list.csv", list)
		_, _, page = maren.post(at+"bring", fields(page).Encode())
		holds(b, page, "1000 new")
	}
}
