-- +goose Up
-- Whether a field of a card lost marks for its form alone, so that whom a word about it would help is found without reading results.
ALTER TABLE cards ADD COLUMN form INTEGER NOT NULL DEFAULT 0;
UPDATE cards SET form = 1 WHERE unpacked(result) LIKE '%"outcome":"form"%';
CREATE INDEX cards_form ON cards (assignment, answered) WHERE form = 1;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
