-- +goose Up
-- Copies of instruments and sheets that one instructor has sent to another, who has neither kept nor declined them yet.
CREATE TABLE sent_copies (
    id       INTEGER PRIMARY KEY,
    sender   INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    receiver INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    kind     TEXT NOT NULL,      -- instrument or sheet
    title    TEXT NOT NULL,
    document TEXT NOT NULL,
    sent     INTEGER NOT NULL
) STRICT;
CREATE INDEX sent_copies_of ON sent_copies (receiver, sent);
CREATE INDEX sent_copies_by ON sent_copies (sender);

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
