-- +goose Up
-- What each field came to, one row a field: what statistics are made of, and what a page prints.
-- A card need no longer belong to a sheet that was given, and may be one of several attempts.
CREATE TABLE kept_before AS SELECT * FROM marks_before;
DROP TABLE marks_before;

CREATE TABLE new_cards (
    id             INTEGER PRIMARY KEY,
    assignment     INTEGER REFERENCES assignments (id) ON DELETE CASCADE,
    student        INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    attempt        INTEGER NOT NULL DEFAULT 1,
    n              INTEGER NOT NULL,           -- 1, 2, 3 …
    kind           TEXT NOT NULL,              -- of exercise
    family         TEXT NOT NULL,              -- of the instrument; '' where there is none
    item           TEXT NOT NULL,              -- the item document, of whatever version it was asked in
    draft          TEXT,                       -- half filled in, as typed
    answer         TEXT,                       -- as typed and checked
    result         TEXT,                       -- as it was marked; moves to entries
    half_marks     INTEGER,                    -- twice the marks, so that halves stay whole
    half_of        INTEGER,
    slip           TEXT,                       -- the first slip of the card
    answered       INTEGER,
    hints          INTEGER NOT NULL DEFAULT 0, -- rungs of help taken
    own_half_marks INTEGER,                    -- an instructor's own mark, which stands over the computed one
    own_reason     TEXT,
    UNIQUE (assignment, student, attempt, n)
) STRICT;
INSERT INTO new_cards (id, assignment, student, n, kind, family, item, draft, answer, result, half_marks, half_of, slip,
    answered, hints, own_half_marks, own_reason)
SELECT id, assignment, student, n, 'read', coalesce(json_extract(item, '$.instrument.family'), ''), item, draft, answer, result,
    half_marks, half_of, slip, answered, hints, own_half_marks, own_reason FROM cards;
DROP TABLE cards;
ALTER TABLE new_cards RENAME TO cards;
CREATE INDEX cards_student ON cards (student);

CREATE TABLE marks_before (
    remarking  INTEGER NOT NULL REFERENCES remarkings (id) ON DELETE CASCADE,
    card       INTEGER NOT NULL REFERENCES cards (id) ON DELETE CASCADE,
    item       TEXT NOT NULL,
    result     TEXT,                           -- what its entries were
    half_marks INTEGER,
    half_of    INTEGER,
    slip       TEXT,
    PRIMARY KEY (remarking, card)
) STRICT, WITHOUT ROWID;
INSERT INTO marks_before (remarking, card, item, result, half_marks, half_of, slip)
SELECT remarking, card, item, result, half_marks, half_of, slip FROM kept_before;
DROP TABLE kept_before;

CREATE TABLE entries (
    card       INTEGER NOT NULL REFERENCES cards (id) ON DELETE CASCADE,
    n          INTEGER NOT NULL,               -- in the order of the work, from 1
    field      TEXT NOT NULL,
    given      TEXT NOT NULL,                  -- as typed
    expected   TEXT NOT NULL,
    follows    TEXT NOT NULL,                  -- from the own earlier entries; '' where that is what is expected
    outcome    TEXT NOT NULL,
    half_marks INTEGER NOT NULL,
    half_of    INTEGER NOT NULL,
    slip       TEXT,                           -- the first that explains it
    slips      TEXT NOT NULL,                  -- all of them, as a JSON list
    faults     TEXT NOT NULL,                  -- of form, as a JSON list
    PRIMARY KEY (card, n)
) STRICT, WITHOUT ROWID;
INSERT INTO entries (card, n, field, given, expected, follows, outcome, half_marks, half_of, slip, slips, faults)
SELECT k.id, e.key + 1, e.value ->> 'step', e.value ->> 'given', e.value ->> 'expected', coalesce(e.value ->> 'follows', ''),
    e.value ->> 'outcome', CAST(2 * CAST(e.value ->> 'marks' AS REAL) AS INTEGER), CAST(2 * CAST(e.value ->> 'of' AS REAL) AS INTEGER),
    e.value ->> '$.slips[0]', coalesce(e.value -> 'slips', '[]'), coalesce(e.value -> 'form', '[]')
FROM cards k, json_each(k.result, '$.steps') e WHERE k.result IS NOT NULL;

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
