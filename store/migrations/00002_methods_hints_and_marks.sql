-- +goose Up
ALTER TABLE classes ADD COLUMN method TEXT NOT NULL DEFAULT '{}';  -- the class's school
ALTER TABLE cards ADD COLUMN hints INTEGER NOT NULL DEFAULT 0;     -- rungs of help taken
ALTER TABLE cards ADD COLUMN own_half_marks INTEGER;               -- an instructor's own mark, which stands over the computed one
ALTER TABLE cards ADD COLUMN own_reason TEXT;

CREATE TABLE slip_words (
    owner  INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    code   TEXT NOT NULL,
    off    INTEGER NOT NULL DEFAULT 0,
    advice TEXT NOT NULL DEFAULT '',
    note   TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (owner, code)
) STRICT, WITHOUT ROWID;

-- A sheet marked anew by another method; what stood before is kept, so that it can be undone.
CREATE TABLE remarkings (
    id         INTEGER PRIMARY KEY,
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    definition TEXT NOT NULL,              -- the sheet as it was
    at         INTEGER NOT NULL
) STRICT;
CREATE TABLE marks_before (
    remarking  INTEGER NOT NULL REFERENCES remarkings (id) ON DELETE CASCADE,
    card       INTEGER NOT NULL REFERENCES cards (id) ON DELETE CASCADE,
    item       TEXT NOT NULL,
    result     TEXT,
    half_marks INTEGER,
    half_of    INTEGER,
    slip       TEXT,
    PRIMARY KEY (remarking, card)
) STRICT, WITHOUT ROWID;

-- Who changed which marks and when.
CREATE TABLE changes (
    id         INTEGER PRIMARY KEY,
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    who        TEXT NOT NULL,
    what       TEXT NOT NULL,
    at         INTEGER NOT NULL
) STRICT;
CREATE INDEX changes_assignment ON changes (assignment, at);

-- +goose Down
DROP TABLE changes;
DROP TABLE marks_before;
DROP TABLE remarkings;
DROP TABLE slip_words;
ALTER TABLE cards DROP COLUMN own_reason;
ALTER TABLE cards DROP COLUMN own_half_marks;
ALTER TABLE cards DROP COLUMN hints;
ALTER TABLE classes DROP COLUMN method;
