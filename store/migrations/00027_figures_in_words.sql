-- +goose Up
-- A card of which the student has had the figure told in words, line by line.
ALTER TABLE cards ADD COLUMN spoken INTEGER NOT NULL DEFAULT 0;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
