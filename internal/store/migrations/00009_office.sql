-- +goose Up
-- The set-up of an organisation that has begun: what was typed so far, behind a one-time address.
CREATE TABLE beginning (
    id      INTEGER PRIMARY KEY CHECK (id = 1),
    token   TEXT    NOT NULL,
    typed   TEXT    NOT NULL DEFAULT '{}', -- JSON
    made_at INTEGER NOT NULL
);

-- Whether the shipped stand-ins carry what is sent, when the command line names no carriers.
ALTER TABLE organisation ADD COLUMN stand_ins INTEGER NOT NULL DEFAULT 0;

-- Of a message that was under way in a backup that was restored: when that was made.
ALTER TABLE messages ADD COLUMN restored INTEGER NOT NULL DEFAULT 0;
