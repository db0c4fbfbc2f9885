-- name: AddKeptPage :one
INSERT INTO kept_pages (person_id, hash, kind, device, kept_at, seen_at)
VALUES (sqlc.arg(person_id), sqlc.arg(hash), sqlc.arg(kind), sqlc.arg(device), sqlc.arg(now), sqlc.arg(now)) RETURNING id;

-- name: KeptPage :one
SELECT k.id, CAST(coalesce(p.merged_into, p.id) AS INTEGER) AS person_id, k.kind, k.device, k.kept_at, k.seen_at
FROM kept_pages k JOIN people p ON p.id = k.person_id WHERE k.hash = ?;

-- name: KeptPagesOf :many
SELECT k.id, k.person_id, k.kind, k.device, k.kept_at, k.seen_at FROM kept_pages k JOIN people p ON p.id = k.person_id
WHERE p.id = sqlc.arg(person_id) OR p.merged_into = sqlc.arg(person_id) ORDER BY k.id;

-- name: DropKeptPage :execrows
DELETE FROM kept_pages WHERE id = ?;

-- name: SeeKeptPage :exec
UPDATE kept_pages SET seen_at = sqlc.arg(now) WHERE id = sqlc.arg(id);

-- name: KeptDevice :one
SELECT count(*) FROM kept_pages WHERE device = ?;

-- name: DropDevice :exec
DELETE FROM devices WHERE name = ?;

-- name: AddPairing :exec
INSERT INTO pairings (code, hash, network, made_at) VALUES (?, ?, ?, ?);

-- name: Pairing :one
SELECT hash FROM pairings WHERE code = sqlc.arg(code) AND made_at > sqlc.arg(since);

-- name: DropPairing :exec
DELETE FROM pairings WHERE code = ?;

-- name: DropOldPairings :exec
DELETE FROM pairings WHERE made_at <= ?;

-- name: CountPairings :one
SELECT count(*) FROM pairings WHERE network = ?;

-- name: GotBy :many
WITH me AS (SELECT p.id FROM people p WHERE p.id = sqlc.arg(person_id) OR p.merged_into = sqlc.arg(person_id)),
theirs AS (
    SELECT r.message_id, l.delivery_id, r.answer, r.minutes
    FROM recipients r JOIN delivery_recipients l ON l.recipient_id = r.id WHERE r.person_id IN (SELECT me.id FROM me)
    UNION ALL SELECT e.message_id, d.id, 0, 0
    FROM threads t JOIN entries e ON e.thread_id = t.id AND e.kind = 'out' JOIN deliveries d ON d.message_id = e.message_id
    WHERE t.person_id IN (SELECT me.id FROM me) AND t.kind = 'one'
)
SELECT m.id AS message_id, CAST(theirs.answer AS INTEGER) AS answer, CAST(theirs.minutes AS INTEGER) AS minutes, m.apart, m.urgency, m.draft,
    coalesce(m.job_id, 0) AS job_id, d.id AS delivery_id, d.key, d.channel, d.address, d.state, d.queued_at, c.subject, c.body, c.parts, c.language, c.link,
    CAST(coalesce((SELECT e.interrupts FROM entries e WHERE e.message_id = m.id AND e.kind = 'out'), 0) AS INTEGER) AS interrupts,
    CAST(coalesce((SELECT t.group_id FROM entries e JOIN threads t ON t.id = e.thread_id
        WHERE t.kind = 'job' AND (e.message_id = m.id AND e.kind = 'out' OR e.passed_id = m.id)), 0) AS INTEGER) AS in_job
FROM theirs JOIN messages m ON m.id = theirs.message_id JOIN deliveries d ON d.id = theirs.delivery_id JOIN contents c ON c.id = d.content_id
WHERE m.apart <> 1 AND d.queued_at >= sqlc.arg(since) AND d.state IN ('carrier', 'arrived', 'opened', 'answered', 'failed', 'undecided')
ORDER BY d.queued_at DESC, d.id LIMIT sqlc.arg(most);

-- name: WroteAs :many
SELECT e.id, e.at, e.said, e.files, e.message_id, e.source FROM entries e
WHERE e.person_id IN (SELECT p.id FROM people p WHERE p.id = sqlc.arg(person_id) OR p.merged_into = sqlc.arg(person_id))
    AND e.kind = 'in' AND e.at >= sqlc.arg(since) ORDER BY e.at DESC LIMIT sqlc.arg(most);

-- name: CountWrittenBack :one
SELECT count(*) FROM entries WHERE source >= sqlc.arg(first) AND source < sqlc.arg(past) AND at > sqlc.arg(since);

-- name: CountWrittenOnPage :one
SELECT count(*) FROM entries e WHERE e.person_id = sqlc.arg(person_id) AND e.at > sqlc.arg(since) AND e.source LIKE 'page %';
