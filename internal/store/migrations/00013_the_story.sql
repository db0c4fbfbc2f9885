-- +goose Up
-- What became of each delivery, kept so that it can be told.
ALTER TABLE deliveries ADD COLUMN carrier TEXT NOT NULL DEFAULT ''; -- what the one is called that took it
ALTER TABLE deliveries ADD COLUMN handed_at INTEGER NOT NULL DEFAULT 0; -- when it took it
ALTER TABLE deliveries ADD COLUMN arrived_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE recipients ADD COLUMN reached_at INTEGER NOT NULL DEFAULT 0; -- when the first arrived
ALTER TABLE recipients ADD COLUMN aside TEXT NOT NULL DEFAULT ''; -- JSON: addresses that were put aside, and why
UPDATE deliveries SET arrived_at = coalesce((SELECT min(r.occurred_at) FROM reports r
    WHERE r.delivery_id = deliveries.id AND r.state IN ('arrived', 'opened', 'answered')), updated_at)
WHERE state IN ('arrived', 'opened', 'answered');
UPDATE recipients SET reached_at = coalesce((SELECT min(d.arrived_at) FROM delivery_recipients l
    JOIN deliveries d ON d.id = l.delivery_id WHERE l.recipient_id = recipients.id AND d.arrived_at > 0), 0)
WHERE outcome IN ('reached', 'answered');

-- Hand-overs that no carrier took.
CREATE TABLE tries (
    delivery_id INTEGER NOT NULL REFERENCES deliveries (id) ON DELETE CASCADE,
    number      INTEGER NOT NULL, -- from 1
    tried_at    INTEGER NOT NULL,
    carrier     TEXT    NOT NULL, -- what it is called
    state       TEXT    NOT NULL, -- what came of it
    code        TEXT    NOT NULL, -- an enhanced status code (RFC 3463), or ''
    detail      TEXT    NOT NULL, -- the carrier's words
    PRIMARY KEY (delivery_id, number)
) WITHOUT ROWID;
ALTER TABLE reports ADD COLUMN code TEXT NOT NULL DEFAULT '';
ALTER TABLE addresses ADD COLUMN failures INTEGER NOT NULL DEFAULT 0; -- deliveries in a row that failed for good
UPDATE addresses SET failures = max(gone_returns, health = 'failing');
ALTER TABLE addresses DROP COLUMN gone_returns;

-- A message can follow another one, whose people it knows.
ALTER TABLE messages ADD COLUMN follows INTEGER NOT NULL DEFAULT 0; -- the first of its chain
ALTER TABLE messages ADD COLUMN follows_as TEXT NOT NULL DEFAULT '';
CREATE INDEX messages_follows ON messages (follows) WHERE follows > 0;

-- Who was looked after of those whom a message did not reach, and who is to.
CREATE TABLE hands (
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    person_id  INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    given_to   INTEGER REFERENCES accounts (id),
    given_by   INTEGER REFERENCES accounts (id),
    done_by    INTEGER REFERENCES accounts (id),
    done_at    INTEGER NOT NULL DEFAULT 0,
    PRIMARY KEY (message_id, person_id)
) WITHOUT ROWID;
CREATE INDEX hands_given ON hands (given_to) WHERE given_to IS NOT NULL AND done_at = 0;

-- +goose Down
DROP TABLE hands;
DROP INDEX messages_follows;
ALTER TABLE messages DROP COLUMN follows_as;
ALTER TABLE messages DROP COLUMN follows;
ALTER TABLE addresses ADD COLUMN gone_returns INTEGER NOT NULL DEFAULT 0;
ALTER TABLE addresses DROP COLUMN failures;
ALTER TABLE reports DROP COLUMN code;
DROP TABLE tries;
ALTER TABLE recipients DROP COLUMN aside;
ALTER TABLE recipients DROP COLUMN reached_at;
ALTER TABLE deliveries DROP COLUMN arrived_at;
ALTER TABLE deliveries DROP COLUMN handed_at;
ALTER TABLE deliveries DROP COLUMN carrier;
