-- +goose Up
-- How a student practises: what was chosen to practise on, and how far the levels have come. The cards stand among the
-- others, without an assignment.
CREATE TABLE practice (
    student  INTEGER PRIMARY KEY REFERENCES students (id) ON DELETE CASCADE,
    families TEXT NOT NULL DEFAULT '',          -- with spaces between; '' is what is needed most
    cards    INTEGER NOT NULL DEFAULT 0,        -- practised in all
    level    INTEGER NOT NULL DEFAULT 0,
    wrong    INTEGER NOT NULL DEFAULT 0,        -- in a row
    right    INTEGER NOT NULL DEFAULT 0,        -- in a row
    why      TEXT NOT NULL DEFAULT ''           -- the card that is open
) STRICT;

-- How often a slip could have happened and did, weighted by age.
CREATE TABLE evidence (
    student INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    family  TEXT NOT NULL,
    slip    TEXT NOT NULL,
    could   REAL NOT NULL,
    did     REAL NOT NULL,
    at      INTEGER NOT NULL,                   -- the card at which it was weighed
    PRIMARY KEY (student, family, slip)
) STRICT, WITHOUT ROWID;
CREATE UNIQUE INDEX cards_practised ON cards (student, n) WHERE assignment IS NULL;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
