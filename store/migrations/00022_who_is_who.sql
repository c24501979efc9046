-- +goose Up
-- A school's own number of a student, or their address there; which column of a list is what; two records of one student.
ALTER TABLE students ADD COLUMN number TEXT NOT NULL DEFAULT '';    -- as the school writes it; '' for none
ALTER TABLE classes ADD COLUMN list_columns TEXT NOT NULL DEFAULT '{}';  -- of the list imported last: what each column is, by its head
CREATE TABLE merges (
    student      INTEGER PRIMARY KEY REFERENCES students (id) ON DELETE CASCADE,  -- whose work was moved
    into_student INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,     -- to whom
    moved        TEXT NOT NULL,             -- what was moved, as a JSON object, so that it can be taken back
    at           INTEGER NOT NULL
) STRICT;
CREATE INDEX merges_into ON merges (into_student);

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
