-- +goose Up
-- Who keeps the server, how people come in, what was removed and can be brought back, and what was done.
ALTER TABLE instructors ADD COLUMN keeper INTEGER NOT NULL DEFAULT 0;    -- keeps the server too
ALTER TABLE instructors ADD COLUMN entry INTEGER NOT NULL DEFAULT 0;     -- sessions begun under an earlier number are over
ALTER TABLE instructors ADD COLUMN link TEXT NOT NULL DEFAULT '';        -- hash of the key with which a passphrase is chosen; '' for none
ALTER TABLE instructors ADD COLUMN link_until INTEGER NOT NULL DEFAULT 0;
ALTER TABLE instructors ADD COLUMN barred INTEGER;                       -- since when they cannot sign in; NULL while they can
UPDATE instructors SET keeper = 1 WHERE id = (SELECT min(id) FROM instructors);

ALTER TABLE students ADD COLUMN entry INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN waits INTEGER NOT NULL DEFAULT 0;        -- has asked to join, is not let in yet, and so is not there
ALTER TABLE students ADD COLUMN binned INTEGER;                          -- when they were put into the bin; NULL while they are not there
ALTER TABLE classes ADD COLUMN binned INTEGER;
ALTER TABLE sheets ADD COLUMN binned INTEGER;
ALTER TABLE instruments ADD COLUMN binned INTEGER;
ALTER TABLE classes ADD COLUMN joining TEXT NOT NULL DEFAULT 'open';     -- open, asked (an instructor lets everybody in) or shut
-- Who teaches a class that is not in the bin.
CREATE VIEW teaching AS SELECT s.class, s.instructor, s.role FROM staff s JOIN classes c ON c.id = s.class WHERE c.binned IS NULL;
CREATE INDEX students_joined ON students (class, created);

-- What is known of the file itself: whether it is being served, the last check and copy, keys of this server.
CREATE TABLE keeping (
    name  TEXT PRIMARY KEY,
    value TEXT NOT NULL,
    at    INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

CREATE TABLE keeping_log (
    id   INTEGER PRIMARY KEY,
    who  TEXT NOT NULL,
    what TEXT NOT NULL,
    at   INTEGER NOT NULL
) STRICT;

-- Sign-ins of late, those refused too.
CREATE TABLE signins (
    id      INTEGER PRIMARY KEY,
    role    TEXT NOT NULL,                -- instructor or student
    name    TEXT NOT NULL,                -- as it is kept, or as it was tried
    class   TEXT NOT NULL,                -- of a student
    address TEXT NOT NULL,
    good    INTEGER NOT NULL,
    at      INTEGER NOT NULL
) STRICT;
CREATE INDEX signins_at ON signins (at);

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
