-- +goose Up
-- The book of an instrument of the Rack: checks, and what was decided. Entries stay; a further one corrects.
CREATE TABLE logbook (
    id         INTEGER PRIMARY KEY,
    instrument INTEGER NOT NULL REFERENCES instruments (id) ON DELETE CASCADE,
    day        INTEGER NOT NULL,
    entry      TEXT NOT NULL,                                       -- as a document
    corrects   INTEGER REFERENCES logbook (id) ON DELETE CASCADE,   -- the entry that this one stands for
    made       INTEGER NOT NULL
) STRICT;
CREATE INDEX logbook_instrument ON logbook (instrument, id);
CREATE INDEX logbook_corrects ON logbook (corrects) WHERE corrects IS NOT NULL;
ALTER TABLE instruments ADD COLUMN zero_limit TEXT NOT NULL DEFAULT '';   -- how large its zero error may be; '' for no limit

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
