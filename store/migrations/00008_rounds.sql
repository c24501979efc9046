-- +goose Up
-- A question that a whole class was asked at once, and what was answered.
CREATE TABLE rounds (
    id     INTEGER PRIMARY KEY,
    class  INTEGER NOT NULL REFERENCES classes (id) ON DELETE CASCADE,
    item   TEXT NOT NULL,                       -- the item document, the same for everybody
    shown  INTEGER NOT NULL,                    -- the figure stands on students' screens too, not on the Board alone
    opened INTEGER NOT NULL,
    closed INTEGER,                             -- NULL while answers are taken
    told   INTEGER                              -- when the answers were uncovered; NULL until then
) STRICT;
CREATE INDEX rounds_class ON rounds (class, id);

CREATE TABLE replies (
    round      INTEGER NOT NULL REFERENCES rounds (id) ON DELETE CASCADE,
    student    INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    answer     TEXT NOT NULL,                   -- as typed
    half_marks INTEGER NOT NULL,
    half_of    INTEGER NOT NULL,
    slip       TEXT,                            -- the first that explains it
    answered   INTEGER NOT NULL,                -- when it was last changed
    PRIMARY KEY (round, student)
) STRICT, WITHOUT ROWID;

-- What stands on a class's Board, so that it is found again as it was left.
CREATE TABLE boards (
    class INTEGER PRIMARY KEY REFERENCES classes (id) ON DELETE CASCADE,
    state TEXT NOT NULL
) STRICT;

ALTER TABLE classes ADD COLUMN guests INTEGER NOT NULL DEFAULT 0;   -- somebody may join a round with a handle only
ALTER TABLE students ADD COLUMN guest INTEGER NOT NULL DEFAULT 0;   -- and is gone when the lesson is over
ALTER TABLE cards ADD COLUMN seen INTEGER;                          -- when the student first looked at it

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
