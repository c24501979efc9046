-- +goose Up
-- The marks of a sheet are out of all its cards: a card has the marks that it was dealt for, and an attempt their sum.
ALTER TABLE cards ADD COLUMN half_full INTEGER;                          -- twice its full marks; NULL where that is not worked out yet
ALTER TABLE sittings ADD COLUMN half_full INTEGER NOT NULL DEFAULT 0;    -- twice the full marks of its cards
UPDATE cards SET half_full = half_of WHERE half_of IS NOT NULL;
UPDATE sittings SET half_full = (SELECT coalesce(sum(k.half_full), 0) FROM cards k
    WHERE k.assignment = sittings.assignment AND k.student = sittings.student AND k.attempt = sittings.attempt);
CREATE INDEX cards_unweighed ON cards (id) WHERE half_full IS NULL;
-- +goose StatementBegin
CREATE TRIGGER sittings_get_cards AFTER INSERT ON cards
WHEN new.assignment IS NOT NULL AND new.half_full IS NOT NULL
BEGIN
    UPDATE sittings SET half_full = half_full + new.half_full
    WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER sittings_follow_full AFTER UPDATE OF half_full ON cards
WHEN new.assignment IS NOT NULL AND new.half_full IS NOT old.half_full
BEGIN
    UPDATE sittings SET half_full = half_full + coalesce(new.half_full, 0) - coalesce(old.half_full, 0)
    WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
