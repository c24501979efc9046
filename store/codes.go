package store

import (
	"errors"

	migrating "modernc.org/sqlite"
	"zombiezen.com/go/sqlite"
)

// code returns the result code of SQLite in an error.
func code(err error) sqlite.ResultCode {
	var e *migrating.Error
	if errors.As(err, &e) {
		return sqlite.ResultCode(e.Code())
	}
	return sqlite.ErrCode(err)
}

// duplicate turns a broken UNIQUE rule into ErrDuplicate.
func duplicate(err error) error {
	if code(err) == sqlite.ResultConstraintUnique {
		return ErrDuplicate
	}
	return err
}

// unwritable returns an error after which the database takes nothing more of a batch: a full or a failing disk, a file
// that may not be written.
func unwritable(err error) error {
	switch code(err).ToPrimary() {
	case sqlite.ResultFull:
		return errors.Join(ErrFull, err)
	case sqlite.ResultReadOnly:
		return errors.Join(ErrReadOnly, err)
	case sqlite.ResultIOErr, sqlite.ResultNoMem, sqlite.ResultCorrupt, sqlite.ResultNotADB, sqlite.ResultCantOpen:
		return err
	}
	return nil
}

// Busy reports whether somebody else held the database for longer than was waited.
func Busy(err error) bool { return code(err).ToPrimary() == sqlite.ResultBusy }

// Damaged reports whether a file cannot be read as a database: its pages are broken, or it is none.
func Damaged(err error) bool {
	c := code(err).ToPrimary()
	return c == sqlite.ResultCorrupt || c == sqlite.ResultNotADB
}
