-- +goose Up
-- Personal pages that somebody keeps on a device, and vehicle terminals that were paired.
CREATE TABLE kept_pages (
    id        INTEGER PRIMARY KEY,
    person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    hash      TEXT    NOT NULL UNIQUE, -- SHA-256 of the key in its address, hex
    kind      TEXT    NOT NULL, -- phone, browser, vehicle terminal
    device    TEXT    NOT NULL DEFAULT '', -- the value of its push address, of a terminal
    kept_at   INTEGER NOT NULL,
    seen_at   INTEGER NOT NULL -- when it was opened last, to the hour
);
CREATE INDEX kept_pages_person ON kept_pages (person_id);
CREATE INDEX kept_pages_device ON kept_pages (device) WHERE device <> '';

-- Vehicle terminals that show a code and wait for somebody to enter it.
CREATE TABLE pairings (
    code    TEXT    PRIMARY KEY,
    hash    TEXT    NOT NULL, -- as of the page that it becomes
    network TEXT    NOT NULL, -- from which it was asked for
    made_at INTEGER NOT NULL
) WITHOUT ROWID;

-- Who is told by text what comes in at a desk.
CREATE TABLE desk_told (
    desk_id    INTEGER NOT NULL REFERENCES desks (id) ON DELETE CASCADE,
    account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    PRIMARY KEY (desk_id, account_id)
) WITHOUT ROWID;

-- The codes by which somebody of a desk answers threads from their phone.
CREATE TABLE phone_codes (
    account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    code       INTEGER NOT NULL, -- 11 to 99
    thread_id  INTEGER NOT NULL REFERENCES threads (id) ON DELETE CASCADE,
    entry_id   INTEGER NOT NULL, -- the last one that they were told
    told_at    INTEGER NOT NULL,
    PRIMARY KEY (account_id, code)
) WITHOUT ROWID;
CREATE INDEX phone_codes_thread ON phone_codes (thread_id);

-- +goose Down
DROP TABLE phone_codes;
DROP TABLE desk_told;
DROP TABLE pairings;
DROP TABLE kept_pages;
