package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	_ "embed"
	"errors"
	"fmt"
	"runtime"
	"sync"

	"github.com/klauspost/compress/s2"
	"github.com/klauspost/compress/zstd"
	"github.com/pressly/goose/v3"
	migrating "modernc.org/sqlite"
	"zombiezen.com/go/sqlite"
)

// What a card asks, could tell, was answered and came to is kept packed: as the byte blockOfS2 and a block of S2, an
// extension of Snappy, against a dictionary of such documents. In SQL packed(text) packs and unpacked(value) gives the
// text back; unpacked leaves a text as it is, packed what is packed and a text that is short, and a block that is
// damaged gives "". No table, index or trigger uses the two, so that every SQLite program opens the file.

// dictionary is dictionary 1: results, answers and items of every family and kind, one after another. It never changes;
// a better one stands beside it, and its blocks begin with another byte.
//
//go:embed packed-1.txt
var dictionary []byte

// blockOfS2 is the first byte of a block against dictionary 1. No frame of Zstandard begins with it.
const blockOfS2 = 2

// shortestPacked is the length of a document, in bytes, from which on it is packed.
const shortestPacked = 40

// longestPacked bounds a document that is packed, in bytes; a longer one stays a text, and a block that claims more is
// damaged.
const longestPacked = 1 << 20

// s2Dictionary is dictionary 1 as S2 takes it. That blocks may begin as an item does, without naming where that stands,
// never changes either.
var s2Dictionary = s2.MakeDict(dictionary, []byte(`{"format":"cavix/item","version":2,"kind":"read","body":{"`))

// zstdUnpacker reads the frames of Zstandard in files that were written before documents were packed with S2.
var zstdUnpacker = sync.OnceValues(func() (*zstd.Decoder, error) {
	return zstd.NewReader(nil, zstd.WithDecoderDictRaw(1, dictionary),
		zstd.WithDecoderConcurrency(runtime.GOMAXPROCS(0)), zstd.WithDecoderMaxMemory(longestPacked))
})

func init() {
	for name, of := range map[string]func(any) any{"packed": pack, "unpacked": unpack} {
		migrating.MustRegisterDeterministicScalarFunction(name, 1,
			func(_ *migrating.FunctionContext, args []driver.Value) (driver.Value, error) { return of(args[0]), nil })
	}
}

// Pack returns a text as the function packed of SQL does, for a parameter. It takes 64 KiB of stack, which a goroutine
// then keeps: pack where the writer works, not where each of many requests is answered.
func Pack(text string) any { return pack(text) }

// pack returns a text as it is kept. Anything else, and what is too short or too long, it returns as it is.
func pack(value any) any {
	text, ok := value.(string)
	if !ok || len(text) < shortestPacked || len(text) > longestPacked {
		return value
	}
	block := make([]byte, 1+s2.MaxEncodedLen(len(text)))
	block[0] = blockOfS2
	if n := 1 + len(s2Dictionary.Encode(block[1:], []byte(text))); n < len(text) {
		return block[:n]
	}
	return value
}

// unpack returns the text of a block, and anything else as it is.
func unpack(value any) any {
	if block, ok := value.([]byte); ok {
		return unpacked(block)
	}
	return value
}

// scalar makes a function of SQL of a function of one value.
func scalar(of func(any) any) *sqlite.FunctionImpl {
	return &sqlite.FunctionImpl{NArgs: 1, Deterministic: true,
		Scalar: func(_ sqlite.Context, args []sqlite.Value) (sqlite.Value, error) {
			switch v := args[0]; v.Type() {
			case sqlite.TypeText:
				return newValue(of(v.Text())), nil
			case sqlite.TypeBlob:
				return newValue(of(v.Blob())), nil
			default:
				return v, nil
			}
		}}
}

func newValue(v any) sqlite.Value {
	if text, ok := v.(string); ok {
		return sqlite.TextValue(text)
	}
	return sqlite.BlobValue(v.([]byte))
}

// unpacked returns the text of a block or a frame; "" of one that is damaged, so that a card cannot be read, not a list
// of them.
func unpacked(b []byte) string {
	if len(b) == 0 || b[0] != blockOfS2 {
		return unpackFrame(b)
	}
	if n, err := s2.DecodedLen(b[1:]); err != nil || n > longestPacked {
		return ""
	}
	text, err := s2Dictionary.Decode(nil, b[1:])
	if err != nil {
		return ""
	}
	return string(text)
}

// unpackFrame returns the text of a frame of Zstandard, "" of one that is damaged.
func unpackFrame(frame []byte) string {
	d, err := zstdUnpacker()
	if err != nil {
		return ""
	}
	text, err := d.DecodeAll(frame, nil)
	if err != nil {
		return ""
	}
	return string(text)
}

// Packed is a text that may be packed, to scan a column into that SQL leaves as it is.
type Packed struct {
	Text   string // "" for NULL
	Stored any    // the value of the column: what a query compares it with, without unpacking
}

// Scan reads the value of a column.
func (p *Packed) Scan(value any) error {
	switch v := value.(type) {
	case nil:
		*p = Packed{}
	case string:
		*p = Packed{v, v}
	case []byte:
		*p = Packed{unpacked(v), v}
	default:
		return fmt.Errorf("a text was wanted, not %T", value)
	}
	return nil
}

// packedVersion is the form of the database from which on the documents of cards are packed.
const packedVersion = 31

// packStep is the number of cards that are packed by one statement.
const packStep = 5000

// packCards packs the documents of cards, and what their fields came to, which had rows of their own, becomes one of
// these documents. That columns hold packed documents beside texts changes nothing in the rows, so their definition
// alone is changed, as SQLite's documentation of ALTER TABLE has it.
var packCards = goose.NewGoMigration(packedVersion, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	if _, err := tx.ExecContext(ctx, "ALTER TABLE cards ADD COLUMN result ANY"); err != nil {
		return err
	}
	var version, changed int
	var last int64
	if err := tx.QueryRowContext(ctx, "PRAGMA schema_version").Scan(&version); err != nil {
		return err
	}
	for _, step := range []string{
		"PRAGMA writable_schema = ON",
		`UPDATE sqlite_schema SET sql = replace(replace(replace(sql, 'item           TEXT NOT NULL',
			'item           ANY NOT NULL'), 'answer         TEXT', 'answer         ANY'), 'told TEXT', 'told ANY')
			WHERE type = 'table' AND name = 'cards'`,
		fmt.Sprint("PRAGMA schema_version = ", version+1),
		"PRAGMA writable_schema = RESET",
	} {
		if _, err := tx.ExecContext(ctx, step); err != nil {
			return err
		}
	}
	if err := tx.QueryRowContext(ctx, `SELECT (SELECT count(*) FROM pragma_table_info('cards') WHERE type = 'ANY'),
		(SELECT coalesce(max(id), 0) FROM cards)`).Scan(&changed, &last); err != nil {
		return err
	}
	if changed != 4 {
		return errors.New("the columns item, answer and told of cards could not be changed")
	}
	for from := int64(0); from < last; from += packStep {
		if _, err := tx.ExecContext(ctx, packSome, from, from+packStep); err != nil {
			return err
		}
		tell(ctx, int(min(from+packStep, last)), int(last))
	}
	_, err := tx.ExecContext(ctx, "DROP TABLE entries")
	return err
}}, nil)

// packSome packs the cards after one of them up to another. Halves of marks become numbers as documents write them.
const packSome = `UPDATE cards SET item = packed(item), told = packed(told), answer = packed(answer), result = (
	SELECT packed(json_group_array(json_object('step', field, 'given', given, 'expected', expected, 'outcome', outcome,
		'marks', printf('%g', half_marks / 2.0), 'of', printf('%g', half_of / 2.0),
		'slips', iif(json_valid(slips), json(slips), json('[]')),
		'form', iif(json_valid(faults), json(faults), json('[]')), 'follows', follows) ORDER BY n))
	FROM entries WHERE card = cards.id HAVING count(*) > 0)
	WHERE id > ? AND id <= ?`

// teller is the key of a function, in a context, that is told how much of the work is done.
type teller struct{}

// Telling returns a context in which Open says how much of a long migration is done, of how much.
func Telling(ctx context.Context, say func(done, of int)) context.Context {
	return context.WithValue(ctx, teller{}, say)
}

func tell(ctx context.Context, done, of int) {
	if say, ok := ctx.Value(teller{}).(func(done, of int)); ok {
		say(done, of)
	}
}
