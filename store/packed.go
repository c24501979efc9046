package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	_ "embed"
	"errors"
	"fmt"
	"runtime"

	"github.com/klauspost/compress/zstd"
	"github.com/pressly/goose/v3"
	"modernc.org/sqlite"
)

// What a card asks, and what it could tell, is kept packed: as a frame of Zstandard (RFC 8878) against a dictionary of
// such documents. In SQL packed(text) packs and unpacked(value) gives the text back; a text that is not packed stays as
// it is in both, and a frame that is damaged gives "". No table, index or trigger uses the two, so that every SQLite program opens the file.

// dictionary is dictionary 1: documents of every family and every kind, one after another. Frames name it by its
// number, so it never changes; a better one gets the next number and stands beside it.
//
//go:embed packed-1.txt
var dictionary []byte

const dictionaryNumber = 1

// longestPacked bounds a document, in bytes, as its frame claims it.
const longestPacked = 1 << 20

var (
	packer, packerErr = zstd.NewWriter(nil, zstd.WithEncoderDictRaw(dictionaryNumber, dictionary),
		zstd.WithEncoderCRC(false), zstd.WithEncoderConcurrency(1), zstd.WithWindowSize(1<<16))
	unpacker, unpackerErr = zstd.NewReader(nil, zstd.WithDecoderDictRaw(dictionaryNumber, dictionary),
		zstd.WithDecoderConcurrency(runtime.GOMAXPROCS(0)), zstd.WithDecoderMaxMemory(longestPacked))
)

func init() {
	if err := errors.Join(packerErr, unpackerErr); err != nil {
		panic(err) // the options are in order
	}
	sqlite.MustRegisterDeterministicScalarFunction("packed", 1,
		func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
			text, ok := args[0].(string)
			if !ok {
				return args[0], nil
			}
			return packer.EncodeAll([]byte(text), make([]byte, 0, len(text)/4)), nil
		})
	sqlite.MustRegisterDeterministicScalarFunction("unpacked", 1,
		func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
			frame, ok := args[0].([]byte)
			if !ok {
				return args[0], nil
			}
			text, err := unpacker.DecodeAll(frame, make([]byte, 0, 8*len(frame)))
			if err != nil {
				return "", nil // a card that cannot be read, not a query that fails
			}
			return string(text), nil
		})
}

// packedVersion is the form of the database from which on cards may hold packed documents.
const packedVersion = 31

// allowPacked lets two columns of cards hold packed documents beside texts. What stands in them stays as it is, so the
// definition alone is changed, as SQLite's documentation of ALTER TABLE has it for what does not touch the rows.
var allowPacked = goose.NewGoMigration(packedVersion, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	var version, changed int
	if err := tx.QueryRowContext(ctx, "PRAGMA schema_version").Scan(&version); err != nil {
		return err
	}
	for _, step := range []string{
		"PRAGMA writable_schema = ON",
		`UPDATE sqlite_schema SET sql = replace(replace(sql, 'item           TEXT NOT NULL',
			'item           ANY NOT NULL'), 'told TEXT', 'told ANY') WHERE type = 'table' AND name = 'cards'`,
		fmt.Sprint("PRAGMA schema_version = ", version+1),
		"PRAGMA writable_schema = RESET",
	} {
		if _, err := tx.ExecContext(ctx, step); err != nil {
			return err
		}
	}
	err := tx.QueryRowContext(ctx, "SELECT count(*) FROM pragma_table_info('cards') WHERE type = 'ANY'").Scan(&changed)
	if err == nil && changed != 2 {
		err = errors.New("the columns item and told of cards could not be changed")
	}
	return err
}}, nil)
