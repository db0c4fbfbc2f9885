-- +goose Up
-- A message whose time passed while the program was down waits for a yes.
ALTER TABLE messages ADD COLUMN late INTEGER NOT NULL DEFAULT 0;
ALTER TABLE messages ADD COLUMN late_yes_at INTEGER NOT NULL DEFAULT 0; -- when somebody said that it may leave late
ALTER TABLE messages ADD COLUMN late_yes_by INTEGER REFERENCES accounts (id);
ALTER TABLE organisation ADD COLUMN alive_at INTEGER NOT NULL DEFAULT 0; -- when the program last looked for what is due

-- The number of a deleted draft never comes back.
CREATE TABLE message_ids (
    id   INTEGER PRIMARY KEY CHECK (id = 1),
    last INTEGER NOT NULL
);
INSERT INTO message_ids (id, last) SELECT 1, coalesce(max(id), 0) FROM messages;

-- Who kept it may delete it.
ALTER TABLE kept_filters ADD COLUMN account_id INTEGER REFERENCES accounts (id);
ALTER TABLE mappings ADD COLUMN account_id INTEGER REFERENCES accounts (id);

-- Grows with every new password; sessions of an earlier one have ended.
ALTER TABLE accounts ADD COLUMN session_epoch INTEGER NOT NULL DEFAULT 0;

-- Networks from which an account signed in: it is let in from there even while
-- somebody elsewhere tries its password.
CREATE TABLE known_networks (
    account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    network    TEXT    NOT NULL, -- a prefix such as 192.0.2.0/24
    seen_at    INTEGER NOT NULL,
    PRIMARY KEY (account_id, network)
) WITHOUT ROWID;

ALTER TABLE addresses ADD COLUMN gone_returns INTEGER NOT NULL DEFAULT 0; -- emails that came back: no such mailbox

-- Written to and emptied again to see whether there is room.
CREATE TABLE probes (
    id     INTEGER PRIMARY KEY,
    filler BLOB NOT NULL
);

-- A carrier's own trouble, by channel; nothing is handed over to it meanwhile.
CREATE TABLE carrier_troubles (
    channel  TEXT    PRIMARY KEY,
    detail   TEXT    NOT NULL, -- what it said
    since    INTEGER NOT NULL,
    tries    INTEGER NOT NULL, -- how often it was in trouble since it last was well
    retry_at INTEGER NOT NULL
) WITHOUT ROWID;

-- +goose Down
DROP TABLE carrier_troubles;
DROP TABLE probes;
ALTER TABLE addresses DROP COLUMN gone_returns;
DROP TABLE known_networks;
ALTER TABLE accounts DROP COLUMN session_epoch;
ALTER TABLE mappings DROP COLUMN account_id;
ALTER TABLE kept_filters DROP COLUMN account_id;
DROP TABLE message_ids;
ALTER TABLE organisation DROP COLUMN alive_at;
ALTER TABLE messages DROP COLUMN late_yes_by;
ALTER TABLE messages DROP COLUMN late_yes_at;
ALTER TABLE messages DROP COLUMN late;
