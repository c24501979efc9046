-- +goose Up
-- What the cards of an attempt came to stands with the attempt, so that the pages of a whole class read a row a student: a JSON object by
-- the number of the card. A card is twice its marks, twice its full marks, its first slip, whether it was late (1) and is not told yet (2),
-- when it was first looked at and answered, in seconds since the attempt began, and how far its slip led. What is not known is null.
ALTER TABLE cards ADD COLUMN led REAL;   -- how far the entry that the slip explains is from right, in the unit of the instrument
-- Of earlier cards it is known where both are plain decimals.
UPDATE cards SET led = (SELECT abs(CAST(replace(e.given, ',', '.') AS REAL) - CAST(e.expected AS REAL)) FROM entries e
    WHERE e.card = cards.id AND e.slip = cards.slip AND e.given GLOB '*[0-9]*' AND e.expected GLOB '*[0-9]*'
    AND e.given NOT GLOB '*[^-+0-9.,]*' AND e.expected NOT GLOB '*[^-+0-9.]*' ORDER BY e.n LIMIT 1) WHERE slip IS NOT NULL;
ALTER TABLE sittings ADD COLUMN marks TEXT NOT NULL DEFAULT '{}';
UPDATE sittings SET marks = (SELECT json_group_object(k.n, json_array(coalesce(k.own_half_marks, k.half_marks), k.half_of, k.slip, k.late + 2 * k.hidden, k.seen - sittings.began, k.answered - sittings.began, k.led))
    FROM cards k WHERE k.assignment = sittings.assignment AND k.student = sittings.student AND k.attempt = sittings.attempt);

-- +goose StatementBegin
CREATE TRIGGER marks_begin AFTER INSERT ON cards
WHEN new.assignment IS NOT NULL
BEGIN
    UPDATE sittings SET marks = json_set(marks, '$."' || new.n || '"',
        json_array(coalesce(new.own_half_marks, new.half_marks), new.half_of, new.slip, new.late + 2 * new.hidden, new.seen - began, new.answered - began, new.led))
    WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER marks_follow AFTER UPDATE OF seen, answered, half_marks, half_of, own_half_marks, slip, led, late, hidden ON cards
WHEN new.assignment IS NOT NULL
BEGIN
    UPDATE sittings SET marks = json_set(marks, '$."' || new.n || '"',
        json_array(coalesce(new.own_half_marks, new.half_marks), new.half_of, new.slip, new.late + 2 * new.hidden, new.seen - began, new.answered - began, new.led))
    WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER marks_end AFTER DELETE ON cards
WHEN old.assignment IS NOT NULL
BEGIN
    UPDATE sittings SET marks = json_remove(marks, '$."' || old.n || '"')
    WHERE assignment = old.assignment AND student = old.student AND attempt = old.attempt;
END;
-- +goose StatementEnd
-- Cards in whose boxes something stands already.
CREATE INDEX cards_typed ON cards (assignment) WHERE answered IS NULL AND draft IS NOT NULL;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
