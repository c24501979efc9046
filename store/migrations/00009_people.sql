-- +goose Up
-- A class through a term: groups, who has left, classes put away, who teaches along, and what was done with people.
ALTER TABLE students ADD COLUMN team TEXT NOT NULL DEFAULT '';   -- the group within the class; '' for none
ALTER TABLE students ADD COLUMN gone INTEGER;                    -- when they left the class; NULL while they are in it
ALTER TABLE classes ADD COLUMN archived INTEGER;                 -- when the class was put away; NULL while it runs

CREATE TABLE staff (
    class      INTEGER NOT NULL REFERENCES classes (id) ON DELETE CASCADE,
    instructor INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    role       TEXT NOT NULL,                                    -- leads, marks or looks
    PRIMARY KEY (class, instructor)
) STRICT, WITHOUT ROWID;
CREATE INDEX staff_instructor ON staff (instructor);
INSERT INTO staff (class, instructor, role) SELECT id, owner, 'leads' FROM classes;

CREATE TABLE people_log (
    id    INTEGER PRIMARY KEY,
    class INTEGER NOT NULL REFERENCES classes (id) ON DELETE CASCADE,
    who   TEXT NOT NULL,
    what  TEXT NOT NULL,
    at    INTEGER NOT NULL
) STRICT;
CREATE INDEX people_log_class ON people_log (class, id);

-- The ledger: what a sheet weighs, who is excused from it, and what each attempt came to. The sums of an attempt follow
-- its cards, whoever changes them.
ALTER TABLE assignments ADD COLUMN weight INTEGER NOT NULL DEFAULT 1;
CREATE TABLE excused (
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    student    INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    reason     TEXT NOT NULL,
    PRIMARY KEY (assignment, student)
) STRICT, WITHOUT ROWID;

ALTER TABLE sittings ADD COLUMN done INTEGER NOT NULL DEFAULT 0;        -- cards answered
ALTER TABLE sittings ADD COLUMN half_marks INTEGER NOT NULL DEFAULT 0;  -- twice the marks that stand
ALTER TABLE sittings ADD COLUMN half_of INTEGER NOT NULL DEFAULT 0;
ALTER TABLE sittings ADD COLUMN late INTEGER NOT NULL DEFAULT 0;        -- a card was answered late
ALTER TABLE sittings ADD COLUMN hidden INTEGER NOT NULL DEFAULT 0;      -- what it came to is not told yet
ALTER TABLE sittings ADD COLUMN version INTEGER;                        -- of the paper that its cards were dealt for; NULL on a screen
CREATE INDEX sittings_student ON sittings (student);
UPDATE sittings SET (done, half_marks, half_of, late, hidden) = (
    SELECT count(k.answered), coalesce(sum(coalesce(k.own_half_marks, k.half_marks)), 0), coalesce(sum(k.half_of), 0),
        coalesce(max(k.late), 0), coalesce(max(k.hidden), 0)
    FROM cards k WHERE k.assignment = sittings.assignment AND k.student = sittings.student AND k.attempt = sittings.attempt);


-- What tables of answers say of a card, so that its document need not be opened; '' and 0 where it was dealt before.
ALTER TABLE cards ADD COLUMN instrument TEXT NOT NULL DEFAULT '';       -- its name
ALTER TABLE cards ADD COLUMN least_count TEXT NOT NULL DEFAULT '';      -- as written, with the unit
ALTER TABLE cards ADD COLUMN block INTEGER NOT NULL DEFAULT 0;          -- of the sheet, from 1
-- What somebody has got wrong of late.
CREATE INDEX cards_slips ON cards (student, answered, slip) WHERE slip IS NOT NULL;

-- +goose StatementBegin
CREATE TRIGGER sittings_follow_cards AFTER UPDATE OF half_marks, half_of, own_half_marks, answered, late, hidden ON cards
WHEN new.assignment IS NOT NULL
BEGIN
    UPDATE sittings SET (done, half_marks, half_of, late, hidden) = (
        SELECT count(k.answered), coalesce(sum(coalesce(k.own_half_marks, k.half_marks)), 0), coalesce(sum(k.half_of), 0),
            coalesce(max(k.late), 0), coalesce(max(k.hidden), 0)
        FROM cards k WHERE k.assignment = new.assignment AND k.student = new.student AND k.attempt = new.attempt)
    WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
