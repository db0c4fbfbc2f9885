-- name: LastQuestion :one
SELECT d.id, d.message_id, d.key, m.apart, m.draft, c.parts, CAST(d.state IN ('queued', 'retrying', 'stopped') AS INTEGER) AS leaving FROM deliveries d
    JOIN messages m ON m.id = d.message_id JOIN contents c ON c.id = d.content_id
WHERE d.address = sqlc.arg(address) AND d.channel = sqlc.arg(channel) AND d.updated_at >= sqlc.arg(since) AND m.apart = 0
    AND instr(c.parts, '"choices"') AND (d.state NOT IN ('queued', 'retrying', 'stopped') OR d.leased_by > 0)
ORDER BY d.updated_at DESC, d.id DESC LIMIT 1;

-- name: AddAnswerGiven :execrows
INSERT INTO answers (message_id, person_id, channel, address, number, minutes, remark, at, account_id, source)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (source) DO NOTHING;

-- name: ChainOf :many
WITH me AS (SELECT m.id, CASE WHEN m.follows = 0 THEN m.id WHEN m.follows_as IN ('again', 'further', 'unanswered') THEN m.follows ELSE 0 END AS root
    FROM messages m WHERE m.id = sqlc.arg(message))
SELECT me.id FROM me
UNION SELECT c.id FROM me JOIN messages c ON c.id = me.root
UNION SELECT c.id FROM me JOIN messages c ON c.follows = me.root AND c.follows > 0
    WHERE c.follows_as IN ('again', 'further', 'unanswered') AND c.state <> 'draft';

-- name: RecipientsAsked :many
SELECT id, message_id, outcome, answered_at FROM recipients
WHERE message_id IN (SELECT value FROM json_each(CAST(sqlc.arg(messages) AS TEXT))) AND person_id = sqlc.arg(person_id);

-- name: StrangersAsked :many
SELECT r.id, r.message_id, r.outcome, r.answered_at FROM recipients r
WHERE r.message_id IN (SELECT value FROM json_each(CAST(sqlc.arg(messages) AS TEXT))) AND r.person_id IS NULL
    AND r.id IN (SELECT l.recipient_id FROM delivery_recipients l JOIN deliveries d ON d.id = l.delivery_id
        WHERE d.message_id = r.message_id AND d.address = sqlc.arg(address));

-- name: SetAnswer :exec
UPDATE recipients SET answer = sqlc.arg(answer), minutes = sqlc.arg(minutes), answered_at = sqlc.arg(at), outcome = 'answered'
WHERE id = sqlc.arg(id);

-- name: CountFilling :one
SELECT count(*) FROM recipients WHERE message_id = sqlc.arg(message_id)
    AND answer IN (SELECT value FROM json_each(CAST(sqlc.arg(answers) AS TEXT)));

-- name: SetFilled :execrows
UPDATE messages SET filled_at = sqlc.arg(now) WHERE id = sqlc.arg(id) AND filled_at = 0;

-- name: FilledUntold :many
SELECT id FROM messages WHERE filled_at > 0 AND filled_told = 0;

-- name: SetFilledTold :exec
UPDATE messages SET filled_told = 1 WHERE id = ?;

-- name: FilledAt :one
SELECT filled_at FROM messages WHERE id = ?;

-- name: Board :many
SELECT r.id, coalesce(r.person_id, 0) AS person_id, r.name, r.outcome, r.answer, r.minutes, r.answered_at
FROM recipients r WHERE r.message_id = ? ORDER BY r.id;

-- name: WroteTo :many
SELECT DISTINCT t.person_id FROM entries e JOIN threads t ON t.id = e.thread_id
WHERE e.message_id = ? AND e.kind = 'in' AND t.person_id IS NOT NULL;

-- name: LatestAnswers :many
SELECT a.id, a.person_id, coalesce(p.name, '') AS written_by, a.channel, a.address, a.number, a.minutes, a.remark, a.at
FROM answers a LEFT JOIN accounts p ON p.id = a.account_id
WHERE a.message_id IN (SELECT value FROM json_each(CAST(sqlc.arg(messages) AS TEXT))) ORDER BY a.at DESC, a.id DESC LIMIT sqlc.arg(most);

-- name: UnclearFrom :many
SELECT a.id, a.message_id, a.number, a.minutes, a.at FROM answers a WHERE a.address = ? AND a.person_id IS NULL ORDER BY a.at, a.id;

-- name: CountUnclear :one
SELECT count(DISTINCT a.address) FROM (SELECT DISTINCT address, message_id FROM answers INDEXED BY answers_address
    WHERE person_id IS NULL AND message_id IN (SELECT value FROM json_each(CAST(sqlc.arg(messages) AS TEXT)))) a
WHERE EXISTS (SELECT 1 FROM deliveries d JOIN delivery_recipients l ON l.delivery_id = d.id JOIN recipients r ON r.id = l.recipient_id
    WHERE d.address = a.address AND +d.message_id = a.message_id AND r.person_id IS NOT NULL);

-- name: NameAnswer :exec
UPDATE answers SET person_id = sqlc.arg(person_id) WHERE id = sqlc.arg(id);

-- name: AskedOfDelivery :many
SELECT r.id, r.person_id, r.name, r.outcome, r.answer, r.minutes, r.answered_at
FROM recipients r JOIN delivery_recipients l ON l.recipient_id = r.id WHERE l.delivery_id = ? ORDER BY r.id;

-- name: Asking :many
SELECT id FROM messages WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT))) AND instr(draft, '"question"');
