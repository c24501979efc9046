-- +goose Up
-- How far the entry that a card's slip explains is from right, in the unit of the instrument. Of earlier cards it is known where both are
-- plain decimals.
ALTER TABLE cards ADD COLUMN led REAL;
UPDATE cards SET led = (SELECT abs(CAST(replace(e.given, ',', '.') AS REAL) - CAST(e.expected AS REAL)) FROM entries e
    WHERE e.card = cards.id AND e.slip = cards.slip AND e.given GLOB '*[0-9]*' AND e.expected GLOB '*[0-9]*'
    AND e.given NOT GLOB '*[^-+0-9.,]*' AND e.expected NOT GLOB '*[^-+0-9.]*' ORDER BY e.n LIMIT 1) WHERE slip IS NOT NULL;

-- What the cards of an attempt came to, so that the pages of a whole class read a row a student: a JSON object by the number of the
-- card, in SQLite's binary form. A card is twice its marks, twice its full marks, its first slip, whether it was late (1) and is not told
-- yet (2), when it was first looked at and answered, in seconds since the attempt began, and how far its slip led. What is not known is
-- null.
CREATE TABLE marks (
    assignment INTEGER NOT NULL,
    student    INTEGER NOT NULL,
    attempt    INTEGER NOT NULL,
    began      INTEGER NOT NULL,
    cards      BLOB NOT NULL,
    PRIMARY KEY (assignment, student, attempt),
    FOREIGN KEY (assignment, student, attempt) REFERENCES sittings (assignment, student, attempt) ON DELETE CASCADE ON UPDATE CASCADE
) STRICT, WITHOUT ROWID;
INSERT INTO marks SELECT t.assignment, t.student, t.attempt, t.began, jsonb('{}') FROM sittings t;
UPDATE marks SET cards = (SELECT jsonb_group_object(CAST(k.n AS TEXT), json_array(coalesce(k.own_half_marks, k.half_marks), k.half_of, k.slip, k.late + 2 * k.hidden,
        k.seen - marks.began, k.answered - marks.began, k.led))
    FROM cards k WHERE k.assignment = marks.assignment AND k.student = marks.student AND k.attempt = marks.attempt);

-- +goose StatementBegin
CREATE TRIGGER marks_of_sittings AFTER INSERT ON sittings
BEGIN
    INSERT INTO marks VALUES (new.assignment, new.student, new.attempt, new.began, jsonb('{}'));
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER marks_begin AFTER INSERT ON cards
WHEN new.assignment IS NOT NULL
BEGIN
    UPDATE marks SET cards = jsonb_set(cards, '$."' || new.n || '"',
        jsonb_array(coalesce(new.own_half_marks, new.half_marks), new.half_of, new.slip, new.late + 2 * new.hidden,
        new.seen - began, new.answered - began, new.led))
        WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER marks_follow AFTER UPDATE OF seen, answered, half_marks, half_of, own_half_marks, slip, led, late, hidden ON cards
WHEN new.assignment IS NOT NULL
BEGIN
    UPDATE marks SET cards = jsonb_set(cards, '$."' || new.n || '"',
        jsonb_array(coalesce(new.own_half_marks, new.half_marks), new.half_of, new.slip, new.late + 2 * new.hidden,
        new.seen - began, new.answered - began, new.led))
        WHERE assignment = new.assignment AND student = new.student AND attempt = new.attempt;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER marks_end AFTER DELETE ON cards
WHEN old.assignment IS NOT NULL
BEGIN
    UPDATE marks SET cards = jsonb_remove(cards, '$."' || old.n || '"')
        WHERE assignment = old.assignment AND student = old.student AND attempt = old.attempt;
END;
-- +goose StatementEnd
-- Cards in whose boxes something stands already.
CREATE INDEX cards_typed ON cards (assignment) WHERE answered IS NULL AND draft IS NOT NULL;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
