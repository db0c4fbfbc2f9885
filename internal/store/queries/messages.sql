-- name: NextMessageID :one
UPDATE message_ids SET last = max(last, (SELECT coalesce(max(m.id), 0) FROM messages m)) + 1 WHERE message_ids.id = 1 RETURNING last;

-- name: AddMessage :exec
INSERT INTO messages (id, account_id, state, title, draft, created_at, updated_at)
VALUES (sqlc.arg(id), sqlc.arg(account_id), 'draft', sqlc.arg(title), sqlc.arg(draft), sqlc.arg(now), sqlc.arg(now));

-- name: Message :one
SELECT m.id, m.account_id, m.state, m.title, m.draft, m.revision, m.created_at, m.updated_at, m.sent_by, m.sent_at,
       m.leaves_at, m.ended_at, a.name AS author, coalesce(s.name, '') AS sender,
       m.asked_by, m.asked_revision, coalesce(q.name, '') AS asker, coalesce(y.name, '') AS assenter, a.whole AS author_whole, a.units AS author_units,
       m.late, m.late_yes_at
FROM messages m JOIN accounts a ON a.id = m.account_id LEFT JOIN accounts s ON s.id = m.sent_by
     LEFT JOIN accounts q ON q.id = m.asked_by LEFT JOIN accounts y ON y.id = m.yes_by WHERE m.id = ?;

-- name: Messages :many
SELECT m.id, m.account_id, m.state, m.title, m.draft, m.revision, m.created_at, m.updated_at, m.sent_by, m.sent_at,
       m.leaves_at, m.ended_at, a.name AS author, coalesce(s.name, '') AS sender,
       m.asked_by, m.asked_revision, coalesce(q.name, '') AS asker, coalesce(y.name, '') AS assenter, a.whole AS author_whole, a.units AS author_units,
       m.late, m.late_yes_at
FROM messages m JOIN accounts a ON a.id = m.account_id LEFT JOIN accounts s ON s.id = m.sent_by
     LEFT JOIN accounts q ON q.id = m.asked_by LEFT JOIN accounts y ON y.id = m.yes_by
WHERE m.trial = 0 AND m.account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)))
ORDER BY max(m.leaves_at, m.updated_at) DESC, m.id DESC LIMIT sqlc.arg(count) OFFSET sqlc.arg(first);

-- name: CountMessages :one
SELECT count(*) FROM messages WHERE trial = 0 AND account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)));

-- name: OpenMessages :many
SELECT m.id, m.account_id, m.state, m.title, m.draft, m.revision, m.created_at, m.updated_at, m.sent_by, m.sent_at,
       m.leaves_at, m.ended_at, a.name AS author, coalesce(s.name, '') AS sender,
       m.asked_by, m.asked_revision, coalesce(q.name, '') AS asker, coalesce(y.name, '') AS assenter, a.whole AS author_whole, a.units AS author_units,
       m.late, m.late_yes_at
FROM messages m JOIN accounts a ON a.id = m.account_id LEFT JOIN accounts s ON s.id = m.sent_by
     LEFT JOIN accounts q ON q.id = m.asked_by LEFT JOIN accounts y ON y.id = m.yes_by
WHERE m.trial = 0 AND m.state IN ('draft', 'held', 'sending') AND m.account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)))
ORDER BY m.leaves_at, m.id LIMIT 2000;

-- name: MessageTitles :many
SELECT id, title, state FROM messages WHERE trial = 0 AND account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)))
ORDER BY max(leaves_at, updated_at) DESC, id DESC LIMIT 10000;

-- name: SaveDraft :one
UPDATE messages SET title = ?, draft = ?, updated_at = ?, revision = revision + 1
WHERE id = ? AND revision = ? AND state = 'draft' RETURNING revision;

-- name: DeleteDraft :execrows
DELETE FROM messages WHERE id = ? AND state = 'draft';

-- name: AskYes :execrows
UPDATE messages SET asked_by = sqlc.arg(asked_by), asked_revision = sqlc.arg(revision) WHERE id = sqlc.arg(id) AND state = 'draft' AND revision = sqlc.arg(revision);

-- name: HoldMessage :execrows
UPDATE messages SET state = 'held', sent_by = ?, yes_by = ?, sent_at = ?, leaves_at = ?, revision = revision + 1
WHERE id = ? AND state = 'draft' AND revision = ?;

-- name: UnholdMessage :execrows
UPDATE messages SET state = 'draft', sent_by = NULL, yes_by = NULL, sent_at = 0, leaves_at = 0, late = 0, updated_at = ?
WHERE id = ? AND state = 'held';

-- name: DropRecipients :exec
DELETE FROM recipients WHERE message_id = ?;

-- name: DropLeftOut :exec
DELETE FROM left_out WHERE message_id = ?;

-- name: DropDeliveries :exec
DELETE FROM deliveries WHERE message_id = ?;

-- name: AddRecipient :one
INSERT INTO recipients (message_id, person_id, name, language, step, why) VALUES (?, ?, ?, ?, ?, ?) RETURNING id;

-- name: AddLeftOut :exec
INSERT INTO left_out (message_id, person_id, name, reason, detail) VALUES (?, ?, ?, ?, ?);

-- name: AddDelivery :one
INSERT INTO deliveries (message_id, channel, address, sender, subject, body, html, link, step, parts, seconds, cost, key, state, due_at, updated_at)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 'held', ?, ?) RETURNING id;

-- name: PutConversation :exec
INSERT INTO conversations (address, number) VALUES (?, ?) ON CONFLICT (address) DO UPDATE SET number = excluded.number;

-- name: Conversations :many
SELECT address, number FROM conversations;

-- name: AddDeliveryRecipient :exec
INSERT INTO delivery_recipients (delivery_id, recipient_id) VALUES (?, ?);

-- name: MessagesDue :many
SELECT id FROM messages WHERE state = 'held' AND late = 0 AND leaves_at <= ?;

-- name: ReleaseMessage :execrows
UPDATE messages SET state = 'sending' WHERE id = ? AND state = 'held' AND late = 0 AND leaves_at <= ?;

-- name: HoldLate :many
UPDATE messages SET late = 1 WHERE late = 0 AND trial = 0 AND (
    state = 'held' AND leaves_at < sqlc.arg(before)
    OR state = 'sending' AND id IN (
        SELECT d.message_id FROM deliveries d
        WHERE d.state IN ('queued', 'retrying') AND d.claimed = 0 AND d.due_at > sqlc.arg(alive_at) AND d.due_at < sqlc.arg(before)))
RETURNING id;

-- name: HoldDeliveries :exec
UPDATE deliveries SET state = 'held' WHERE message_id = ? AND state IN ('queued', 'retrying') AND claimed = 0;

-- name: HoldMovingOn :exec
UPDATE messages SET late = 1 WHERE id = ?;

-- name: LetLateLeave :execrows
UPDATE messages SET late = 0, late_yes_at = sqlc.arg(now), late_yes_by = sqlc.arg(account_id),
    leaves_at = CASE WHEN state = 'held' THEN max(leaves_at, sqlc.arg(now)) ELSE leaves_at END
WHERE id = sqlc.arg(id) AND late = 1;

-- name: QueueHeld :exec
UPDATE deliveries SET state = 'queued', queued_at = max(due_at, sqlc.arg(now)), due_at = max(due_at, sqlc.arg(now)), updated_at = sqlc.arg(now)
WHERE message_id = sqlc.arg(message_id) AND state = 'held'
    AND EXISTS (SELECT 1 FROM messages m WHERE m.id = sqlc.arg(message_id) AND m.state = 'sending');

-- name: AliveAt :one
SELECT alive_at FROM organisation WHERE id = 1;

-- name: SetAlive :exec
UPDATE organisation SET alive_at = ? WHERE id = 1;

-- name: QueueDeliveries :exec
UPDATE deliveries SET state = 'queued', queued_at = max(due_at, sqlc.arg(now)), due_at = max(due_at, sqlc.arg(now)), updated_at = sqlc.arg(now)
WHERE message_id = sqlc.arg(message_id) AND state = 'held';

-- name: DueDeliveries :many
SELECT * FROM deliveries
WHERE channel = ? AND state IN ('queued', 'retrying') AND claimed = 0 AND due_at <= ? ORDER BY due_at, id LIMIT ?;

-- name: NextDue :one
SELECT CAST(coalesce(min(at), 0) AS INTEGER) AS at FROM (
    SELECT min(due_at) AS at FROM deliveries WHERE channel = ? AND state IN ('queued', 'retrying') AND claimed = 0
    UNION ALL
    SELECT min(leaves_at) AS at FROM messages WHERE state = 'held' AND late = 0
) WHERE at IS NOT NULL;

-- name: ClaimDeliveries :exec
UPDATE deliveries SET claimed = 1 WHERE id IN (sqlc.slice('ids'));

-- name: UnclaimDeliveries :exec
UPDATE deliveries SET claimed = 0 WHERE id IN (sqlc.slice('ids'));

-- name: ReleaseClaims :exec
UPDATE deliveries SET claimed = 0 WHERE claimed = 1;

-- name: SetDelivery :exec
UPDATE deliveries SET state = ?, claimed = 0, attempts = ?, due_at = ?, detail = ?, updated_at = ? WHERE id = ?;

-- name: MoveDelivery :exec
UPDATE deliveries SET state = ?, detail = ?, updated_at = ? WHERE id = ?;

-- name: DeliveryByID :one
SELECT * FROM deliveries WHERE id = ?;

-- name: DeliveryByKey :one
SELECT * FROM deliveries WHERE key = ?;

-- name: StopDeliveries :execrows
UPDATE deliveries SET state = 'stopped', detail = ?, updated_at = ?
WHERE message_id = ? AND state IN ('held', 'queued', 'retrying') AND claimed = 0;

-- name: EndMessages :many
UPDATE messages SET ended_at = sqlc.arg(now),
    state = CASE WHEN EXISTS (SELECT 1 FROM deliveries d WHERE d.message_id = messages.id AND d.state = 'stopped')
                 THEN 'stopped' ELSE 'sent' END
WHERE messages.state = 'sending' AND NOT EXISTS (
    SELECT 1 FROM deliveries d WHERE d.message_id = messages.id AND d.state IN ('held', 'queued', 'retrying'))
RETURNING id;

-- name: AddReport :execrows
INSERT INTO reports (delivery_id, report_key, state, detail, occurred_at, received_at) VALUES (?, ?, ?, ?, ?, ?)
ON CONFLICT (delivery_id, report_key) DO NOTHING;

-- name: RecipientStates :many
SELECT dr.recipient_id, d.id AS delivery_id, d.state
FROM deliveries d JOIN delivery_recipients dr ON dr.delivery_id = d.id
WHERE d.message_id = ? ORDER BY dr.recipient_id, d.id;

-- name: MessageDeliveries :many
SELECT * FROM deliveries WHERE message_id = ? ORDER BY id;

-- name: MessageOutcomes :many
SELECT id, channel, address, cost, state, attempts, detail, updated_at FROM deliveries WHERE message_id = ? ORDER BY id;

-- name: MessageRecipients :many
SELECT * FROM recipients WHERE message_id = ? ORDER BY step, id;

-- name: MessageLeftOut :many
SELECT * FROM left_out WHERE message_id = ? ORDER BY id;

-- name: CountLeftOut :one
SELECT CAST(coalesce(sum(reason <> 'guardians-told'), 0) AS INTEGER) AS left_out,
       CAST(coalesce(sum(reason = 'guardians-told'), 0) AS INTEGER) AS told
FROM left_out WHERE message_id = ?;

-- name: Loads :many
SELECT r.person_id, CAST(json_extract(m.draft, '$.urgency') AS TEXT) AS urgency, count(*) AS messages
FROM messages m JOIN recipients r ON r.message_id = m.id
WHERE m.state <> 'draft' AND m.sent_at >= ? AND r.person_id IS NOT NULL GROUP BY 1, 2;

-- name: AddFile :exec
INSERT INTO files (hash, media_type, size, account_id, added_at) VALUES (?, ?, ?, ?, ?) ON CONFLICT (hash) DO UPDATE SET added_at = excluded.added_at;

-- name: OldFiles :many
SELECT hash FROM files WHERE added_at < ?;

-- name: DropFile :exec
DELETE FROM files WHERE hash = ?;

-- name: DraftsWithFiles :many
SELECT draft FROM messages WHERE instr(draft, '"hash"')
UNION ALL SELECT draft FROM draft_versions WHERE instr(draft, '"hash"')
UNION ALL SELECT content FROM shelf_versions WHERE instr(content, '"hash"');

-- name: FileByHash :one
SELECT * FROM files WHERE hash = ?;

-- name: NearMessages :many
SELECT id, account_id, title, leaves_at FROM messages WHERE state <> 'draft' AND leaves_at >= sqlc.arg(earliest) AND leaves_at <= sqlc.arg(latest) ORDER BY leaves_at LIMIT 20;

-- name: PeopleOf :many
SELECT person_id FROM recipients WHERE message_id = ? AND person_id IS NOT NULL;

-- name: Spent :many
SELECT a.whole, a.units, CAST(sum(d.cost) AS INTEGER) AS cost
FROM messages m JOIN accounts a ON a.id = m.account_id JOIN deliveries d ON d.message_id = m.id
WHERE m.state <> 'draft' AND m.leaves_at >= ? AND d.state <> 'stopped' GROUP BY 1, 2;

-- name: AddTrial :exec
INSERT INTO messages (id, account_id, state, title, draft, created_at, updated_at, sent_by, sent_at, leaves_at, trial)
VALUES (sqlc.arg(id), sqlc.arg(account_id), 'sending', sqlc.arg(title), sqlc.arg(draft), sqlc.arg(now), sqlc.arg(now), sqlc.arg(account_id), sqlc.arg(now), sqlc.arg(now), 1);

-- name: MovingOn :many
SELECT id FROM messages WHERE moves_on = 1 AND late = 0 AND state IN ('sending', 'sent');

-- name: StopLate :exec
UPDATE messages SET late = 0 WHERE id = ?;

-- name: SetMovesOn :exec
UPDATE messages SET moves_on = ? WHERE id = ?;

-- name: Resume :exec
UPDATE messages SET state = 'sending', ended_at = 0 WHERE id = ? AND state IN ('sending', 'sent');

-- name: StepStates :many
SELECT r.id, r.person_id, r.step, d.state, d.due_at, d.updated_at
FROM recipients r JOIN delivery_recipients dr ON dr.recipient_id = r.id JOIN deliveries d ON d.id = dr.delivery_id
WHERE r.message_id = ? AND d.step = r.step AND r.exhausted = 0 ORDER BY r.id;

-- name: SetStep :exec
UPDATE recipients SET step = ?, why = ? WHERE id = ?;

-- name: QueueDelivery :exec
UPDATE deliveries SET state = 'queued', queued_at = due_at WHERE id = ?;

-- name: Exhaust :exec
UPDATE recipients SET exhausted = 1 WHERE id = ?;
