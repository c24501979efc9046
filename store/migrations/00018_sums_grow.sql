-- +goose Up
-- What an attempt came to grows by each card, instead of being summed up anew: of fifty cards each answer read all the others.
-- Whether one of them was late, or is not told yet, is still asked of all.
DROP TRIGGER sittings_follow_cards;
-- +goose StatementBegin
CREATE TRIGGER sittings_grow AFTER UPDATE OF half_marks, half_of, own_half_marks, answered ON cards
WHEN new.assignment IS NOT NULL AND new.late = old.late AND new.hidden = old.hidden
BEGIN
    UPDATE sittings SET
        done = done + (new.answered IS NOT NULL) - (old.answered IS NOT NULL),
        half_marks = half_marks + coalesce(new.own_half_marks, new.half_marks, 0) - coalesce(old.own_half_marks, old.half_marks, 0),
        half_of = half_of + coalesce(new.half_of, 0) - coalesce(old.half_of, 0)
    WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER sittings_follow_cards AFTER UPDATE OF half_marks, half_of, own_half_marks, answered, late, hidden ON cards
WHEN new.assignment IS NOT NULL AND (new.late <> old.late OR new.hidden <> old.hidden)
BEGIN
    UPDATE sittings SET (done, half_marks, half_of, late, hidden) = (
        SELECT count(k.answered), coalesce(sum(coalesce(k.own_half_marks, k.half_marks)), 0), coalesce(sum(k.half_of), 0),
            coalesce(max(k.late), 0), coalesce(max(k.hidden), 0)
        FROM cards k WHERE k.assignment = new.assignment AND k.student = new.student AND k.attempt = new.attempt)
    WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
