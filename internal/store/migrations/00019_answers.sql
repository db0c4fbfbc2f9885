-- +goose Up
-- Which answer of the message's question somebody gave last; 0 for none.
ALTER TABLE recipients ADD COLUMN answer INTEGER NOT NULL DEFAULT 0;
ALTER TABLE recipients ADD COLUMN answered_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE recipients ADD COLUMN minutes INTEGER NOT NULL DEFAULT 0; -- after which they come, if they said so

-- When enough people gave an answer that counts, and whether the others were told.
ALTER TABLE messages ADD COLUMN filled_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE messages ADD COLUMN filled_told INTEGER NOT NULL DEFAULT 0;
CREATE INDEX messages_filled ON messages (id) WHERE filled_at > 0 AND filled_told = 0;

-- Every answer to a question that came, also those that others took the place of.
CREATE TABLE answers (
    id         INTEGER PRIMARY KEY,
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    person_id  INTEGER REFERENCES people (id) ON DELETE SET NULL, -- none while it is not known who of several it was
    channel    TEXT    NOT NULL, -- by which it came; '' for what was written down for them
    address    TEXT    NOT NULL,
    number     INTEGER NOT NULL, -- of the answer, from 1
    minutes    INTEGER NOT NULL,
    remark     TEXT    NOT NULL,
    at         INTEGER NOT NULL,
    account_id INTEGER REFERENCES accounts (id) ON DELETE SET NULL, -- who wrote it down
    source     TEXT    NOT NULL UNIQUE -- by which one that comes twice is known
);
CREATE INDEX answers_message ON answers (message_id, at);
CREATE INDEX answers_address ON answers (address) WHERE person_id IS NULL;
CREATE INDEX entries_answering ON entries (message_id) WHERE kind = 'in' AND message_id IS NOT NULL;

-- +goose Down
DROP INDEX entries_answering;
DROP TABLE answers;
DROP INDEX messages_filled;
ALTER TABLE messages DROP COLUMN filled_told;
ALTER TABLE messages DROP COLUMN filled_at;
ALTER TABLE recipients DROP COLUMN minutes;
ALTER TABLE recipients DROP COLUMN answered_at;
ALTER TABLE recipients DROP COLUMN answer;
