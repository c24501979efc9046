-- +goose Up
-- Parts of a survey that are tried in a gauge before they are measured: what was tried, and what was said.
CREATE TABLE trials (
    survey  INTEGER NOT NULL REFERENCES surveys (id) ON DELETE CASCADE,
    student INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    part    INTEGER NOT NULL,                   -- number in the plan, from 0
    go      INTEGER NOT NULL DEFAULT 0,         -- it was tried in the GO gauge
    no_go   INTEGER NOT NULL DEFAULT 0,
    said    TEXT NOT NULL DEFAULT '',           -- accept or reject; '' until something was said
    PRIMARY KEY (survey, student, part)
) STRICT, WITHOUT ROWID;
CREATE INDEX trials_student ON trials (student);
ALTER TABLE verdicts ADD COLUMN beyond TEXT NOT NULL DEFAULT '';   -- by how much a part lies beyond a limit, as typed

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
