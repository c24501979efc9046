-- +goose Up
-- What an instrument or a sheet was before it was changed, so that it can be brought back: the last twenty states of each.
CREATE TABLE earlier_states (
    id         INTEGER PRIMARY KEY,
    instrument INTEGER REFERENCES instruments (id) ON DELETE CASCADE,
    sheet      INTEGER REFERENCES sheets (id) ON DELETE CASCADE,
    name       TEXT NOT NULL,             -- of the instrument, or title of the sheet
    document   TEXT NOT NULL,             -- the instrument document, or the definition of the sheet
    racked     TEXT NOT NULL DEFAULT '',  -- of a sheet: which instruments of the Rack it was composed from
    kept       INTEGER NOT NULL,          -- when this state was kept
    replaced   INTEGER NOT NULL           -- when another took its place
) STRICT;
-- When an instrument was last kept, put on a sheet or shown on the Board: choices show it first.
ALTER TABLE instruments ADD COLUMN used INTEGER NOT NULL DEFAULT 0;
UPDATE instruments SET used = changed;
CREATE INDEX earlier_states_instrument ON earlier_states (instrument, id) WHERE instrument IS NOT NULL;
CREATE INDEX earlier_states_sheet ON earlier_states (sheet, id) WHERE sheet IS NOT NULL;
-- +goose StatementBegin
CREATE TRIGGER instruments_keep_earlier AFTER UPDATE OF document ON instruments WHEN new.document <> old.document
BEGIN
    INSERT INTO earlier_states (instrument, name, document, kept, replaced)
    VALUES (old.id, old.name, old.document, old.changed, new.changed);
    DELETE FROM earlier_states WHERE instrument = old.id AND id NOT IN
        (SELECT id FROM earlier_states WHERE instrument = old.id ORDER BY id DESC LIMIT 20);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER sheets_keep_earlier AFTER UPDATE OF title, definition ON sheets WHEN new.title <> old.title OR new.definition <> old.definition
BEGIN
    INSERT INTO earlier_states (sheet, name, document, racked, kept, replaced)
    VALUES (old.id, old.title, old.definition, old.racked, old.changed, new.changed);
    DELETE FROM earlier_states WHERE sheet = old.id AND id NOT IN
        (SELECT id FROM earlier_states WHERE sheet = old.id ORDER BY id DESC LIMIT 20);
END;
-- +goose StatementEnd

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
