-- +goose Up
-- What stands apart from messages is in no list of them: 1 is a trial, 2 an answer of a desk.
ALTER TABLE messages RENAME COLUMN trial TO apart;

-- Where people of the office look after what comes back.
CREATE TABLE desks (
    id       INTEGER PRIMARY KEY,
    name     TEXT    NOT NULL UNIQUE COLLATE NOCASE,
    settings TEXT    NOT NULL -- JSON: units, groups, hours, and what is answered outside them
);

CREATE TABLE desk_members (
    desk_id    INTEGER NOT NULL REFERENCES desks (id) ON DELETE CASCADE,
    account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    PRIMARY KEY (desk_id, account_id)
) WITHOUT ROWID;

-- What was said with somebody at a desk.
CREATE TABLE threads (
    id         INTEGER PRIMARY KEY,
    desk_id    INTEGER REFERENCES desks (id) ON DELETE SET NULL, -- none while there is no desk
    person_id  INTEGER REFERENCES people (id) ON DELETE SET NULL, -- none of somebody who is not, or no longer, on the roster
    name       TEXT    NOT NULL, -- of the person; of anybody else their address
    channel    TEXT    NOT NULL, -- by which they last wrote, and from where
    address    TEXT    NOT NULL,
    message_id INTEGER REFERENCES messages (id) ON DELETE SET NULL, -- that they answered last
    waits      TEXT    NOT NULL, -- us, them, quiet
    since      INTEGER NOT NULL, -- it waits so
    unread     INTEGER NOT NULL,
    back_at    INTEGER NOT NULL DEFAULT 0, -- when it waits for us again
    holder_id  INTEGER REFERENCES accounts (id) ON DELETE SET NULL, -- who took it
    left_note  TEXT    NOT NULL DEFAULT '', -- for the next shift
    last_at    INTEGER NOT NULL,
    last_text  TEXT    NOT NULL -- the beginning of what was said last
);
CREATE INDEX threads_desk ON threads (desk_id, waits, since);
CREATE INDEX threads_person ON threads (person_id) WHERE person_id IS NOT NULL;
CREATE INDEX threads_address ON threads (address);
CREATE INDEX threads_back ON threads (back_at) WHERE back_at > 0;

CREATE TABLE entries (
    id         INTEGER PRIMARY KEY,
    thread_id  INTEGER NOT NULL REFERENCES threads (id) ON DELETE CASCADE,
    kind       TEXT    NOT NULL, -- in, automatic, out, note, word
    at         INTEGER NOT NULL,
    channel    TEXT    NOT NULL DEFAULT '',
    address    TEXT    NOT NULL DEFAULT '',
    name       TEXT    NOT NULL, -- of whoever said it
    account_id INTEGER REFERENCES accounts (id) ON DELETE SET NULL,
    subject    TEXT    NOT NULL DEFAULT '',
    said       TEXT    NOT NULL,
    folded     TEXT    NOT NULL DEFAULT '',
    language   TEXT    NOT NULL DEFAULT '', -- of the copy, BCP 47
    copy       TEXT    NOT NULL DEFAULT '', -- what came in as the desk reads it, what leaves as they read it
    checked    INTEGER NOT NULL DEFAULT 0, -- a person checked every line of the copy
    files      TEXT    NOT NULL DEFAULT '[]', -- JSON
    dropped    TEXT    NOT NULL DEFAULT '[]', -- JSON: what came besides, in words
    message_id INTEGER REFERENCES messages (id) ON DELETE SET NULL, -- which it answers, or as which it leaves
    source     TEXT UNIQUE -- the carrier's key of what came in
);
CREATE INDEX entries_thread ON entries (thread_id, at);
CREATE INDEX entries_message ON entries (message_id) WHERE kind = 'out';

-- Who asked by a word to get no more texts there; kept without anybody who has the number.
CREATE TABLE stops (
    channel TEXT    NOT NULL,
    address TEXT    NOT NULL,
    at      INTEGER NOT NULL,
    said    TEXT    NOT NULL,
    PRIMARY KEY (channel, address)
) WITHOUT ROWID;

-- Who writes from an address that several people have.
CREATE TABLE writers (
    address   TEXT    PRIMARY KEY,
    person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE
) WITHOUT ROWID;

-- +goose Down
DROP TABLE writers;
DROP TABLE stops;
DROP TABLE entries;
DROP TABLE threads;
DROP TABLE desk_members;
DROP TABLE desks;
ALTER TABLE messages RENAME COLUMN apart TO trial;
