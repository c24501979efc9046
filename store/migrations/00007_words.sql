-- +goose Up
-- The words that a class's students see, and whether their instructor may see what they practise, in sum.
ALTER TABLE classes ADD COLUMN words TEXT NOT NULL DEFAULT '{}';
ALTER TABLE classes ADD COLUMN practice_seen INTEGER NOT NULL DEFAULT 0;
-- The slips that a card could tell of a student, with spaces between; NULL until somebody asks. What is known of a student
-- is worked out from the cards themselves, so that marking them anew changes it too.
ALTER TABLE cards ADD COLUMN told TEXT;
DROP TABLE evidence;
ALTER TABLE practice DROP COLUMN level;
ALTER TABLE practice DROP COLUMN wrong;
ALTER TABLE practice DROP COLUMN right;
CREATE INDEX cards_answered ON cards (student, answered) WHERE answered IS NOT NULL;
-- Instruments of a Rack that the owner's students may move on their Bench.
ALTER TABLE instruments ADD COLUMN shared INTEGER NOT NULL DEFAULT 0;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
