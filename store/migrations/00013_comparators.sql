-- +goose Up
-- Parts compared with a size, and what a gauge's data line sent.
CREATE TABLE comparisons (
    id    INTEGER PRIMARY KEY,
    owner INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    title TEXT NOT NULL,
    plan  TEXT NOT NULL,                         -- as a document
    token TEXT NOT NULL UNIQUE,                  -- by which a device sends
    made  INTEGER NOT NULL
) STRICT;
CREATE INDEX comparisons_owner ON comparisons (owner, id);

CREATE TABLE compared (
    id         INTEGER PRIMARY KEY,
    comparison INTEGER NOT NULL REFERENCES comparisons (id) ON DELETE CASCADE,
    number     INTEGER,                          -- that the device sent it with; NULL where there was none
    line       TEXT NOT NULL,                    -- as it was sent
    deviation  TEXT,                             -- exact; NULL where the line could not be read
    why        TEXT NOT NULL DEFAULT '',         -- why not
    at         INTEGER NOT NULL
) STRICT;
CREATE INDEX compared_comparison ON compared (comparison, id);
CREATE UNIQUE INDEX compared_once ON compared (comparison, number) WHERE number IS NOT NULL AND deviation IS NOT NULL;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
