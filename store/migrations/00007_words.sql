-- +goose Up
-- The words that a class's students see, and whether their instructor may see what they practise, in sum.
ALTER TABLE classes ADD COLUMN words TEXT NOT NULL DEFAULT '{}';
ALTER TABLE classes ADD COLUMN practice_seen INTEGER NOT NULL DEFAULT 0;
-- Instruments of a Rack that the owner's students may move on their Bench.
ALTER TABLE instruments ADD COLUMN shared INTEGER NOT NULL DEFAULT 0;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
