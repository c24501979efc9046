-- +goose Up
CREATE TABLE instructors (
    id      INTEGER PRIMARY KEY,
    login   TEXT NOT NULL UNIQUE,          -- as signed in with, lower case
    name    TEXT NOT NULL,
    hash    TEXT NOT NULL,
    created INTEGER NOT NULL               -- seconds since 1970, here and below
) STRICT;

CREATE TABLE sessions (
    token  TEXT PRIMARY KEY,               -- hashed
    data   BLOB NOT NULL,
    expiry INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE instruments (
    id       INTEGER PRIMARY KEY,
    owner    INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    name     TEXT NOT NULL,
    document TEXT NOT NULL,                -- the instrument document, whole
    changed  INTEGER NOT NULL
) STRICT;
CREATE INDEX instruments_owner ON instruments (owner, name);

CREATE TABLE sheets (
    id         INTEGER PRIMARY KEY,
    owner      INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    title      TEXT NOT NULL,
    definition TEXT NOT NULL,              -- the sheet with its instruments, whole
    racked     TEXT NOT NULL,              -- which instruments of the rack it was composed from
    changed    INTEGER NOT NULL
) STRICT;
CREATE INDEX sheets_owner ON sheets (owner, title);

CREATE TABLE classes (
    id      INTEGER PRIMARY KEY,
    owner   INTEGER NOT NULL REFERENCES instructors (id) ON DELETE CASCADE,
    name    TEXT NOT NULL,
    code    TEXT NOT NULL UNIQUE,          -- the joining code
    created INTEGER NOT NULL
) STRICT;
CREATE INDEX classes_owner ON classes (owner, name);

CREATE TABLE students (
    id      INTEGER PRIMARY KEY,
    class   INTEGER NOT NULL REFERENCES classes (id) ON DELETE CASCADE,
    name    TEXT NOT NULL,
    folded  TEXT NOT NULL,                 -- the name in lower case with single spaces
    hash    TEXT NOT NULL,
    created INTEGER NOT NULL,
    UNIQUE (class, folded)
) STRICT;

-- A sheet as it was given to a class: later changes of the sheet leave it alone.
CREATE TABLE assignments (
    id         INTEGER PRIMARY KEY,
    class      INTEGER NOT NULL REFERENCES classes (id) ON DELETE CASCADE,
    sheet      INTEGER REFERENCES sheets (id) ON DELETE SET NULL,
    title      TEXT NOT NULL,
    definition TEXT NOT NULL,
    seed       INTEGER NOT NULL,
    given      INTEGER NOT NULL,
    UNIQUE (class, sheet)
) STRICT;

-- A student's card: what was asked stands whole beside what was answered.
CREATE TABLE cards (
    id         INTEGER PRIMARY KEY,
    assignment INTEGER NOT NULL REFERENCES assignments (id) ON DELETE CASCADE,
    student    INTEGER NOT NULL REFERENCES students (id) ON DELETE CASCADE,
    n          INTEGER NOT NULL,           -- 1, 2, 3 …
    item       TEXT NOT NULL,
    draft      TEXT,                       -- half filled in, as typed
    answer     TEXT,                       -- as typed and checked
    result     TEXT,                       -- as it was marked
    half_marks INTEGER,                    -- twice the marks, so that halves stay whole
    half_of    INTEGER,
    slip       TEXT,                       -- the first slip of the card
    answered   INTEGER,
    UNIQUE (assignment, student, n)
) STRICT;
CREATE INDEX cards_student ON cards (student);

-- +goose Down
DROP TABLE cards;
DROP TABLE assignments;
DROP TABLE students;
DROP TABLE classes;
DROP TABLE sheets;
DROP TABLE instruments;
DROP TABLE sessions;
DROP TABLE instructors;
