-- +goose Up
-- When a given sheet can be taken, and when what a test came to is told.
ALTER TABLE assignments ADD COLUMN opens INTEGER;                           -- NULL: at once
ALTER TABLE assignments ADD COLUMN closes INTEGER;                          -- NULL: never
ALTER TABLE assignments ADD COLUMN released INTEGER;                        -- when the instructor released it
ALTER TABLE classes ADD COLUMN zone TEXT NOT NULL DEFAULT '';               -- of the school's clock, as "Europe/Lisbon"; '' is the server's
ALTER TABLE students ADD COLUMN extra_minutes INTEGER NOT NULL DEFAULT 0;   -- for whatever is timed
ALTER TABLE cards ADD COLUMN late INTEGER NOT NULL DEFAULT 0;
ALTER TABLE cards ADD COLUMN hidden INTEGER NOT NULL DEFAULT 0;             -- marked, and not told to the student yet

-- An attempt of a student at a given sheet.
CREATE TABLE sittings (
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    student    INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    attempt    INTEGER NOT NULL,
    began      INTEGER NOT NULL,
    ends       INTEGER,                                                     -- when it is over; NULL: never
    handed     INTEGER,                                                     -- when it was handed in, or closed
    PRIMARY KEY (assignment, student, attempt)
) STRICT, WITHOUT ROWID;
CREATE INDEX sittings_ends ON sittings (ends) WHERE handed IS NULL AND ends IS NOT NULL;
INSERT INTO sittings (assignment, student, attempt, began)
SELECT k.assignment, k.student, k.attempt, coalesce(min(k.answered), a.given) FROM cards k JOIN assignments a ON a.id = k.assignment
GROUP BY k.assignment, k.student, k.attempt;

-- Items of a bank that an instructor wrote, or changed from one that comes with the program, or took out.
CREATE TABLE bank (
    id       INTEGER PRIMARY KEY,
    owner    INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    kind     TEXT NOT NULL,
    replaces TEXT NOT NULL DEFAULT '',                                      -- fingerprint of the one it stands for; '' where it is new
    body     TEXT NOT NULL,
    retired  INTEGER NOT NULL DEFAULT 0,
    changed  INTEGER NOT NULL
) STRICT;
CREATE INDEX bank_owner ON bank (owner, kind);
CREATE UNIQUE INDEX bank_replaces ON bank (owner, kind, replaces) WHERE replaces <> '';

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
