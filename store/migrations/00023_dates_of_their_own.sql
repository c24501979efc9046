-- +goose Up
-- Other dates of a sheet for a group or for one student, and more minutes for a test that was interrupted.
CREATE TABLE sheet_dates (
    id         INTEGER PRIMARY KEY,
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    student    INTEGER REFERENCES students (id) ON DELETE CASCADE,   -- NULL for a group
    team       TEXT NOT NULL DEFAULT '',                             -- the group; '' for one student
    opens      INTEGER,                                              -- NULL: as for the class
    closes     INTEGER                                               -- NULL: as for the class
) STRICT;
CREATE UNIQUE INDEX sheet_dates_student ON sheet_dates (assignment, student) WHERE student IS NOT NULL;
CREATE UNIQUE INDEX sheet_dates_team ON sheet_dates (assignment, team) WHERE student IS NULL;
CREATE INDEX sheet_dates_of ON sheet_dates (student) WHERE student IS NOT NULL;
ALTER TABLE sittings ADD COLUMN more_minutes INTEGER NOT NULL DEFAULT 0;  -- given to this attempt after an interruption

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
