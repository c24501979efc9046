package store

import (
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"reflect"
	"strconv"
	"time"

	"zombiezen.com/go/sqlite"
)

// bind sets a parameter of a statement, by its number from 1.
func bind(stmt *sqlite.Stmt, i int, value any) error {
	switch v := value.(type) {
	case nil:
		stmt.BindNull(i)
	case int64:
		stmt.BindInt64(i, v)
	case int:
		stmt.BindInt64(i, int64(v))
	case string:
		stmt.BindText(i, v)
	case bool:
		stmt.BindBool(i, v)
	case float64:
		stmt.BindFloat(i, v)
	case []byte:
		if v == nil {
			stmt.BindNull(i)
		} else {
			stmt.BindBytes(i, v)
		}
	case time.Time:
		return errors.New("a time is kept in seconds")
	default: // types of those kinds, and pointers to them
		plain, err := driver.DefaultParameterConverter.ConvertValue(value)
		if err != nil {
			return err
		}
		return bind(stmt, i, plain)
	}
	return nil
}

// Scan reads the columns of the row into what dst points to. A pointer to a pointer takes NULL too.
func (r *rows) Scan(dst ...any) error {
	if n := r.stmt.ColumnCount(); n != len(dst) {
		return fmt.Errorf("%d columns are read from %d", len(dst), n)
	}
	for i, d := range dst {
		if err := r.column(i, d); err != nil {
			return fmt.Errorf("column %s: %w", r.stmt.ColumnName(i), err)
		}
	}
	return nil
}

// column reads a column into what dst points to.
func (r *rows) column(i int, dst any) error {
	kind := r.stmt.ColumnType(i)
	switch d := dst.(type) {
	case *int64:
		return into(d, r.whole, i, kind)
	case *string:
		return into(d, r.words, i, kind)
	case *[]byte:
		*d = r.bytes(i, kind)
		return nil
	case sql.Scanner:
		return d.Scan(r.value(i, kind))
	}
	v := reflect.ValueOf(dst).Elem()
	if v.Kind() == reflect.Pointer {
		if kind == sqlite.TypeNull {
			v.SetZero()
			return nil
		}
		to := reflect.New(v.Type().Elem())
		v.Set(to)
		return r.column(i, to.Interface())
	}
	switch {
	case v.CanInt():
		n, err := r.whole(i, kind)
		if err == nil && v.OverflowInt(n) {
			err = fmt.Errorf("%d is too large", n)
		}
		v.SetInt(n)
		return err
	case v.CanUint():
		n, err := r.whole(i, kind)
		v.SetUint(uint64(n)) //nolint:gosec // a seed, which has all 64 bits
		return err
	case v.CanFloat():
		x, err := r.float(i, kind)
		v.SetFloat(x)
		return err
	case v.Kind() == reflect.Bool:
		n, err := r.whole(i, kind)
		v.SetBool(n != 0)
		return err
	case v.Kind() == reflect.String:
		text, err := r.words(i, kind)
		v.SetString(text)
		return err
	}
	return fmt.Errorf("no column is read into a %T", dst)
}

// into reads a column into what dst points to.
func into[T any](dst *T, read func(int, sqlite.ColumnType) (T, error), i int, kind sqlite.ColumnType) (err error) {
	*dst, err = read(i, kind)
	return err
}

var errNull = errors.New("there is no value")

// whole reads a column that holds a whole number.
func (r *rows) whole(i int, kind sqlite.ColumnType) (int64, error) {
	switch kind {
	case sqlite.TypeInteger:
		return r.stmt.ColumnInt64(i), nil
	case sqlite.TypeNull:
		return 0, errNull
	}
	return strconv.ParseInt(r.stmt.ColumnText(i), 10, 64)
}

// float reads a column that holds a number.
func (r *rows) float(i int, kind sqlite.ColumnType) (float64, error) {
	switch kind {
	case sqlite.TypeInteger, sqlite.TypeFloat:
		return r.stmt.ColumnFloat(i), nil
	case sqlite.TypeNull:
		return 0, errNull
	}
	return strconv.ParseFloat(r.stmt.ColumnText(i), 64)
}

// words reads a column as a text.
func (r *rows) words(i int, kind sqlite.ColumnType) (string, error) {
	if kind == sqlite.TypeNull {
		return "", errNull
	}
	return r.stmt.ColumnText(i), nil
}

// bytes reads a column as it lies there; nil for none.
func (r *rows) bytes(i int, kind sqlite.ColumnType) []byte {
	if kind == sqlite.TypeNull {
		return nil
	}
	out := make([]byte, r.stmt.ColumnLen(i))
	r.stmt.ColumnBytes(i, out)
	return out
}

// value reads a column as what it is: a string, a []byte, an int64, a float64 or nil.
func (r *rows) value(i int, kind sqlite.ColumnType) any {
	switch kind {
	case sqlite.TypeInteger:
		return r.stmt.ColumnInt64(i)
	case sqlite.TypeFloat:
		return r.stmt.ColumnFloat(i)
	case sqlite.TypeText:
		return r.stmt.ColumnText(i)
	case sqlite.TypeBlob:
		return r.bytes(i, kind)
	}
	return nil
}
