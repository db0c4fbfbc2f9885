-- name: AskReading :one
INSERT INTO readings (message_id, language, person_id, account_id, name, asked_by, asked_at, until)
VALUES (?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (message_id, language, person_id, account_id) DO UPDATE SET name = excluded.name, asked_by = excluded.asked_by,
    asked_at = excluded.asked_at, until = excluded.until, done_at = 0, withdrawn_at = 0
RETURNING id;

-- name: SetRequest :exec
UPDATE readings SET request_id = sqlc.arg(request) WHERE id = sqlc.arg(id);

-- name: Reading :one
SELECT * FROM readings WHERE id = ?;

-- name: Readings :many
SELECT * FROM readings WHERE message_id = ? ORDER BY language, asked_at, id;

-- name: OpenReadings :many
SELECT r.message_id, m.title, r.language, CAST(group_concat(r.name, ', ') AS TEXT) AS names, CAST(min(r.until) AS INTEGER) AS until
FROM readings r JOIN messages m ON m.id = r.message_id
WHERE m.state = 'draft' AND r.done_at = 0 AND r.withdrawn_at = 0 AND r.until > sqlc.arg(now)
    AND r.message_id IN (SELECT value FROM json_each(CAST(sqlc.arg(messages) AS TEXT)))
GROUP BY r.message_id, r.language ORDER BY min(r.asked_at);

-- name: Sayings :many
SELECT s.reading_id, s.key, s.says, s.said_at, r.name, r.language FROM sayings s JOIN readings r ON r.id = s.reading_id
WHERE r.message_id = ? ORDER BY s.said_at, s.reading_id;

-- name: Say :exec
INSERT INTO sayings (reading_id, key, says, said_at) VALUES (?, ?, ?, ?)
ON CONFLICT (reading_id, key) DO UPDATE SET says = excluded.says, said_at = excluded.said_at;

-- name: OpenReading :exec
UPDATE readings SET opened_at = sqlc.arg(now) WHERE id = sqlc.arg(id) AND opened_at = 0;

-- name: EndReading :exec
UPDATE readings SET done_at = sqlc.arg(done_at), remark = sqlc.arg(remark) WHERE id = sqlc.arg(id);

-- name: WithdrawReading :execrows
UPDATE readings SET withdrawn_at = sqlc.arg(now) WHERE id = sqlc.arg(id) AND message_id = sqlc.arg(message) AND withdrawn_at = 0;

-- name: Await :exec
INSERT INTO awaiting (message_id, revision, account_id, recipients, until) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (message_id) DO UPDATE SET revision = excluded.revision, account_id = excluded.account_id,
    recipients = excluded.recipients, until = excluded.until, failed = '';

-- name: Awaited :one
SELECT w.revision, w.recipients, w.until, w.failed, w.account_id FROM awaiting w JOIN messages m ON m.id = w.message_id
WHERE w.message_id = ? AND m.state = 'draft' AND m.revision = w.revision;

-- name: Awaits :many
SELECT w.message_id, w.revision, w.recipients, w.until, w.failed, w.account_id FROM awaiting w JOIN messages m ON m.id = w.message_id
WHERE m.state = 'draft' AND m.revision = w.revision;

-- name: AwaitedNow :many
SELECT w.message_id, w.revision, w.recipients, w.until, w.account_id FROM awaiting w JOIN messages m ON m.id = w.message_id
WHERE m.state = 'draft' AND m.revision = w.revision AND w.failed = '' AND (w.until <= sqlc.arg(now) OR NOT EXISTS (
    SELECT 1 FROM readings r WHERE r.message_id = w.message_id AND r.done_at = 0 AND r.withdrawn_at = 0 AND r.until > sqlc.arg(now)
));

-- name: FailAwaited :exec
UPDATE awaiting SET failed = sqlc.arg(why) WHERE message_id = sqlc.arg(message) AND revision = sqlc.arg(revision);

-- name: StopAwaiting :execrows
DELETE FROM awaiting WHERE message_id = ?;
