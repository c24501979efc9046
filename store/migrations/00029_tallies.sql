-- +goose Up
-- What the pages on a class's mistakes need stands ready, instead of being counted over all cards. A card counts once it is
-- answered and marked.
CREATE TABLE tallies (
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    slip       TEXT NOT NULL,               -- the first of a card; '' for none
    quarter    INTEGER NOT NULL,            -- of an hour in which the cards were answered, counted from 1970
    block      INTEGER NOT NULL,
    kind       TEXT NOT NULL,
    family     TEXT NOT NULL,
    cards      INTEGER NOT NULL,
    half       INTEGER NOT NULL,            -- twice the marks
    of         INTEGER NOT NULL,
    PRIMARY KEY (assignment, slip, quarter, block, kind, family)
) STRICT, WITHOUT ROWID;

-- Who in a class made a slip on its sheets, and on how many cards.
CREATE TABLE makers (
    class   INTEGER NOT NULL REFERENCES classes (id) ON DELETE CASCADE,
    slip    TEXT NOT NULL,
    student INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    cards   INTEGER NOT NULL,
    PRIMARY KEY (class, slip, student)
) STRICT, WITHOUT ROWID;
CREATE INDEX makers_student ON makers (student);
CREATE INDEX sittings_again ON sittings (assignment) WHERE attempt > 1;

INSERT INTO tallies SELECT assignment, coalesce(slip, ''), answered / 900, block, kind, family, count(*),
    sum(coalesce(own_half_marks, half_marks, 0)), sum(half_of)
    FROM cards WHERE assignment IS NOT NULL AND answered IS NOT NULL AND half_of IS NOT NULL GROUP BY 1, 2, 3, 4, 5, 6;
INSERT INTO makers SELECT a.class, k.slip, k.student, count(*) FROM cards k JOIN assignments a ON a.id = k.assignment
    WHERE k.answered IS NOT NULL AND k.half_of IS NOT NULL AND k.slip IS NOT NULL GROUP BY 1, 2, 3;

-- +goose StatementBegin
CREATE TRIGGER tallies_begin AFTER INSERT ON cards
WHEN new.assignment IS NOT NULL AND new.answered IS NOT NULL AND new.half_of IS NOT NULL
BEGIN
    INSERT INTO tallies (assignment, slip, quarter, block, kind, family, cards, half, of)
        VALUES (new.assignment, coalesce(new.slip, ''), new.answered / 900, new.block, new.kind, new.family, 1,
        coalesce(new.own_half_marks, new.half_marks, 0), new.half_of)
        ON CONFLICT DO UPDATE SET cards = cards + 1, half = half + excluded.half, of = of + excluded.of;
    INSERT INTO makers (class, slip, student, cards)
        SELECT class, new.slip, new.student, 1 FROM assignments WHERE id = new.assignment AND new.slip IS NOT NULL
        ON CONFLICT DO UPDATE SET cards = cards + 1;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER tallies_end AFTER DELETE ON cards
WHEN old.assignment IS NOT NULL AND old.answered IS NOT NULL AND old.half_of IS NOT NULL
BEGIN
    UPDATE tallies SET cards = cards - 1, half = half - coalesce(old.own_half_marks, old.half_marks, 0), of = of - old.half_of
        WHERE assignment = old.assignment AND slip = coalesce(old.slip, '') AND quarter = old.answered / 900
        AND block = old.block AND kind = old.kind AND family = old.family;
    DELETE FROM tallies WHERE assignment = old.assignment AND slip = coalesce(old.slip, '') AND quarter = old.answered / 900
        AND block = old.block AND kind = old.kind AND family = old.family AND cards = 0;
    UPDATE makers SET cards = cards - 1 WHERE class = (SELECT class FROM assignments WHERE id = old.assignment)
        AND slip = old.slip AND student = old.student;
    DELETE FROM makers WHERE class = (SELECT class FROM assignments WHERE id = old.assignment)
        AND slip = old.slip AND student = old.student AND cards = 0;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER tallies_lose AFTER UPDATE OF assignment, student, block, kind, family, answered, half_marks, half_of, own_half_marks, slip ON cards
WHEN old.assignment IS NOT NULL AND old.answered IS NOT NULL AND old.half_of IS NOT NULL
BEGIN
    UPDATE tallies SET cards = cards - 1, half = half - coalesce(old.own_half_marks, old.half_marks, 0), of = of - old.half_of
        WHERE assignment = old.assignment AND slip = coalesce(old.slip, '') AND quarter = old.answered / 900
        AND block = old.block AND kind = old.kind AND family = old.family;
    DELETE FROM tallies WHERE assignment = old.assignment AND slip = coalesce(old.slip, '') AND quarter = old.answered / 900
        AND block = old.block AND kind = old.kind AND family = old.family AND cards = 0;
    UPDATE makers SET cards = cards - 1 WHERE class = (SELECT class FROM assignments WHERE id = old.assignment)
        AND slip = old.slip AND student = old.student;
    DELETE FROM makers WHERE class = (SELECT class FROM assignments WHERE id = old.assignment)
        AND slip = old.slip AND student = old.student AND cards = 0;
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
    INSERT INTO makers (class, slip, student, cards)
        SELECT class, new.slip, new.student, 1 FROM assignments WHERE id = new.assignment AND new.slip IS NOT NULL
        ON CONFLICT DO UPDATE SET cards = cards + 1;
END;
-- +goose StatementEnd

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
