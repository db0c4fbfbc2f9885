-- +goose Up
-- Who was asked to read a copy of a message, and how far they are.
CREATE TABLE readings (
    id           INTEGER PRIMARY KEY,
    message_id   INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    language     TEXT    NOT NULL, -- BCP 47
    person_id    INTEGER NOT NULL DEFAULT 0, -- 0 for an account; they may have left the roster
    account_id   INTEGER NOT NULL DEFAULT 0, -- 0 for a person
    name         TEXT    NOT NULL,
    asked_by     INTEGER NOT NULL REFERENCES accounts (id),
    asked_at     INTEGER NOT NULL,
    until        INTEGER NOT NULL,
    request_id   INTEGER NOT NULL DEFAULT 0, -- the message that asked them last
    opened_at    INTEGER NOT NULL DEFAULT 0,
    done_at      INTEGER NOT NULL DEFAULT 0,
    withdrawn_at INTEGER NOT NULL DEFAULT 0,
    remark       TEXT    NOT NULL DEFAULT '',
    UNIQUE (message_id, language, person_id, account_id)
);

-- How a reader says that a line is right, by the key of its original.
CREATE TABLE sayings (
    reading_id INTEGER NOT NULL REFERENCES readings (id) ON DELETE CASCADE,
    key        TEXT    NOT NULL,
    says       TEXT    NOT NULL,
    said_at    INTEGER NOT NULL,
    PRIMARY KEY (reading_id, key)
) WITHOUT ROWID;

-- Drafts that were checked and wait for their readings until a time.
CREATE TABLE awaiting (
    message_id INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    revision   INTEGER NOT NULL, -- that was checked; another one does not wait
    account_id INTEGER NOT NULL REFERENCES accounts (id),
    recipients INTEGER NOT NULL, -- that the check spoke of
    until      INTEGER NOT NULL,
    failed     TEXT    NOT NULL DEFAULT '' -- why it did not leave
);

-- +goose Down
DROP TABLE awaiting;
DROP TABLE sayings;
DROP TABLE readings;
