package store

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Score is what an attempt at a sheet came to.
type Score struct {
	Assignment, Student int64
	Attempt             int
	Done                int   // cards answered
	Half, Of            int64 // twice the marks of the cards answered
	Full                int64 // twice the full marks of all its cards
	Late, Hidden        bool  // a card was late; what it came to is not told yet
	HandedIn            bool  // by the student, by the clock, or as it was entered from paper
}

// packedScores reads the attempts of each sheet as one text of numbers, which unpack takes apart.
const packedScores = `SELECT assignment, group_concat(student || ' ' || ((half_marks << 42) + (half_of << 22) + (done << 14)
	+ (attempt << 2) + (late << 1) + hidden) || ' ' || ((half_full << 1) + (handed IS NOT NULL)), ';') FROM sittings `

// Scores lists the attempts at all sheets of a class that an instructor teaches, by sheet, student and attempt. There can be
// many thousands, so that those of a sheet come over from the database as one text of numbers.
func (r *Reader) Scores(instructor, class int64) ([]Score, error) {
	return r.scores(`WHERE assignment IN (SELECT id FROM assignments a WHERE `+taughtSheet+` AND a.class = ?)
		GROUP BY assignment ORDER BY assignment`, instructor, class)
}

// SheetScores lists the attempts at a sheet, by student and attempt.
func (r *Reader) SheetScores(assignment int64) ([]Score, error) {
	return r.scores("WHERE assignment = ? GROUP BY assignment", assignment)
}

func (r *Reader) scores(which string, args ...any) (out []Score, err error) {
	_, err = all(r, func(r row) (none struct{}, err error) {
		var sheet int64
		var packed string
		if err := r.Scan(&sheet, &packed); err != nil {
			return none, err
		}
		out, err = unpack(out, sheet, packed)
		return none, err
	}, packedScores+which, args...)
	slices.SortFunc(out, func(a, b Score) int {
		return cmp.Or(cmp.Compare(a.Assignment, b.Assignment), cmp.Compare(a.Student, b.Student), cmp.Compare(a.Attempt, b.Attempt))
	})
	return out, err
}

// unpack adds the scores of a sheet. Each is a student and two numbers. In the first, twice the marks, twice the full marks of
// the cards answered, the number of these (up to 60), the attempt, and two flags have 21, 20, 8, 12, 1 and 1 bits. The second is
// twice the full marks of all cards, and a bit that is set when the attempt is handed in.
func unpack(out []Score, sheet int64, packed string) ([]Score, error) {
	for one := range strings.SplitSeq(packed, ";") {
		who, what, _ := strings.Cut(one, " ")
		student, err := strconv.ParseInt(who, 10, 64)
		if err != nil {
			return out, err
		}
		first, second, _ := strings.Cut(what, " ")
		n, err := strconv.ParseInt(first, 10, 64)
		if err != nil {
			return out, err
		}
		full, err := strconv.ParseInt(second, 10, 64)
		if err != nil {
			return out, err
		}
		out = append(out, Score{Assignment: sheet, Student: student, Half: n >> 42, Of: n >> 22 & (1<<20 - 1), Full: full >> 1,
			Done: int(n >> 14 & 0xff), Attempt: int(n >> 2 & 0xfff), Late: n&2 != 0, Hidden: n&1 != 0, HandedIn: full&1 != 0})
	}
	return out, nil
}

// Term lists the sheets given to a class that an instructor teaches, the oldest first, without any tally.
func (r *Reader) Term(instructor, class int64) ([]Assignment, error) {
	return all(r, scanAssignment, assignmentColumns+`, 0, 0, NULL, NULL, NULL FROM assignments a JOIN classes c ON c.id = a.class
		WHERE `+taught+" AND c.id = ? ORDER BY a.given, a.id", instructor, class)
}

// Excuse is somebody who is excused from a sheet.
type Excuse struct {
	Assignment, Student int64
	Reason              string
}

// Excuses lists who is excused from the sheets of a class that an instructor teaches.
func (r *Reader) Excuses(instructor, class int64) ([]Excuse, error) {
	return all(r, func(r row) (e Excuse, err error) { return e, r.Scan(&e.Assignment, &e.Student, &e.Reason) },
		`SELECT x.assignment, x.student, x.reason FROM excused x JOIN assignments a ON a.id = x.assignment
		WHERE `+taughtSheet+" AND a.class = ?", instructor, class)
}

// SetExcuse excuses a student from a sheet, with the reason; "" takes it back.
func (t *Tx) SetExcuse(e Excuse) error {
	if e.Reason == "" {
		_, err := t.Exec("DELETE FROM excused WHERE assignment = ? AND student = ?", e.Assignment, e.Student)
		return err
	}
	_, err := t.Exec(`INSERT INTO excused (assignment, student, reason) VALUES (?, ?, ?)
		ON CONFLICT (assignment, student) DO UPDATE SET reason = excluded.reason`, e.Assignment, e.Student, e.Reason)
	return err
}

// SetWeight sets how much a sheet weighs in the total.
func (t *Tx) SetWeight(assignment int64, weight int) error {
	return t.change("UPDATE assignments SET weight = ? WHERE id = ?", weight, assignment)
}

// Lately lists how often the students of a class made each slip since a time, as far as they were told: on sheets, and in
// practice where the class shows each student's.
func (r *Reader) Lately(class int64, since time.Time) ([]StudentSlip, error) {
	return all(r, func(r row) (s StudentSlip, err error) { return s, r.Scan(&s.Student, &s.Slip, &s.Cards) },
		`SELECT k.student, k.slip, count(*) FROM students s JOIN classes c ON c.id = s.class
		JOIN cards k ON k.student = s.id AND (k.assignment IS NOT NULL OR c.practice_seen = 2) WHERE s.class = ? AND k.slip IS NOT NULL AND NOT k.hidden AND k.answered >= ? GROUP BY k.student, k.slip`, class, since.Unix())
}

// StudentSlip is how often a student made a slip.
type StudentSlip struct {
	Student int64
	Slip    string
	Cards   int
}

// InClass is what students answered to the questions that a class was asked at once.
func (r *Reader) InClass(class int64) ([]Score, error) {
	return all(r, func(r row) (s Score, err error) { return s, r.Scan(&s.Student, &s.Done, &s.Half, &s.Of) },
		`SELECT p.student, count(*), sum(p.half_marks), sum(p.half_of) FROM rounds o JOIN replies p ON p.round = o.id
		WHERE o.class = ? GROUP BY p.student`, class)
}

// Came lists the students who have answered sheets of a class that an instructor teaches and are in another by now.
func (r *Reader) Came(instructor, class int64) ([]Student, error) {
	return all(r, scanStudent, studentColumns+`WHERE s.class <> ? AND s.binned IS NULL AND EXISTS (SELECT 1 FROM sittings t
		JOIN assignments a ON a.id = t.assignment WHERE t.student = s.id AND `+taughtSheet+` AND a.class = ?)
		AND s.class IN (SELECT class FROM teaching WHERE instructor = ?) ORDER BY s.folded COLLATE people, s.id`, class, instructor, class, instructor)
}

// SlipBlock is a block of a sheet on whose cards a slip was made.
type SlipBlock struct {
	Assignment int64
	Block      int // from 1; 0 where that is not known
	Kind       string
	Cards      int
}

// SlipBlocks lists the blocks of a class's sheets on whose cards a slip was made, those where it was made most first.
func (r *Reader) SlipBlocks(instructor, class int64, slip string, most int) ([]SlipBlock, error) {
	return all(r, func(r row) (b SlipBlock, err error) { return b, r.Scan(&b.Assignment, &b.Block, &b.Kind, &b.Cards) },
		`SELECT k.assignment, k.block, k.kind, count(*) FROM cards k JOIN assignments a ON a.id = k.assignment
		WHERE `+taughtSheet+` AND a.class = ? AND k.slip = ? GROUP BY k.assignment, k.block, k.kind
		ORDER BY count(*) DESC, k.assignment DESC, k.block LIMIT ?`, instructor, class, slip, most)
}

// Unweighed lists cards of sheets after one of them whose full marks are not worked out, in the order of their ids, up to most:
// the id and the item alone.
func (r *Reader) Unweighed(after int64, most int) ([]Card, error) {
	return all(r, func(r row) (c Card, err error) { return c, r.Scan(&c.ID, &c.Item) }, `SELECT id, item FROM cards
		WHERE half_full IS NULL AND assignment IS NOT NULL AND id > ? ORDER BY id LIMIT ?`, after, most)
}

// SetFull sets twice the full marks of a card.
func (t *Tx) SetFull(card, full int64) error {
	return t.change("UPDATE cards SET half_full = ? WHERE id = ?", full, card)
}

// ClassesAnswered lists the classes outside the bin in which a sheet was begun.
func (r *Reader) ClassesAnswered() ([]Class, error) {
	return all(r, func(r row) (c Class, err error) { return c, r.Scan(&c.ID, &c.Owner, &c.Name) }, `SELECT c.id, c.owner, c.name
		FROM classes c WHERE c.binned IS NULL AND EXISTS (SELECT 1 FROM assignments a JOIN sittings t ON t.assignment = a.id
		WHERE a.class = c.id) ORDER BY c.id`)
}
