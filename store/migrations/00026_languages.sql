-- +goose Up
-- The language that a person has chosen, as "de"; "" is that of the class or the browser.
ALTER TABLE instructors ADD COLUMN language TEXT NOT NULL DEFAULT '';
ALTER TABLE students ADD COLUMN language TEXT NOT NULL DEFAULT '';
-- Why an open practice card was chosen was kept in English with its terms in braces. It is shown once, and left out from now on.
UPDATE practice SET why = '' WHERE why LIKE '%{%}%' AND why NOT LIKE '{"key"%';

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
