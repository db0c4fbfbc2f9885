-- +goose Up
-- What SQL filters by is a column.
ALTER TABLE messages ADD COLUMN urgency TEXT NOT NULL DEFAULT 'routine';
ALTER TABLE messages ADD COLUMN released_at INTEGER NOT NULL DEFAULT 0; -- since when its deliveries may leave, 0 while none may
ALTER TABLE messages ADD COLUMN scheduled INTEGER NOT NULL DEFAULT 0; -- it waits for its own time, not just for the hold
ALTER TABLE messages ADD COLUMN stopped_at INTEGER NOT NULL DEFAULT 0; -- when somebody pressed Stop after it was released
UPDATE messages SET urgency = coalesce(json_extract(draft, '$.urgency'), 'routine'),
    scheduled = state <> 'draft' AND leaves_at - sent_at > (SELECT hold_seconds + 1 FROM organisation) * 1000,
    released_at = CASE WHEN state IN ('sending', 'sent', 'stopped') THEN max(leaves_at, late_yes_at, 1) ELSE 0 END;
CREATE INDEX messages_open ON messages (state) WHERE state IN ('draft', 'held', 'sending');

-- What was fixed when Send was pressed: who sent it, within which reach, by which
-- steps and rules. Today's settings change nothing of it.
CREATE TABLE sendings (
    message_id INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    version    INTEGER NOT NULL, -- of the form of the JSON
    settings   TEXT    NOT NULL  -- JSON
);

-- One life of the program, which takes what is due to the carriers.
CREATE TABLE runs (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    host       TEXT    NOT NULL, -- the machine it ran on
    started_at INTEGER NOT NULL
);

-- What deliveries say: one for all those of a message that say the same.
CREATE TABLE contents (
    id         INTEGER PRIMARY KEY,
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    hash       BLOB    NOT NULL, -- SHA-256; of what was planned by an earlier version any 32 bytes
    channel    TEXT    NOT NULL,
    language   TEXT    NOT NULL, -- BCP 47
    subject    TEXT    NOT NULL,
    body       TEXT    NOT NULL,
    html       TEXT    NOT NULL,
    link       TEXT    NOT NULL,
    version    INTEGER NOT NULL, -- of the form of the parts
    parts      TEXT    NOT NULL, -- JSON
    UNIQUE (message_id, hash)
);
-- Of those deliveries that say the same, the first gives its number to what they say.
INSERT INTO contents (id, message_id, hash, channel, language, subject, body, html, link, version, parts)
SELECT min(d.id), d.message_id, randomblob(32), d.channel, o.language, d.subject, d.body, d.html, d.link, 1,
    CASE d.channel
    WHEN 'email' THEN json_object('mailbox', o.mail_from, 'replyTo', coalesce(json_extract(m.draft, '$.replyTo'), ''),
        'files', json(coalesce(json_extract(m.draft, '$.files'), '[]')))
    WHEN 'voice' THEN json_object('recording', coalesce(json_extract(m.draft, '$.voice.recording.hash'), ''),
        'repeatKey', coalesce(json_extract(m.draft, '$.voice.repeatKey'), ''),
        'confirmKey', coalesce(json_extract(m.draft, '$.voice.confirmKey'), ''))
    WHEN 'push' THEN json_object(
        'badge', json(CASE WHEN json_extract(m.draft, '$.push.badge') THEN 'true' ELSE 'false' END),
        'quiet', json(CASE WHEN coalesce(json_extract(m.draft, '$.push.sound'), '') = 'quiet'
            OR coalesce(json_extract(m.draft, '$.push.sound'), '') = '' AND m.urgency = 'routine' THEN 'true' ELSE 'false' END),
        'urgency', m.urgency)
    ELSE '{}' END
FROM deliveries d JOIN messages m ON m.id = d.message_id JOIN organisation o ON o.id = 1
GROUP BY d.message_id, d.channel, d.subject, d.body, d.html, d.link;

-- Deliveries stand on their own: whoever hands one over reads no message.
CREATE TABLE all_deliveries (
    id           INTEGER PRIMARY KEY,
    message_id   INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    content_id   INTEGER NOT NULL, -- of contents; they come and go with the message
    channel      TEXT    NOT NULL,
    address      TEXT    NOT NULL,
    sender       TEXT    NOT NULL, -- the name of an email, the number of a text or a call
    step         INTEGER NOT NULL, -- on which it was planned
    parts        INTEGER NOT NULL,
    seconds      INTEGER NOT NULL,
    cost         INTEGER NOT NULL,
    key          TEXT    NOT NULL UNIQUE, -- the idempotency key of its hand-over
    state        TEXT    NOT NULL,
    attempts     INTEGER NOT NULL DEFAULT 0,
    queued_at    INTEGER NOT NULL, -- when it is first free to leave, unless its message is released later
    due_at       INTEGER NOT NULL, -- when it may be tried next
    leased_by    INTEGER NOT NULL DEFAULT 0, -- the run that is handing it over, 0 when none is
    leased_until INTEGER NOT NULL DEFAULT 0, -- when another run may take it
    detail       TEXT    NOT NULL DEFAULT '', -- the last thing heard
    updated_at   INTEGER NOT NULL
);
INSERT INTO all_deliveries (id, message_id, content_id, channel, address, sender, step, parts, seconds, cost, key, state, attempts, queued_at,
    due_at, detail, updated_at)
SELECT d.id, d.message_id, min(d.id) OVER (PARTITION BY d.message_id, d.channel, d.subject, d.body, d.html, d.link), d.channel, d.address,
    CASE WHEN d.sender <> '' THEN d.sender WHEN d.channel = 'email' THEN o.mail_name WHEN d.channel = 'push' THEN '' ELSE o.number_from END,
    d.step, d.parts, d.seconds, d.cost, d.key,
    CASE WHEN d.state = 'held' THEN 'queued'
         -- An email that was being handed over when the program ended may have left.
         WHEN d.claimed = 1 AND d.channel = 'email' AND d.state IN ('queued', 'retrying') THEN 'undecided'
         ELSE d.state END,
    d.attempts, CASE WHEN d.queued_at > 0 THEN d.queued_at ELSE d.due_at END, d.due_at, d.detail, d.updated_at
FROM deliveries d JOIN organisation o ON o.id = 1;

CREATE TABLE all_links (
    delivery_id  INTEGER NOT NULL REFERENCES all_deliveries (id) ON DELETE CASCADE,
    recipient_id INTEGER NOT NULL REFERENCES recipients (id) ON DELETE CASCADE,
    PRIMARY KEY (delivery_id, recipient_id)
) WITHOUT ROWID;
INSERT INTO all_links SELECT delivery_id, recipient_id FROM delivery_recipients;
CREATE TABLE all_reports (
    delivery_id INTEGER NOT NULL REFERENCES all_deliveries (id) ON DELETE CASCADE,
    report_key  TEXT    NOT NULL, -- the carrier's own, to know a report that comes twice
    state       TEXT    NOT NULL,
    detail      TEXT    NOT NULL,
    occurred_at INTEGER NOT NULL,
    received_at INTEGER NOT NULL,
    PRIMARY KEY (delivery_id, report_key)
) WITHOUT ROWID;
INSERT INTO all_reports SELECT delivery_id, report_key, state, detail, occurred_at, received_at FROM reports;
DROP TABLE reports;
DROP TABLE delivery_recipients;
DROP TABLE deliveries;
ALTER TABLE all_deliveries RENAME TO deliveries;
ALTER TABLE all_links RENAME TO delivery_recipients;
ALTER TABLE all_reports RENAME TO reports;
CREATE INDEX deliveries_message ON deliveries (message_id);
CREATE INDEX deliveries_waiting ON deliveries (message_id, channel, due_at) WHERE state IN ('queued', 'retrying') AND leased_by = 0;
CREATE INDEX deliveries_leased ON deliveries (leased_by, leased_until) WHERE leased_by > 0;
CREATE INDEX deliveries_troubled ON deliveries (message_id, state) WHERE state IN ('retrying', 'failed', 'expired', 'undecided');
CREATE INDEX delivery_recipients_recipient ON delivery_recipients (recipient_id);

-- What the message came to for each recipient, kept with every change of their deliveries.
ALTER TABLE recipients ADD COLUMN outcome TEXT NOT NULL DEFAULT 'waiting';
UPDATE recipients SET outcome = (
    SELECT CASE
        WHEN sum(d.state = 'answered') > 0 THEN 'answered'
        WHEN sum(d.state IN ('arrived', 'opened')) > 0 THEN 'reached'
        WHEN sum(d.state IN ('queued', 'retrying', 'carrier', 'undecided')) > 0 THEN 'waiting'
        WHEN sum(d.state = 'stopped') > 0 THEN 'stopped'
        ELSE 'not-reached' END
    FROM delivery_recipients dr JOIN deliveries d ON d.id = dr.delivery_id WHERE dr.recipient_id = recipients.id);
DROP INDEX recipients_message;
CREATE INDEX recipients_message ON recipients (message_id, step, id);

-- The figures of a message, kept with every change.
CREATE TABLE figures (
    message_id   INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    recipients   INTEGER NOT NULL DEFAULT 0, -- reached + waiting + not_reached + stopped
    reached      INTEGER NOT NULL DEFAULT 0,
    answered     INTEGER NOT NULL DEFAULT 0, -- of those reached
    waiting      INTEGER NOT NULL DEFAULT 0,
    not_reached  INTEGER NOT NULL DEFAULT 0,
    stopped      INTEGER NOT NULL DEFAULT 0,
    left_out     INTEGER NOT NULL DEFAULT 0,
    told         INTEGER NOT NULL DEFAULT 0,
    deliveries   INTEGER NOT NULL DEFAULT 0,
    here         INTEGER NOT NULL DEFAULT 0, -- deliveries that have not left
    undecided    INTEGER NOT NULL DEFAULT 0, -- deliveries of which it is not known whether they left
    ended_early  INTEGER NOT NULL DEFAULT 0, -- deliveries that were stopped
    planned_cost INTEGER NOT NULL DEFAULT 0, -- of every delivery
    spent_cost   INTEGER NOT NULL DEFAULT 0, -- of those that left
    saved_cost   INTEGER NOT NULL DEFAULT 0  -- of those that were stopped
);
INSERT INTO figures (message_id, recipients, reached, answered, waiting, not_reached, stopped)
SELECT m.id, count(r.id), coalesce(sum(r.outcome IN ('reached', 'answered')), 0), coalesce(sum(r.outcome = 'answered'), 0),
    coalesce(sum(r.outcome = 'waiting'), 0), coalesce(sum(r.outcome = 'not-reached'), 0), coalesce(sum(r.outcome = 'stopped'), 0)
FROM messages m LEFT JOIN recipients r ON r.message_id = m.id WHERE m.state <> 'draft' GROUP BY m.id;
UPDATE figures SET
    left_out = (SELECT count(*) FROM left_out l WHERE l.message_id = figures.message_id AND l.reason <> 'guardians-told'),
    told = (SELECT count(*) FROM left_out l WHERE l.message_id = figures.message_id AND l.reason = 'guardians-told');
UPDATE figures SET (deliveries, here, undecided, ended_early, planned_cost, spent_cost, saved_cost) = (
    SELECT count(*), coalesce(sum(d.state IN ('queued', 'retrying')), 0), coalesce(sum(d.state = 'undecided'), 0),
        coalesce(sum(d.state = 'stopped'), 0), coalesce(sum(d.cost), 0),
        coalesce(sum(CASE WHEN d.state IN ('queued', 'retrying', 'stopped') THEN 0 ELSE d.cost END), 0),
        coalesce(sum(CASE WHEN d.state = 'stopped' THEN d.cost ELSE 0 END), 0)
    FROM deliveries d WHERE d.message_id = figures.message_id);
UPDATE messages SET stopped_at = max(ended_at, 1) WHERE state = 'stopped';
UPDATE messages SET state = 'sent', ended_at = max(ended_at, released_at) WHERE state = 'sending' AND late = 0
    AND (SELECT here FROM figures f WHERE f.message_id = messages.id) = 0;

-- What is known of an address is looked up by it.
DROP INDEX addresses_value;
CREATE INDEX addresses_value ON addresses (channel, value, health);

-- +goose Down
-- There is no way back that keeps everything: restore a backup.
SELECT 1;
