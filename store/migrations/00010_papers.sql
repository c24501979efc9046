-- +goose Up
-- Sheets on paper: the cards of each version as they were printed, and who has which version.
CREATE TABLE papers (
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    version    INTEGER NOT NULL,                                 -- 1, 2, 3 …: stands on each page
    cards      TEXT NOT NULL,                                    -- a JSON list of item documents
    blocks     TEXT NOT NULL,                                    -- of the sheet, that each card comes from: a JSON list of numbers
    made       INTEGER NOT NULL,
    PRIMARY KEY (assignment, version)
) STRICT;
CREATE TABLE paper_for (
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    student    INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    version    INTEGER NOT NULL,
    PRIMARY KEY (assignment, student)
) STRICT, WITHOUT ROWID;
CREATE INDEX paper_for_student ON paper_for (student);

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
