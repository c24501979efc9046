-- +goose Up
-- Surveys: a class measures one set of made-up parts again and again.
CREATE TABLE surveys (
    id     INTEGER PRIMARY KEY,
    class  INTEGER NOT NULL REFERENCES classes (id) ON DELETE CASCADE,
    title  TEXT NOT NULL,
    plan   TEXT NOT NULL,                       -- as a document
    seed   INTEGER NOT NULL,
    given  INTEGER NOT NULL,
    closed INTEGER                              -- when no more is read; NULL while it runs
) STRICT;
CREATE INDEX surveys_class ON surveys (class, id);

CREATE TABLE readings (
    survey  INTEGER NOT NULL REFERENCES surveys (id) ON DELETE CASCADE,
    student INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    cell    INTEGER NOT NULL,                   -- number in the plan, from 0
    given   TEXT NOT NULL,                      -- as typed
    value   TEXT NOT NULL,                      -- exact, in the instrument's unit
    right   INTEGER NOT NULL,                   -- the reading is right
    slip    TEXT,                               -- the first that explains it
    at      INTEGER NOT NULL,
    PRIMARY KEY (survey, student, cell)
) STRICT, WITHOUT ROWID;
CREATE INDEX readings_student ON readings (student);

CREATE TABLE verdicts (
    survey  INTEGER NOT NULL REFERENCES surveys (id) ON DELETE CASCADE,
    student INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    part    INTEGER NOT NULL,                   -- number in the plan, from 0
    verdict TEXT NOT NULL,
    at      INTEGER NOT NULL,
    PRIMARY KEY (survey, student, part)
) STRICT, WITHOUT ROWID;
CREATE INDEX verdicts_student ON verdicts (student);

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
