-- +goose Up
-- What a student worked out and set before the teeth of a gear are measured.
CREATE TABLE setups (
    survey  INTEGER NOT NULL REFERENCES surveys (id) ON DELETE CASCADE,
    student INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    answer  TEXT NOT NULL,                      -- as typed, a JSON object
    at      INTEGER NOT NULL,
    PRIMARY KEY (survey, student)
) STRICT, WITHOUT ROWID;
CREATE INDEX setups_student ON setups (student);

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
