-- +goose Up
-- What messages say, as it is found: folded words, see core/seek. The program writes it,
-- for messages of earlier forms when it starts.
CREATE VIRTUAL TABLE message_words USING fts5 (words, content = '', contentless_delete = 1, tokenize = 'unicode61 remove_diacritics 0');
ALTER TABLE messages ADD COLUMN found_as INTEGER NOT NULL DEFAULT 0; -- the version of how it is found, 0 while it is not

-- What a sent message is found by besides its words.
CREATE TABLE message_facts (
    kind       TEXT    NOT NULL, -- channel, group or unit
    value      TEXT    NOT NULL,
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    PRIMARY KEY (kind, value, message_id)
) WITHOUT ROWID;
CREATE INDEX message_facts_message ON message_facts (message_id);
CREATE INDEX deliveries_address ON deliveries (address);
CREATE INDEX messages_newest ON messages (max(leaves_at, updated_at) DESC, id DESC) WHERE trial = 0;
-- All that most searches look at, so that no message is read for it.
CREATE INDEX messages_sought ON messages (account_id, state, urgency, sent_by, leaves_at, updated_at, follows_as, title) WHERE trial = 0;
CREATE INDEX messages_unfound ON messages (id) WHERE found_as = 0 AND trial = 0;

CREATE TABLE kept_searches (
    id         INTEGER PRIMARY KEY,
    name       TEXT    NOT NULL UNIQUE,
    account_id INTEGER REFERENCES accounts (id),
    search     TEXT    NOT NULL -- JSON
);

-- +goose StatementBegin
CREATE TRIGGER messages_unwritten AFTER DELETE ON messages BEGIN
    DELETE FROM message_words WHERE rowid = old.id;
END;
-- +goose StatementEnd

-- +goose Down
DROP TRIGGER messages_unwritten;
DROP TABLE kept_searches;
DROP INDEX messages_unfound;
DROP INDEX messages_sought;
DROP INDEX messages_newest;
DROP INDEX deliveries_address;
DROP TABLE message_facts;
ALTER TABLE messages DROP COLUMN found_as;
DROP TABLE message_words;
