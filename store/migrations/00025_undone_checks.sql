-- +goose Up
-- A check that its student has undone once: the card earns at most half of its marks from then on.
ALTER TABLE cards ADD COLUMN undone INTEGER NOT NULL DEFAULT 0;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
