-- name: NextMessageID :one
UPDATE message_ids SET last = max(last, (SELECT coalesce(max(m.id), 0) FROM messages m)) + 1 WHERE message_ids.id = 1 RETURNING last;

-- name: CountMessages :one
SELECT count(*) FROM messages WHERE apart = 0 AND account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)));

-- name: MessageTitles :many
SELECT id, title, state FROM messages WHERE apart = 0 AND account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)))
ORDER BY max(leaves_at, updated_at) DESC, id DESC LIMIT 10000;

-- name: DeleteDraft :execrows
DELETE FROM messages WHERE id = ? AND state = 'draft';

-- name: AskYes :execrows
UPDATE messages SET asked_by = sqlc.arg(asked_by), asked_revision = sqlc.arg(revision) WHERE id = sqlc.arg(id) AND state = 'draft' AND revision = sqlc.arg(revision);

-- name: PutConversation :exec
INSERT INTO conversations (address, number) VALUES (?, ?) ON CONFLICT (address) DO UPDATE SET number = excluded.number;

-- name: Conversations :many
SELECT address, number FROM conversations;

-- name: HoldMovingOn :exec
UPDATE messages SET late = 1 WHERE id = ?;

-- name: AliveAt :one
SELECT alive_at FROM organisation WHERE id = 1;

-- name: SetAlive :exec
UPDATE organisation SET alive_at = ? WHERE id = 1;

-- name: MessageLeftOut :many
SELECT * FROM left_out WHERE message_id = ? ORDER BY id;

-- name: AddFile :exec
INSERT INTO files (hash, media_type, size, account_id, added_at) VALUES (?, ?, ?, ?, ?) ON CONFLICT (hash) DO UPDATE SET added_at = excluded.added_at;

-- name: OldFiles :many
SELECT hash FROM files WHERE added_at < ?;

-- name: DropFile :exec
DELETE FROM files WHERE hash = ?;

-- name: DraftsWithFiles :many
SELECT draft FROM messages WHERE instr(draft, '"hash"')
UNION ALL SELECT draft FROM draft_versions WHERE instr(draft, '"hash"')
UNION ALL SELECT content FROM shelf_versions WHERE instr(content, '"hash"')
UNION ALL SELECT files FROM entries WHERE files <> '[]';

-- name: FileByHash :one
SELECT * FROM files WHERE hash = ?;

-- name: NearMessages :many
SELECT id, account_id, title, leaves_at FROM messages WHERE state <> 'draft' AND apart = 0 AND leaves_at >= sqlc.arg(earliest) AND leaves_at <= sqlc.arg(latest) ORDER BY leaves_at LIMIT 20;

-- name: PeopleOf :many
SELECT person_id FROM recipients WHERE message_id = ? AND person_id IS NOT NULL;

-- name: SetMovesOn :exec
UPDATE messages SET moves_on = ? WHERE id = ?;

-- name: AddMessage :exec
INSERT INTO messages (id, account_id, state, title, urgency, draft, follows, follows_as, created_at, updated_at)
VALUES (sqlc.arg(id), sqlc.arg(account_id), 'draft', sqlc.arg(title), sqlc.arg(urgency), sqlc.arg(draft), sqlc.arg(follows), sqlc.arg(follows_as),
    sqlc.arg(now), sqlc.arg(now));

-- name: SaveDraft :one
UPDATE messages SET title = ?, urgency = ?, draft = ?, follows = ?, follows_as = ?, updated_at = ?, revision = revision + 1
WHERE id = ? AND revision = ? AND state = 'draft' RETURNING revision;

-- name: Message :one
SELECT m.id, m.apart, m.account_id, m.state, m.title, m.urgency, m.revision, m.created_at, m.updated_at, m.sent_by, m.sent_at,
       m.leaves_at, m.scheduled, m.ended_at, m.stopped_at, a.name AS author, coalesce(s.name, '') AS sender,
       m.asked_by, m.asked_revision, coalesce(q.name, '') AS asker, coalesce(y.name, '') AS assenter, a.whole AS author_whole, a.units AS author_units,
       m.late, m.restored, m.late_yes_at, CAST(m.changes <> '' AS INTEGER) AS changed, m.paused_by, m.currency,
       coalesce(f.recipients, 0) AS recipients, coalesce(f.reached, 0) AS reached, coalesce(f.answered, 0) AS answered,
       coalesce(f.waiting, 0) AS waiting, coalesce(f.not_reached, 0) AS not_reached, coalesce(f.stopped, 0) AS stopped,
       coalesce(f.left_out, 0) AS left_out, coalesce(f.told, 0) AS told, coalesce(f.deliveries, 0) AS deliveries,
       coalesce(f.here, 0) AS here, coalesce(f.undecided, 0) AS undecided, coalesce(f.ended_early, 0) AS ended_early,
       coalesce(f.planned_cost, 0) AS planned_cost, coalesce(f.spent_cost, 0) AS spent_cost, coalesce(f.saved_cost, 0) AS saved_cost
FROM messages m JOIN accounts a ON a.id = m.account_id LEFT JOIN accounts s ON s.id = m.sent_by
     LEFT JOIN accounts q ON q.id = m.asked_by LEFT JOIN accounts y ON y.id = m.yes_by
     LEFT JOIN figures f ON f.message_id = m.id
WHERE m.id = ?;

-- name: DraftOf :one
SELECT draft FROM messages WHERE id = ?;

-- name: Messages :many
SELECT m.id, m.apart, m.account_id, m.state, m.title, m.urgency, m.revision, m.created_at, m.updated_at, m.sent_by, m.sent_at,
       m.leaves_at, m.scheduled, m.ended_at, m.stopped_at, a.name AS author, coalesce(s.name, '') AS sender,
       m.asked_by, m.asked_revision, coalesce(q.name, '') AS asker, coalesce(y.name, '') AS assenter, a.whole AS author_whole, a.units AS author_units,
       m.late, m.restored, m.late_yes_at, CAST(m.changes <> '' AS INTEGER) AS changed, m.paused_by, m.currency,
       coalesce(f.recipients, 0) AS recipients, coalesce(f.reached, 0) AS reached, coalesce(f.answered, 0) AS answered,
       coalesce(f.waiting, 0) AS waiting, coalesce(f.not_reached, 0) AS not_reached, coalesce(f.stopped, 0) AS stopped,
       coalesce(f.left_out, 0) AS left_out, coalesce(f.told, 0) AS told, coalesce(f.deliveries, 0) AS deliveries,
       coalesce(f.here, 0) AS here, coalesce(f.undecided, 0) AS undecided, coalesce(f.ended_early, 0) AS ended_early,
       coalesce(f.planned_cost, 0) AS planned_cost, coalesce(f.spent_cost, 0) AS spent_cost, coalesce(f.saved_cost, 0) AS saved_cost
FROM messages m JOIN accounts a ON a.id = m.account_id LEFT JOIN accounts s ON s.id = m.sent_by
     LEFT JOIN accounts q ON q.id = m.asked_by LEFT JOIN accounts y ON y.id = m.yes_by
     LEFT JOIN figures f ON f.message_id = m.id
-- The plus keeps the index of the order in use: it reads no more than a page.
WHERE m.apart = 0 AND +m.account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)))
ORDER BY max(m.leaves_at, m.updated_at) DESC, m.id DESC LIMIT sqlc.arg(count) OFFSET sqlc.arg(first);

-- name: HeadingsOf :many
SELECT m.id, m.apart, m.account_id, m.state, m.title, m.urgency, m.revision, m.created_at, m.updated_at, m.sent_by, m.sent_at,
       m.leaves_at, m.scheduled, m.ended_at, m.stopped_at, a.name AS author, coalesce(s.name, '') AS sender,
       m.asked_by, m.asked_revision, coalesce(q.name, '') AS asker, coalesce(y.name, '') AS assenter, a.whole AS author_whole, a.units AS author_units,
       m.late, m.restored, m.late_yes_at, CAST(m.changes <> '' AS INTEGER) AS changed, m.paused_by, m.currency,
       coalesce(f.recipients, 0) AS recipients, coalesce(f.reached, 0) AS reached, coalesce(f.answered, 0) AS answered,
       coalesce(f.waiting, 0) AS waiting, coalesce(f.not_reached, 0) AS not_reached, coalesce(f.stopped, 0) AS stopped,
       coalesce(f.left_out, 0) AS left_out, coalesce(f.told, 0) AS told, coalesce(f.deliveries, 0) AS deliveries,
       coalesce(f.here, 0) AS here, coalesce(f.undecided, 0) AS undecided, coalesce(f.ended_early, 0) AS ended_early,
       coalesce(f.planned_cost, 0) AS planned_cost, coalesce(f.spent_cost, 0) AS spent_cost, coalesce(f.saved_cost, 0) AS saved_cost
FROM messages m JOIN accounts a ON a.id = m.account_id LEFT JOIN accounts s ON s.id = m.sent_by
     LEFT JOIN accounts q ON q.id = m.asked_by LEFT JOIN accounts y ON y.id = m.yes_by
     LEFT JOIN figures f ON f.message_id = m.id
WHERE m.id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: SetFoundAs :exec
UPDATE messages SET found_as = ? WHERE id = ?;

-- name: Unfound :many
SELECT id FROM messages WHERE found_as = 0 AND apart = 0 LIMIT 200;

-- name: TargetsOf :many
SELECT target FROM copy_lines WHERE message_id = ? AND target <> '';

-- name: AddFact :exec
INSERT INTO message_facts (kind, value, message_id) VALUES (?, ?, ?) ON CONFLICT DO NOTHING;

-- name: DropFacts :exec
DELETE FROM message_facts WHERE message_id = ?;

-- name: ChannelsOf :many
SELECT DISTINCT channel FROM deliveries WHERE message_id = ?;

-- name: KeepSearch :one
INSERT INTO kept_searches (name, account_id, search) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET search = excluded.search RETURNING id;

-- name: KeptSearches :many
SELECT id, name, account_id, search FROM kept_searches ORDER BY name COLLATE NOCASE;

-- name: DropSearch :execrows
DELETE FROM kept_searches WHERE id = ?;

-- name: OpenMessages :many
SELECT m.id, m.apart, m.account_id, m.state, m.title, m.urgency, m.revision, m.created_at, m.updated_at, m.sent_by, m.sent_at,
       m.leaves_at, m.scheduled, m.ended_at, m.stopped_at, a.name AS author, coalesce(s.name, '') AS sender,
       m.asked_by, m.asked_revision, coalesce(q.name, '') AS asker, coalesce(y.name, '') AS assenter, a.whole AS author_whole, a.units AS author_units,
       m.late, m.restored, m.late_yes_at, CAST(m.changes <> '' AS INTEGER) AS changed, m.paused_by, m.currency,
       coalesce(f.recipients, 0) AS recipients, coalesce(f.reached, 0) AS reached, coalesce(f.answered, 0) AS answered,
       coalesce(f.waiting, 0) AS waiting, coalesce(f.not_reached, 0) AS not_reached, coalesce(f.stopped, 0) AS stopped,
       coalesce(f.left_out, 0) AS left_out, coalesce(f.told, 0) AS told, coalesce(f.deliveries, 0) AS deliveries,
       coalesce(f.here, 0) AS here, coalesce(f.undecided, 0) AS undecided, coalesce(f.ended_early, 0) AS ended_early,
       coalesce(f.planned_cost, 0) AS planned_cost, coalesce(f.spent_cost, 0) AS spent_cost, coalesce(f.saved_cost, 0) AS saved_cost
FROM messages m JOIN accounts a ON a.id = m.account_id LEFT JOIN accounts s ON s.id = m.sent_by
     LEFT JOIN accounts q ON q.id = m.asked_by LEFT JOIN accounts y ON y.id = m.yes_by
     LEFT JOIN figures f ON f.message_id = m.id
WHERE m.apart = 0 AND m.state IN ('draft', 'held', 'sending') AND m.account_id IN (SELECT value FROM json_each(CAST(sqlc.arg(accounts) AS TEXT)))
ORDER BY m.leaves_at, m.id LIMIT 2000;

-- name: HoldMessage :execrows
UPDATE messages SET state = 'held', sent_by = sqlc.arg(sent_by), yes_by = sqlc.arg(yes_by), sent_at = sqlc.arg(sent_at), leaves_at = sqlc.arg(leaves_at),
    scheduled = sqlc.arg(scheduled), released_at = 0, stopped_at = 0, revision = messages.revision + 1,
    looked_at = 0, changes = '', paused_by = '', expires_at = sqlc.arg(expires_at), currency = sqlc.arg(currency),
    job_id = (SELECT g.id FROM groups g WHERE g.id = CAST(sqlc.arg(job) AS INTEGER) AND g.kind = 'job'), planned_for = (SELECT o.revision FROM organisation o)
WHERE messages.id = sqlc.arg(id) AND messages.state = 'draft' AND messages.revision = sqlc.arg(revision);

-- name: UnholdMessage :execrows
UPDATE messages SET state = 'draft', sent_by = NULL, yes_by = NULL, sent_at = 0, leaves_at = 0, late = 0, paused_by = '', moves_on = 0, updated_at = sqlc.arg(now)
WHERE id = sqlc.arg(id) AND state = 'held';

-- name: ClearDeliveries :execrows
DELETE FROM deliveries WHERE id IN (SELECT d.id FROM deliveries d WHERE d.message_id = sqlc.arg(message_id) LIMIT sqlc.arg(most));

-- name: ClearRecipients :execrows
DELETE FROM recipients WHERE id IN (SELECT r.id FROM recipients r WHERE r.message_id = sqlc.arg(message_id) LIMIT sqlc.arg(most));

-- name: ClearLeftOut :execrows
DELETE FROM left_out WHERE id IN (SELECT l.id FROM left_out l WHERE l.message_id = sqlc.arg(message_id) LIMIT sqlc.arg(most));

-- name: ClearContents :execrows
DELETE FROM contents WHERE id IN (SELECT c.id FROM contents c WHERE c.message_id = sqlc.arg(message_id) LIMIT sqlc.arg(most));

-- name: ClearFigures :exec
DELETE FROM figures WHERE message_id = ?;

-- name: ClearSending :exec
DELETE FROM sendings WHERE message_id = ?;

-- name: LastIDs :one
SELECT CAST(coalesce((SELECT max(id) FROM recipients), 0) AS INTEGER) AS recipient, CAST(coalesce((SELECT max(id) FROM contents), 0) AS INTEGER) AS content,
    CAST(coalesce((SELECT max(id) FROM deliveries), 0) AS INTEGER) AS delivery;

-- name: ContentByHash :one
SELECT id FROM contents WHERE message_id = ? AND hash = ?;

-- name: PutSending :exec
INSERT INTO sendings (message_id, version, settings) VALUES (?, ?, ?) ON CONFLICT (message_id) DO UPDATE SET version = excluded.version, settings = excluded.settings;

-- name: Sending :one
SELECT version, settings FROM sendings WHERE message_id = ?;

-- name: AddTrial :exec
INSERT INTO messages (id, account_id, state, title, urgency, draft, created_at, updated_at, sent_by, sent_at, leaves_at, released_at, apart)
VALUES (sqlc.arg(id), sqlc.arg(account_id), 'sending', sqlc.arg(title), sqlc.arg(urgency), sqlc.arg(draft), sqlc.arg(now), sqlc.arg(now), sqlc.arg(account_id), sqlc.arg(now), sqlc.arg(now), sqlc.arg(now), 1);

-- name: PutFigures :exec
INSERT INTO figures (message_id, recipients, reached, answered, waiting, not_reached, stopped, left_out, told, deliveries, here, undecided, ended_early,
    planned_cost, spent_cost, saved_cost) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (message_id) DO UPDATE SET recipients = recipients + excluded.recipients, reached = reached + excluded.reached,
    answered = answered + excluded.answered, waiting = waiting + excluded.waiting, not_reached = not_reached + excluded.not_reached,
    stopped = stopped + excluded.stopped, left_out = left_out + excluded.left_out, told = told + excluded.told,
    deliveries = deliveries + excluded.deliveries, here = here + excluded.here, undecided = undecided + excluded.undecided,
    ended_early = ended_early + excluded.ended_early, planned_cost = planned_cost + excluded.planned_cost,
    spent_cost = spent_cost + excluded.spent_cost, saved_cost = saved_cost + excluded.saved_cost;

-- name: SetAtOnce :exec
UPDATE figures SET at_once = sqlc.arg(deliveries), at_once_cost = sqlc.arg(cost) WHERE message_id = sqlc.arg(message_id);

-- name: AtOnce :one
SELECT at_once, at_once_cost FROM figures WHERE message_id = ?;

-- name: EndMessages :many
UPDATE messages SET ended_at = sqlc.arg(now),
    state = CASE WHEN (SELECT f.ended_early FROM figures f WHERE f.message_id = messages.id) > 0 THEN 'stopped' ELSE 'sent' END
WHERE messages.id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT))) AND messages.state = 'sending'
    AND (SELECT f.here FROM figures f WHERE f.message_id = messages.id) = 0
RETURNING id;

-- name: OutcomesOf :many
SELECT r.id, r.message_id, r.outcome, r.answer, d.state
FROM recipients r JOIN delivery_recipients dr ON dr.recipient_id = r.id JOIN deliveries d ON d.id = dr.delivery_id
WHERE r.id IN (SELECT l.recipient_id FROM delivery_recipients l WHERE l.delivery_id IN (SELECT value FROM json_each(CAST(sqlc.arg(deliveries) AS TEXT))))
ORDER BY r.id;

-- name: SetOutcome :exec
UPDATE recipients SET outcome = ? WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: SetReachedAt :exec
UPDATE recipients SET reached_at = coalesce((SELECT min(d.arrived_at) FROM delivery_recipients l JOIN deliveries d ON d.id = l.delivery_id
    WHERE l.recipient_id = recipients.id AND d.arrived_at > 0), 0)
WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT))) AND reached_at = 0;

-- name: AddTries :exec
INSERT INTO tries (delivery_id, number, tried_at, carrier, state, code, detail)
SELECT d.id, d.attempts, sqlc.arg(now), json_extract(j.value, '$[1]'), json_extract(j.value, '$[2]'), json_extract(j.value, '$[3]'), json_extract(j.value, '$[4]')
FROM json_each(CAST(sqlc.arg(tries) AS TEXT)) j JOIN deliveries d ON d.id = json_extract(j.value, '$[0]') WHERE true
ON CONFLICT (delivery_id, number) DO NOTHING;

-- name: BeginRun :one
INSERT INTO runs (host, started_at) VALUES (?, ?) RETURNING id;

-- name: MessagesDue :many
SELECT id FROM messages WHERE state = 'held' AND late = 0 AND paused_by = '' AND leaves_at <= sqlc.arg(now) AND (scheduled = 0 OR looked_at >= leaves_at - sqlc.arg(lead));

-- name: ReleaseMessage :execrows
UPDATE messages SET state = 'sending', released_at = sqlc.arg(now) WHERE id = sqlc.arg(id) AND state = 'held' AND late = 0 AND paused_by = '' AND leaves_at <= sqlc.arg(now);

-- name: NextRelease :one
SELECT CAST(coalesce(min(leaves_at), 0) AS INTEGER) AS at FROM messages WHERE state = 'held' AND late = 0 AND paused_by = ''
    AND (scheduled = 0 OR looked_at >= leaves_at - sqlc.arg(lead) OR leaves_at > sqlc.arg(now));

-- name: ToLookAt :many
SELECT m.id, m.state, m.leaves_at FROM messages m JOIN organisation o ON o.id = 1 LEFT JOIN figures f ON f.message_id = m.id
WHERE m.apart = 0 AND m.late = 0 AND m.paused_by = '' AND (
    m.state = 'held' AND m.scheduled = 1 AND m.leaves_at <= CAST(sqlc.arg(horizon) AS INTEGER) AND m.looked_at < m.leaves_at - CAST(sqlc.arg(lead) AS INTEGER)
    OR m.state = 'sending' AND m.stopped_at = 0 AND m.planned_for < o.revision AND f.here > 0 AND m.looked_at <= CAST(sqlc.arg(before) AS INTEGER))
ORDER BY m.leaves_at;

-- name: LookedAt :execrows
UPDATE messages SET looked_at = sqlc.arg(now), planned_for = sqlc.arg(planned_for), late = sqlc.arg(waits),
    changes = CASE WHEN CAST(sqlc.arg(changes) AS TEXT) = '' THEN changes ELSE CAST(sqlc.arg(changes) AS TEXT) END
WHERE id = sqlc.arg(id) AND state = sqlc.arg(state) AND late = 0;

-- name: ChangesOf :one
SELECT changes FROM messages WHERE id = ?;

-- name: RosterRevision :one
SELECT revision FROM organisation WHERE id = 1;

-- name: PlannedFor :many
SELECT r.id, r.person_id, r.name, l.delivery_id, d.channel, d.address, d.state, d.cost, d.leased_by, c.hash
FROM recipients r JOIN delivery_recipients l ON l.recipient_id = r.id JOIN deliveries d ON d.id = l.delivery_id JOIN contents c ON c.id = d.content_id
WHERE r.message_id = ? ORDER BY r.id, d.id;

-- name: SharedBy :many
SELECT delivery_id, recipient_id FROM delivery_recipients WHERE delivery_id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: PartDelivery :one
INSERT INTO deliveries (message_id, content_id, channel, address, sender, step, parts, seconds, cost, key, state, queued_at, due_at, updated_at)
SELECT d.message_id, d.content_id, d.channel, d.address, d.sender, d.step, d.parts, d.seconds, 0, sqlc.arg(key), d.state, d.queued_at, d.due_at,
    sqlc.arg(now)
FROM deliveries d WHERE d.id = sqlc.arg(id)
RETURNING id;

-- name: MoveLink :exec
UPDATE delivery_recipients SET delivery_id = sqlc.arg(to_delivery)
WHERE delivery_id = sqlc.arg(from_delivery) AND recipient_id = sqlc.arg(recipient_id);

-- name: DropRecipients :exec
DELETE FROM recipients WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: LonelyDeliveries :many
SELECT d.id, d.cost FROM deliveries d WHERE d.message_id = ? AND NOT EXISTS (SELECT 1 FROM delivery_recipients l WHERE l.delivery_id = d.id);

-- name: DropDeliveries :exec
DELETE FROM deliveries WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: HoldLate :many
UPDATE messages SET late = 1 WHERE late = 0 AND apart = 0 AND (
    state = 'held' AND leaves_at < sqlc.arg(before)
    OR state = 'sending' AND EXISTS (
        SELECT 1 FROM deliveries d WHERE d.message_id = messages.id AND d.state IN ('queued', 'retrying') AND d.leased_by = 0
            AND max(d.due_at, messages.released_at) > sqlc.arg(alive_at) AND max(d.due_at, messages.released_at) < sqlc.arg(before)))
RETURNING id;

-- name: LetLateLeave :execrows
UPDATE messages SET late = 0, restored = 0, late_yes_at = sqlc.arg(now), late_yes_by = sqlc.arg(account_id), looked_at = 0,
    leaves_at = CASE WHEN state = 'held' THEN max(leaves_at, sqlc.arg(now)) ELSE leaves_at END,
    released_at = CASE WHEN state = 'sending' THEN sqlc.arg(now) ELSE released_at END
WHERE id = sqlc.arg(id) AND late = 1;

-- name: Leaving :many
SELECT id, urgency, released_at FROM messages WHERE state = 'sending' AND late = 0 AND stopped_at = 0 AND paused_by = ''
    AND (expires_at = 0 OR expires_at > sqlc.arg(now)) ORDER BY id;

-- name: Expired :many
SELECT m.id FROM messages m JOIN figures f ON f.message_id = m.id
WHERE m.state = 'sending' AND m.expires_at > 0 AND m.expires_at <= sqlc.arg(now) AND f.here > 0;

-- name: NextExpiry :one
SELECT CAST(coalesce(min(m.expires_at), 0) AS INTEGER) AS at FROM messages m JOIN figures f ON f.message_id = m.id
WHERE m.state = 'sending' AND m.expires_at > 0 AND f.here > 0;

-- name: Pause :execrows
UPDATE messages SET paused_by = sqlc.arg(by_name) WHERE id = sqlc.arg(id) AND state IN ('held', 'sending') AND stopped_at = 0
    AND (paused_by = '') = (CAST(sqlc.arg(by_name) AS TEXT) <> '');

-- name: Lease :many
UPDATE deliveries SET leased_by = sqlc.arg(run), leased_until = sqlc.arg(until)
WHERE id IN (SELECT d.id FROM deliveries d WHERE d.message_id = sqlc.arg(message_id) AND d.channel = sqlc.arg(channel)
    AND d.state IN ('queued', 'retrying') AND d.leased_by = 0 AND d.due_at <= sqlc.arg(now) ORDER BY d.due_at, d.id LIMIT sqlc.arg(most))
RETURNING id, message_id, content_id, address, sender, key, attempts, queued_at;

-- name: NextDue :one
SELECT CAST(coalesce(min((SELECT min(d.due_at) FROM deliveries d WHERE d.message_id = m.id AND d.channel = sqlc.arg(channel)
    AND d.state IN ('queued', 'retrying') AND d.leased_by = 0)), 0) AS INTEGER) AS at
FROM messages m WHERE m.state = 'sending' AND m.late = 0 AND m.stopped_at = 0;

-- name: ContentsOf :many
SELECT * FROM contents WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: DeliveriesNow :many
SELECT d.id, d.message_id, d.state, d.detail, d.cost, d.leased_by, m.stopped_at
FROM deliveries d JOIN messages m ON m.id = d.message_id WHERE d.id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: DeliveriesByKey :many
SELECT d.id, d.key, d.message_id, d.channel, d.address, d.state, d.cost
FROM deliveries d WHERE d.key IN (SELECT value FROM json_each(CAST(sqlc.arg(keys) AS TEXT)));

-- name: SetHandedOver :exec
UPDATE deliveries SET state = sqlc.arg(state), attempts = attempts + 1, due_at = sqlc.arg(due_at), detail = sqlc.arg(detail), updated_at = sqlc.arg(now),
    carrier = CASE WHEN CAST(sqlc.arg(taken) AS INTEGER) = 1 THEN CAST(sqlc.arg(carrier) AS TEXT) ELSE carrier END,
    -- It is written down a moment later than it was: a report may be older.
    handed_at = CASE WHEN CAST(sqlc.arg(taken) AS INTEGER) <> 1 THEN handed_at
        WHEN arrived_at > 0 THEN min(arrived_at, sqlc.arg(now)) ELSE sqlc.arg(now) END,
    leased_by = 0, leased_until = 0
WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: SetAside :exec
UPDATE deliveries SET state = sqlc.arg(state), detail = CASE WHEN CAST(sqlc.arg(detail) AS TEXT) = '' THEN detail ELSE CAST(sqlc.arg(detail) AS TEXT) END, updated_at = sqlc.arg(now),
    leased_by = 0, leased_until = 0
WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: EndLeases :exec
UPDATE deliveries SET leased_by = 0, leased_until = 0 WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: Postpone :exec
UPDATE deliveries SET due_at = sqlc.arg(due) WHERE id = sqlc.arg(id) AND state IN ('queued', 'retrying');

-- name: RunOutLeases :many
SELECT d.id, d.message_id, d.channel, d.state, d.cost, m.stopped_at
FROM deliveries d JOIN messages m ON m.id = d.message_id JOIN runs r ON r.id = d.leased_by
WHERE d.leased_by > 0 AND (d.leased_until < sqlc.arg(now) OR (r.host = sqlc.arg(host) AND d.leased_by < sqlc.arg(run)))
    AND d.id NOT IN (SELECT value FROM json_each(CAST(sqlc.arg(known) AS TEXT)))
LIMIT 10000;

-- name: SetStopped :exec
UPDATE messages SET stopped_at = max(stopped_at, sqlc.arg(now)), moves_on = 0, late = 0, paused_by = '' WHERE id = sqlc.arg(id) AND state IN ('sending', 'sent', 'stopped');

-- name: Resume :execrows
UPDATE messages SET state = 'sending', ended_at = 0 WHERE id = ? AND state IN ('sending', 'sent') AND stopped_at = 0;

-- name: MovingOn :many
SELECT id FROM messages WHERE moves_on = 1 AND paused_by = '' AND late = 0 AND stopped_at = 0 AND state IN ('sending', 'sent');

-- name: StepStates :many
SELECT r.id, r.person_id, r.step, d.state, CAST(max(d.due_at, m.released_at) AS INTEGER) AS due_at, d.updated_at
FROM recipients r JOIN messages m ON m.id = r.message_id JOIN delivery_recipients dr ON dr.recipient_id = r.id JOIN deliveries d ON d.id = dr.delivery_id
WHERE r.message_id = ? AND d.step = r.step AND r.exhausted = 0 AND r.answer = 0 ORDER BY r.id;

-- name: SetStep :execrows
UPDATE recipients SET step = sqlc.arg(step), why = sqlc.arg(why) WHERE id = sqlc.arg(id) AND step < sqlc.arg(step);

-- name: Exhaust :exec
UPDATE recipients SET exhausted = 1 WHERE id = ?;

-- name: MessageDeliveries :many
SELECT d.*, c.subject, c.body, c.html, c.link, CAST(m.state = 'held' OR m.late AS INTEGER) AS held
FROM deliveries d JOIN contents c ON c.id = d.content_id JOIN messages m ON m.id = d.message_id WHERE d.message_id = ? ORDER BY d.id;

-- name: RecipientsPage :many
SELECT r.id, r.person_id, r.name, r.language, r.step, r.why, r.outcome FROM recipients r
WHERE r.message_id = sqlc.arg(message_id)
    AND r.outcome IN (SELECT value FROM json_each(CAST(sqlc.arg(outcomes) AS TEXT)))
    AND (CAST(sqlc.arg(wanted) AS TEXT) = '' OR instr(folded(r.name), CAST(sqlc.arg(wanted) AS TEXT)) > 0
        OR EXISTS (SELECT 1 FROM delivery_recipients l JOIN deliveries d ON d.id = l.delivery_id WHERE l.recipient_id = r.id
            AND instr(lower(d.address), CAST(sqlc.arg(address) AS TEXT)) > 0))
ORDER BY r.step, r.id LIMIT sqlc.arg(count) OFFSET sqlc.arg(first);

-- name: RecipientsAfter :many
SELECT r.id, r.person_id, r.name, r.language, r.step, r.why, r.outcome FROM recipients r
WHERE r.message_id = sqlc.arg(message_id) AND r.id > sqlc.arg(after) ORDER BY r.id LIMIT sqlc.arg(count);

-- name: CountRecipients :one
SELECT count(*) FROM recipients r
WHERE r.message_id = sqlc.arg(message_id)
    AND r.outcome IN (SELECT value FROM json_each(CAST(sqlc.arg(outcomes) AS TEXT)))
    AND (CAST(sqlc.arg(wanted) AS TEXT) = '' OR instr(folded(r.name), CAST(sqlc.arg(wanted) AS TEXT)) > 0
        OR EXISTS (SELECT 1 FROM delivery_recipients l JOIN deliveries d ON d.id = l.delivery_id WHERE l.recipient_id = r.id
            AND instr(lower(d.address), CAST(sqlc.arg(address) AS TEXT)) > 0));

-- name: DeliveriesOfRecipients :many
SELECT l.recipient_id, d.channel, d.address, d.cost, d.state, d.attempts, d.detail, d.updated_at
FROM delivery_recipients l JOIN deliveries d ON d.id = l.delivery_id
WHERE l.recipient_id IN (SELECT value FROM json_each(CAST(sqlc.arg(recipients) AS TEXT))) ORDER BY l.recipient_id, d.id;

-- name: Recipient :one
SELECT id, person_id, name, language, copy, step, why, outcome, aside, reached_at FROM recipients WHERE id = ? AND message_id = ?;

-- name: StoryDeliveries :many
SELECT d.id, d.channel, d.address, d.sender, d.step, d.parts, d.seconds, d.cost, d.state, d.attempts, d.detail, d.updated_at, d.carrier,
    d.handed_at, d.arrived_at, CAST(max(d.queued_at, m.released_at) AS INTEGER) AS free_at, CAST(m.state = 'held' OR m.late AS INTEGER) AS held,
    d.content_id, (SELECT count(*) FROM delivery_recipients o WHERE o.delivery_id = d.id) AS recipients
FROM delivery_recipients l JOIN deliveries d ON d.id = l.delivery_id JOIN messages m ON m.id = d.message_id
WHERE l.recipient_id = ? ORDER BY d.step, d.id;

-- name: Moments :many
SELECT d.channel, 'free' AS what, CAST(max(d.queued_at, m.released_at) / 100 AS INTEGER) AS tenth, count(*) AS deliveries
FROM deliveries d JOIN messages m ON m.id = d.message_id WHERE d.message_id = sqlc.arg(message_id) AND m.released_at > 0 AND d.state <> 'stopped' GROUP BY 1, 3
UNION ALL SELECT channel, 'left' AS what, CAST(handed_at / 100 AS INTEGER) AS tenth, count(*) AS deliveries
FROM deliveries WHERE message_id = sqlc.arg(message_id) AND handed_at > 0 GROUP BY 1, 3
UNION ALL SELECT channel, 'arrived' AS what, CAST(arrived_at / 100 AS INTEGER) AS tenth, count(*) AS deliveries
FROM deliveries WHERE message_id = sqlc.arg(message_id) AND arrived_at > 0 GROUP BY 1, 3;

-- name: ReachedAts :many
SELECT reached_at FROM recipients WHERE message_id = ? AND reached_at > 0 ORDER BY reached_at;

-- name: ReleasedAt :one
SELECT released_at FROM messages WHERE id = ?;

-- name: TriesOf :many
SELECT delivery_id, tried_at, carrier, state, code, detail FROM tries
WHERE delivery_id IN (SELECT value FROM json_each(CAST(sqlc.arg(deliveries) AS TEXT))) ORDER BY delivery_id, number;

-- name: ReportsOf :many
SELECT delivery_id, state, code, detail, occurred_at, received_at FROM reports
WHERE delivery_id IN (SELECT value FROM json_each(CAST(sqlc.arg(deliveries) AS TEXT))) ORDER BY delivery_id, occurred_at, received_at;

-- name: RecipientStates :many
SELECT l.recipient_id, r.person_id, d.channel, d.state
FROM recipients r JOIN delivery_recipients l ON l.recipient_id = r.id JOIN deliveries d ON d.id = l.delivery_id
WHERE r.message_id = ? ORDER BY r.step, r.id, d.id;

-- name: Chain :many
SELECT r.person_id, r.outcome, l.recipient_id, d.channel, d.address, d.state
FROM messages m JOIN recipients r ON r.message_id = m.id JOIN delivery_recipients l ON l.recipient_id = r.id
    JOIN deliveries d ON d.id = l.delivery_id
WHERE (m.id = sqlc.arg(first) OR m.follows = sqlc.arg(first)) AND m.id <> sqlc.arg(besides) AND m.state <> 'draft'
    AND (m.id = sqlc.arg(first) OR m.follows_as IN ('again', 'further', 'unanswered'));

-- name: Missed :many
SELECT r.id, r.person_id, r.name, r.step, d.channel, d.address, d.detail
FROM recipients r JOIN delivery_recipients l ON l.recipient_id = r.id JOIN deliveries d ON d.id = l.delivery_id
WHERE r.message_id = ? AND r.outcome = 'not-reached' ORDER BY r.step, r.id, d.id;

-- name: Hands :many
SELECT h.person_id, h.given_to, coalesce(g.name, '') AS given, coalesce(d.name, '') AS done, h.done_at
FROM hands h LEFT JOIN accounts g ON g.id = h.given_to LEFT JOIN accounts d ON d.id = h.done_by WHERE h.message_id = ?;

-- name: GiveHands :exec
INSERT INTO hands (message_id, person_id, given_to, given_by)
SELECT sqlc.arg(message_id), p.id, sqlc.arg(given_to), sqlc.arg(given_by) FROM people p
WHERE p.id IN (SELECT value FROM json_each(CAST(sqlc.arg(people) AS TEXT)))
ON CONFLICT (message_id, person_id) DO UPDATE SET given_to = excluded.given_to, given_by = excluded.given_by;

-- name: TickHands :exec
INSERT INTO hands (message_id, person_id, done_by, done_at)
SELECT sqlc.arg(message_id), p.id, sqlc.arg(done_by), sqlc.arg(done_at) FROM people p
WHERE p.id IN (SELECT value FROM json_each(CAST(sqlc.arg(people) AS TEXT)))
ON CONFLICT (message_id, person_id) DO UPDATE SET done_by = excluded.done_by, done_at = excluded.done_at;

-- name: HandsOf :many
SELECT h.message_id, m.title, count(*) AS people FROM hands h JOIN messages m ON m.id = h.message_id
WHERE h.given_to = ? AND h.done_at = 0 GROUP BY h.message_id ORDER BY h.message_id DESC LIMIT 20;

-- name: Followers :many
SELECT id, account_id, follows_as, title, state FROM messages WHERE follows = ? ORDER BY id LIMIT 200;

-- name: Follows :one
SELECT follows, follows_as FROM messages WHERE id = ?;

-- name: CountSteps :many
SELECT step, count(*) AS people FROM recipients WHERE message_id = ? GROUP BY step;

-- name: CountLanguages :many
SELECT language, copy, count(*) AS people FROM recipients WHERE message_id = ? GROUP BY language, copy;

-- name: WhoGot :many
SELECT r.person_id, d.address FROM recipients r JOIN delivery_recipients l ON l.recipient_id = r.id JOIN deliveries d ON d.id = l.delivery_id
WHERE r.message_id = sqlc.arg(message_id) AND d.state IN ('undecided', 'carrier', 'arrived', 'opened', 'answered')
    AND (CAST(sqlc.arg(copy) AS TEXT) = '' OR r.copy = CAST(sqlc.arg(copy) AS TEXT))
ORDER BY r.person_id, d.id;

-- name: Failures :many
SELECT detail, CAST(state = 'retrying' AS INTEGER) AS retrying, count(*) AS deliveries FROM deliveries
WHERE message_id = ? AND state IN ('retrying', 'failed', 'expired', 'undecided') AND state <> 'undecided' GROUP BY 1, 2;

-- name: Loads :many
SELECT r.person_id, m.urgency, count(*) AS messages
FROM messages m JOIN recipients r ON r.message_id = m.id
WHERE m.state <> 'draft' AND m.apart = 0 AND m.sent_at >= ? AND r.person_id IS NOT NULL GROUP BY 1, 2;

-- name: Spent :many
SELECT a.whole, a.units, CAST(sum(f.planned_cost - f.saved_cost) AS INTEGER) AS cost
FROM messages m JOIN accounts a ON a.id = m.account_id JOIN figures f ON f.message_id = m.id
WHERE m.state <> 'draft' AND m.leaves_at >= ? GROUP BY 1, 2;

-- name: UnfinishedPlans :many
SELECT m.id FROM messages m WHERE m.state = 'draft' AND (EXISTS (SELECT 1 FROM recipients r WHERE r.message_id = m.id)
    OR EXISTS (SELECT 1 FROM left_out l WHERE l.message_id = m.id) OR EXISTS (SELECT 1 FROM contents c WHERE c.message_id = m.id)
    OR EXISTS (SELECT 1 FROM figures f WHERE f.message_id = m.id));

-- name: DeliveriesHere :many
SELECT id, state, cost FROM deliveries WHERE message_id = ? AND state IN ('queued', 'retrying') AND leased_by = 0 LIMIT ?;

-- name: UnfinishedStops :many
SELECT id FROM messages WHERE state = 'sending' AND stopped_at > 0;

-- name: AddReports :many
INSERT INTO reports (delivery_id, report_key, state, detail, occurred_at, code, received_at)
SELECT json_extract(value, '$[0]'), json_extract(value, '$[1]'), json_extract(value, '$[2]'), json_extract(value, '$[3]'), json_extract(value, '$[4]'),
    json_extract(value, '$[5]'), sqlc.arg(now) FROM json_each(CAST(sqlc.arg(reports) AS TEXT)) WHERE true
ON CONFLICT (delivery_id, report_key) DO NOTHING RETURNING delivery_id, report_key;

-- name: DeliveriesUndecided :many
SELECT id, state, cost FROM deliveries WHERE message_id = ? AND state IN ('retrying', 'failed', 'expired', 'undecided') AND state = 'undecided';

-- name: QueueAgain :exec
UPDATE deliveries SET state = 'queued', due_at = sqlc.arg(now), queued_at = sqlc.arg(now), updated_at = sqlc.arg(now)
WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: OutcomeOf :one
SELECT outcome FROM recipients WHERE id = ?;

-- name: DraftsOf :many
SELECT id, draft FROM messages WHERE id IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));


-- name: HoldRestored :execrows
UPDATE messages SET late = 1, restored = sqlc.arg(made) WHERE state = 'sending' OR state = 'held' AND leaves_at <= sqlc.arg(now) OR moves_on = 1;

-- name: StopAwaitingRestored :exec
UPDATE awaiting SET failed = sqlc.arg(failed) WHERE failed = '';

-- name: EndAllSessions :exec
DELETE FROM sessions;

-- name: KnownFiles :many
SELECT hash FROM files ORDER BY hash;
