-- +goose Up
ALTER TABLE cards DROP COLUMN result;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
