package store_test

import (
	"context"
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"reflect"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/store"
	"cavix/store/storetest"
)

// What is put in comes out again, as what it is; what a column cannot be read as is refused.
func TestValuesComeBack(t *testing.T) {
	t.Parallel()
	s, _ := newStore(t)
	type word string
	n, said := int64(-3), "some"
	for _, c := range []struct{ in, out, want any }{
		{int64(math.MinInt64), new(int64), int64(math.MinInt64)},
		{7, new(int), 7},
		{7, new(uint8), uint8(7)},
		{true, new(bool), true},
		{0, new(bool), false},
		{0.1, new(float64), 0.1},
		{3, new(float64), 3.0},
		{"", new(string), ""},
		{"naïve \x00 ", new(string), "naïve \x00 "},
		{word("wide"), new(word), word("wide")},
		{"12", new(int64), int64(12)},
		{12, new(string), "12"},
		{[]byte{0, 1}, new([]byte), []byte{0, 1}},
		{[]byte{}, new([]byte), []byte{}},
		{[]byte(nil), new([]byte), []byte(nil)},
		{&n, new(*int64), &n},
		{&said, new(*string), &said},
		{nil, new(*int64), (*int64)(nil)},
		{(*string)(nil), new(*string), (*string)(nil)},
		{"plain", new(store.Packed), store.Packed{Text: "plain", Stored: "plain"}},
	} {
		t.Run(fmt.Sprintf("%T %v", c.in, c.in), func(t *testing.T) {
			require.NoError(t, store.One(t.Context(), s, store.Named("same", "SELECT ?"), []any{c.in}, c.out))
			assert.Equal(t, c.want, reflect.ValueOf(c.out).Elem().Interface())
		})
	}
	for _, c := range []struct{ in, out any }{
		{nil, new(int64)}, {nil, new(string)}, {nil, new(bool)}, {"x", new(int)}, {300, new(int8)}, {0.5, new(int)},
		{time.Now(), new(int64)}, {struct{}{}, new(int64)}, {1, new(chan int)},
	} {
		assert.Error(t, store.One(t.Context(), s, store.Named("same", "SELECT ?"), []any{c.in}, c.out), "%v", c)
	}
	assert.Error(t, store.One(t.Context(), s, store.Named("two", "SELECT 1, 2"), nil, new(int)), "two columns")
}

// A query ends with the context of who asks, however long it would take, and its connection serves the next.
func TestAQueryIsBrokenOff(t *testing.T) {
	t.Parallel()
	s, _ := newStore(t)
	endless := store.Named("endless", `WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n)
		SELECT count(*) FROM n`)
	for range 3 * store.Readers {
		ctx, cancel := context.WithTimeout(t.Context(), 20*time.Millisecond)
		var n int
		assert.ErrorIs(t, store.One(ctx, s, endless, nil, &n), context.DeadlineExceeded)
		cancel()
		assert.ErrorIs(t, store.One(ctx, s, endless, nil, &n), context.DeadlineExceeded, "not even begun")
		require.NoError(t, store.One(t.Context(), s, store.Named("one", "SELECT 1"), nil, &n))
	}
}

// Within a transaction a query can be asked while its own rows are being read, and sees what was changed.
func TestAQueryWithinItself(t *testing.T) {
	t.Parallel()
	s, class := newStore(t)
	storetest.Exec(t, s, "INSERT INTO students (class, name, folded, hash, created) VALUES (?1, 'a', 'a', '', 0), "+
		"(?1, 'b', 'b', '', 0)", class)
	names := store.Named("names", "SELECT name FROM students ORDER BY id")
	var all []string
	require.NoError(t, s.Write(t.Context(), func(tx *store.Tx) error {
		_, err := store.All(t.Context(), tx, func(r store.Row) (outer string, err error) {
			if err := r.Scan(&outer); err != nil {
				return "", err
			}
			_, err = store.All(t.Context(), tx, func(r store.Row) (inner string, err error) {
				err = r.Scan(&inner)
				all = append(all, outer+inner)
				return inner, err
			}, names)
			return outer, err
		}, names)
		return err
	}))
	assert.Equal(t, []string{"aa", "ab", "ba", "bb"}, all)
}

// A statement of several tables is prepared once, whatever is bound to it afterwards.
func TestPlansAreKept(t *testing.T) {
	t.Parallel()
	path := filepath.Join(t.TempDir(), "school.db")
	s, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	counts, err := store.Prepared(path, `SELECT s.name FROM students s JOIN classes c ON c.id = s.class
		WHERE s.id = ? AND c.owner = ?`, []any{1, 2}, []any{3, 4}, []any{5, 6})
	require.NoError(t, err)
	require.Positive(t, counts[0])
	assert.Equal(t, []int{0, 0}, counts[1:])
}

// What is written meanwhile is not seen within a snapshot, and is seen after it; one that is broken off leaves its
// connection to others.
func TestASnapshotIsOfOneMoment(t *testing.T) {
	t.Parallel()
	s, class := newStore(t)
	name := func(q store.Queryer) (says string) {
		t.Helper()
		require.NoError(t, store.One(t.Context(), q, store.Named("name", "SELECT name FROM classes WHERE id = ?"),
			[]any{class}, &says))
		return says
	}
	require.NoError(t, s.Snapshot(t.Context(), func(q store.Queryer) error {
		before := name(q)
		storetest.Exec(t, s, "UPDATE classes SET name = 'Tuesdays' WHERE id = ?", class)
		assert.Equal(t, before, name(q))
		assert.Equal(t, "Tuesdays", name(s))
		return nil
	}))
	broken := errors.New("broken off")
	for range 2 * store.Readers {
		ctx, stop := context.WithCancel(t.Context())
		require.ErrorIs(t, s.Snapshot(ctx, func(q store.Queryer) error {
			name(q)
			stop()
			return errors.Join(broken, store.One(ctx, q, store.Named("late", "SELECT 1"), nil, new(int)))
		}), broken)
		require.NoError(t, s.Snapshot(t.Context(), func(q store.Queryer) error {
			assert.Equal(t, "Tuesdays", name(q))
			return nil
		}))
	}
}
