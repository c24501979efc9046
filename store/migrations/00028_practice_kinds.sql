-- +goose Up
-- The kinds of card that a student practises, with spaces between; '' is all.
ALTER TABLE practice ADD COLUMN kinds TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
