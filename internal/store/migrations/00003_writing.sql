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

CREATE INDEX messages_leaves ON messages (leaves_at);

ALTER TABLE deliveries ADD COLUMN html TEXT NOT NULL DEFAULT ''; -- of a formatted email

-- +goose Down
DROP INDEX messages_leaves;
ALTER TABLE deliveries DROP COLUMN html;
DROP TABLE files;
ALTER TABLE units DROP COLUMN footer;
ALTER TABLE units DROP COLUMN prefix;
ALTER TABLE organisation DROP COLUMN sending;
