-- +goose Up
-- Most cards have no slip: who made one is counted by a trigger of its own, which an answer without one does not run.
DROP TRIGGER tallies_begin;
DROP TRIGGER tallies_gain;
-- +goose StatementBegin
CREATE TRIGGER tallies_begin AFTER INSERT ON cards
WHEN new.assignment IS NOT NULL AND new.answered IS NOT NULL AND new.half_of IS NOT NULL
BEGIN
    INSERT INTO tallies (assignment, slip, quarter, block, kind, family, cards, half, of)
        VALUES (new.assignment, coalesce(new.slip, ''), new.answered / 900, new.block, new.kind, new.family, 1,
        coalesce(new.own_half_marks, new.half_marks, 0), new.half_of)
        ON CONFLICT DO UPDATE SET cards = cards + 1, half = half + excluded.half, of = of + excluded.of;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER tallies_gain AFTER UPDATE OF assignment, student, block, kind, family, answered, half_marks, half_of, own_half_marks, slip ON cards
WHEN new.assignment IS NOT NULL AND new.answered IS NOT NULL AND new.half_of IS NOT NULL
BEGIN
    INSERT INTO tallies (assignment, slip, quarter, block, kind, family, cards, half, of)
        VALUES (new.assignment, coalesce(new.slip, ''), new.answered / 900, new.block, new.kind, new.family, 1,
        coalesce(new.own_half_marks, new.half_marks, 0), new.half_of)
        ON CONFLICT DO UPDATE SET cards = cards + 1, half = half + excluded.half, of = of + excluded.of;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER makers_begin AFTER INSERT ON cards
WHEN new.slip IS NOT NULL AND new.assignment IS NOT NULL AND new.answered IS NOT NULL AND new.half_of IS NOT NULL
BEGIN
    INSERT INTO makers (class, slip, student, cards)
        SELECT class, new.slip, new.student, 1 FROM assignments WHERE id = new.assignment
        ON CONFLICT DO UPDATE SET cards = cards + 1;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER makers_gain AFTER UPDATE OF assignment, student, block, kind, family, answered, half_marks, half_of, own_half_marks, slip ON cards
WHEN new.slip IS NOT NULL AND new.assignment IS NOT NULL AND new.answered IS NOT NULL AND new.half_of IS NOT NULL
BEGIN
    INSERT INTO makers (class, slip, student, cards)
        SELECT class, new.slip, new.student, 1 FROM assignments WHERE id = new.assignment
        ON CONFLICT DO UPDATE SET cards = cards + 1;
END;
-- +goose StatementEnd

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
