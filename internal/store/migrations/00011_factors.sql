-- +goose Up
-- The second factor of an account: its secret, sealed with a key that lies outside the
-- database, and the step of the last code that counted.
ALTER TABLE accounts ADD COLUMN factor BLOB NOT NULL DEFAULT x'';
ALTER TABLE accounts ADD COLUMN factor_step INTEGER NOT NULL DEFAULT 0;
-- When, and for whom, wrong tries to sign in were last slowed down.
ALTER TABLE accounts ADD COLUMN slowed_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE accounts ADD COLUMN slowed_from TEXT NOT NULL DEFAULT '';
-- Where the account last signed in, such as https://lantern.example, for links to it.
ALTER TABLE accounts ADD COLUMN site TEXT NOT NULL DEFAULT '';

-- Each lets in once when the device of the second factor is lost.
CREATE TABLE recovery_codes (
    account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    hash       TEXT    NOT NULL,
    PRIMARY KEY (account_id, hash)
) WITHOUT ROWID;

-- Links that set a password, once; of each only its hash is kept.
CREATE TABLE passes (
    hash       TEXT    PRIMARY KEY,
    account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    invites    INTEGER NOT NULL, -- whether it is the first password
    ends_at    INTEGER NOT NULL
) WITHOUT ROWID;
CREATE INDEX passes_account ON passes (account_id);

-- Which rights an account holds only with a second factor, JSON.
ALTER TABLE organisation ADD COLUMN factor_for TEXT NOT NULL DEFAULT '[]';
