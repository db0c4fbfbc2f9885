-- +goose Up
ALTER TABLE organisation ADD COLUMN sending TEXT NOT NULL DEFAULT '{}'; -- JSON: the rules of sending
ALTER TABLE units ADD COLUMN prefix TEXT NOT NULL DEFAULT ''; -- of the subject of its emails
ALTER TABLE units ADD COLUMN footer TEXT NOT NULL DEFAULT ''; -- of its emails

-- Files that were uploaded; their content lies beside the database, named by its hash.
CREATE TABLE files (
    hash       TEXT    PRIMARY KEY, -- SHA-256, hexadecimal
    media_type TEXT    NOT NULL,
    size       INTEGER NOT NULL,
    account_id INTEGER REFERENCES accounts (id),
    added_at   INTEGER NOT NULL
) WITHOUT ROWID;

ALTER TABLE messages ADD COLUMN trial INTEGER NOT NULL DEFAULT 0; -- a sender tried it on themselves
ALTER TABLE messages ADD COLUMN asked_by INTEGER REFERENCES accounts (id); -- who asks for somebody else's yes
ALTER TABLE messages ADD COLUMN asked_revision INTEGER NOT NULL DEFAULT 0; -- to which revision
ALTER TABLE messages ADD COLUMN yes_by INTEGER REFERENCES accounts (id); -- who said it
ALTER TABLE messages ADD COLUMN moves_on INTEGER NOT NULL DEFAULT 0; -- recipients may still be tried on a further step
ALTER TABLE recipients ADD COLUMN exhausted INTEGER NOT NULL DEFAULT 0; -- there is no further step to try them on
CREATE INDEX messages_moves_on ON messages (id) WHERE moves_on = 1;
CREATE INDEX messages_leaves ON messages (leaves_at);

ALTER TABLE deliveries ADD COLUMN step INTEGER NOT NULL DEFAULT 0; -- on which it was planned
ALTER TABLE deliveries ADD COLUMN html TEXT NOT NULL DEFAULT ''; -- of a formatted email
ALTER TABLE deliveries ADD COLUMN link TEXT NOT NULL DEFAULT ''; -- that a push opens

-- Where push reaches a device; the roster calls it by its name.
CREATE TABLE devices (
    name         TEXT    PRIMARY KEY, -- the value of its addresses
    endpoint     TEXT    NOT NULL,
    p256dh       TEXT    NOT NULL, -- its public key, base64url
    auth         TEXT    NOT NULL, -- its authentication secret, base64url
    connected_at INTEGER NOT NULL
) WITHOUT ROWID;
ALTER TABLE organisation ADD COLUMN push_keys TEXT NOT NULL DEFAULT '{}'; -- JSON: by which push services know us

-- A draft as it was, about once a minute while it was written.
CREATE TABLE draft_versions (
    id         INTEGER PRIMARY KEY,
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    account_id INTEGER REFERENCES accounts (id),
    draft      TEXT    NOT NULL, -- JSON
    began_at   INTEGER NOT NULL,
    saved_at   INTEGER NOT NULL
);
CREATE INDEX draft_versions_message ON draft_versions (message_id);

-- Templates and quick texts.
CREATE TABLE shelf (
    id       INTEGER PRIMARY KEY,
    kind     TEXT    NOT NULL, -- template, quick-text
    owner_id INTEGER NOT NULL REFERENCES accounts (id),
    own      INTEGER NOT NULL, -- for its owner only
    unit_id  INTEGER REFERENCES units (id), -- with which it is shared; NULL for everybody
    name     TEXT    NOT NULL
);
CREATE TABLE shelf_versions (
    id         INTEGER PRIMARY KEY,
    item_id    INTEGER NOT NULL REFERENCES shelf (id) ON DELETE CASCADE,
    account_id INTEGER REFERENCES accounts (id),
    content    TEXT    NOT NULL, -- JSON: a draft without its audience
    saved_at   INTEGER NOT NULL
);
CREATE INDEX shelf_versions_item ON shelf_versions (item_id);

-- +goose Down
DROP TABLE shelf_versions;
DROP TABLE shelf;
DROP TABLE draft_versions;
DROP INDEX messages_leaves;
DROP INDEX messages_moves_on;
ALTER TABLE recipients DROP COLUMN exhausted;
ALTER TABLE messages DROP COLUMN moves_on;
ALTER TABLE messages DROP COLUMN trial;
ALTER TABLE messages DROP COLUMN yes_by;
ALTER TABLE messages DROP COLUMN asked_revision;
ALTER TABLE messages DROP COLUMN asked_by;
ALTER TABLE organisation DROP COLUMN push_keys;
DROP TABLE devices;
ALTER TABLE deliveries DROP COLUMN link;
ALTER TABLE deliveries DROP COLUMN html;
ALTER TABLE deliveries DROP COLUMN step;
DROP TABLE files;
ALTER TABLE units DROP COLUMN footer;
ALTER TABLE units DROP COLUMN prefix;
ALTER TABLE organisation DROP COLUMN sending;
