-- name: Desks :many
SELECT id, name, settings FROM desks ORDER BY id;

-- name: DeskMembers :many
SELECT m.desk_id, m.account_id FROM desk_members m JOIN accounts a ON a.id = m.account_id WHERE a.active = 1 ORDER BY m.desk_id, a.name;

-- name: AddDesk :one
INSERT INTO desks (name, settings) VALUES (?, ?) RETURNING id;

-- name: SetDesk :execrows
UPDATE desks SET name = ?, settings = ? WHERE id = ?;

-- name: DropDesk :execrows
DELETE FROM desks WHERE id = ?;

-- name: ClearDeskMembers :exec
DELETE FROM desk_members WHERE desk_id = ?;

-- name: AddDeskMember :exec
INSERT INTO desk_members (desk_id, account_id) VALUES (?, ?);

-- name: DeskThreads :one
SELECT count(*) FROM threads WHERE desk_id = ?;

-- name: Unplaced :many
SELECT id FROM threads WHERE desk_id IS NULL ORDER BY id;

-- name: PlaceThread :exec
UPDATE threads SET desk_id = sqlc.arg(desk_id) WHERE id = sqlc.arg(id);

-- name: EntryBySource :one
SELECT thread_id FROM entries WHERE source = ?;

-- name: ThreadsOfPerson :many
SELECT t.id, t.desk_id, t.person_id FROM threads t
WHERE t.person_id = sqlc.arg(person_id) OR t.person_id IN (SELECT p.id FROM people p WHERE p.merged_into = sqlc.arg(person_id))
ORDER BY t.last_at DESC;

-- name: ThreadsOfAddress :many
SELECT id, desk_id FROM threads WHERE address = ? AND kind = 'one' AND person_id IS NULL ORDER BY last_at DESC;

-- name: AddThread :one
INSERT INTO threads (desk_id, person_id, name, channel, address, message_id, waits, since, unread, last_at, last_text)
VALUES (?, ?, ?, ?, ?, ?, 'quiet', sqlc.arg(now), 0, sqlc.arg(now), '') RETURNING id;

-- name: Thread :one
SELECT t.*, coalesce(a.name, '') AS holder, coalesce(m.title, '') AS title, coalesce(m.apart, 0) AS apart
FROM threads t LEFT JOIN accounts a ON a.id = t.holder_id LEFT JOIN messages m ON m.id = t.message_id WHERE t.id = ?;

-- name: SetStanding :exec
UPDATE threads SET waits = ?, since = ?, unread = ?, back_at = ? WHERE id = ?;

-- name: ThreadHeard :exec
UPDATE threads SET channel = coalesce(nullif(sqlc.arg(channel), ''), channel), address = coalesce(nullif(sqlc.arg(address), ''), address),
    message_id = coalesce(sqlc.narg(message_id), message_id),
    last_at = max(last_at, sqlc.arg(at)), last_text = sqlc.arg(last_text), last_from = '' WHERE id = sqlc.arg(id);

-- name: ThreadSaid :exec
UPDATE threads SET last_at = max(last_at, sqlc.arg(at)), last_text = sqlc.arg(last_text), last_from = '' WHERE id = sqlc.arg(id);

-- name: ThreadReads :exec
UPDATE threads SET last_text = sqlc.arg(last_text), last_from = sqlc.arg(last_from)
WHERE id = sqlc.arg(id) AND last_text = sqlc.arg(said);

-- name: ReadThread :exec
UPDATE threads SET unread = 0 WHERE id = ?;

-- name: HoldThread :exec
UPDATE threads SET holder_id = sqlc.arg(holder_id) WHERE id = sqlc.arg(id);

-- name: LeaveThread :exec
UPDATE threads SET left_note = ? WHERE id = ?;

-- name: NameThread :exec
UPDATE threads SET person_id = sqlc.arg(person_id), name = sqlc.arg(name) WHERE id = sqlc.arg(id);

-- name: MoveEntries :exec
UPDATE entries SET thread_id = sqlc.arg(into_id) WHERE thread_id = sqlc.arg(from_id);

-- name: DropThread :exec
DELETE FROM threads WHERE id = ?;

-- name: ThreadsPassing :many
SELECT id, waits, since, unread, back_at FROM threads
WHERE back_at > 0 AND back_at <= sqlc.arg(now) OR waits = 'them' AND since <= sqlc.arg(silent) LIMIT 500;

-- name: CountThreads :many
SELECT waits, count(*) AS threads, CAST(sum(unread) AS INTEGER) AS unread FROM threads WHERE desk_id = ? GROUP BY waits;

-- name: WaitingForUs :many
SELECT desk_id, count(*) AS threads, CAST(sum(unread) AS INTEGER) AS unread, CAST(min(since) AS INTEGER) AS oldest
FROM threads WHERE desk_id IN (SELECT value FROM json_each(CAST(sqlc.arg(desks) AS TEXT))) AND waits = 'us' GROUP BY desk_id;

-- name: AddEntry :one
INSERT INTO entries (thread_id, kind, at, channel, address, name, account_id, subject, said, folded, files, dropped, message_id, source, language, copy, checked,
    person_id, interrupts)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id;

-- name: Entries :many
SELECT e.id, e.kind, e.at, e.channel, e.address, e.name, e.account_id, e.subject, e.said, e.folded, e.files, e.dropped, e.message_id,
    e.language, e.copy, e.checked, e.person_id, e.passed_id, e.interrupts,
    coalesce(m.title, '') AS title, coalesce(m.apart, 0) AS apart, coalesce(m.leaves_at, 0) AS leaves_at, coalesce(m.state, '') AS held,
    CAST(coalesce((SELECT d.state FROM deliveries d WHERE d.message_id = e.message_id ORDER BY d.id LIMIT 1), '') AS TEXT) AS state,
    CAST(coalesce((SELECT d.detail FROM deliveries d WHERE d.message_id = e.message_id ORDER BY d.id LIMIT 1), '') AS TEXT) AS detail,
    CAST(coalesce((SELECT d.updated_at FROM deliveries d WHERE d.message_id = e.message_id ORDER BY d.id LIMIT 1), 0) AS INTEGER) AS moved_at,
    coalesce(f.recipients, 0) AS recipients, coalesce(f.reached, 0) AS reached, coalesce(f.waiting, 0) AS waiting,
    coalesce(f.not_reached, 0) AS not_reached, coalesce(f.left_out, 0) AS left_out
FROM entries e LEFT JOIN messages m ON m.id = e.message_id
    LEFT JOIN figures f ON f.message_id = CASE e.kind WHEN 'out' THEN e.message_id ELSE e.passed_id END
WHERE e.thread_id = sqlc.arg(thread_id) ORDER BY e.at DESC, e.id DESC LIMIT sqlc.arg(count);

-- name: EntryOfMessage :one
SELECT id, thread_id, said, channel, address, files FROM entries WHERE message_id = sqlc.arg(message_id) AND kind = 'out';

-- name: DeskOfAnswer :one
SELECT t.desk_id FROM threads t WHERE t.id IN (
    SELECT e.thread_id FROM entries e WHERE e.message_id = sqlc.arg(message_id) AND e.kind = 'out'
    UNION ALL SELECT p.thread_id FROM entries p WHERE p.passed_id = sqlc.arg(message_id));

-- name: CopyEntry :one
UPDATE entries SET language = sqlc.arg(language), copy = sqlc.arg(copy), checked = sqlc.arg(checked)
WHERE id = sqlc.arg(id) AND thread_id = sqlc.arg(thread_id) AND kind IN ('in', 'automatic') RETURNING said;

-- name: Uncopied :many
SELECT e.id, e.thread_id, t.desk_id, e.said, p.language FROM entries e JOIN threads t ON t.id = e.thread_id JOIN people p ON p.id = coalesce(e.person_id, t.person_id)
WHERE e.thread_id = sqlc.arg(thread_id) AND e.kind = 'in' AND e.copy = '' AND e.said <> '' AND p.language <> '' ORDER BY e.id DESC LIMIT 20;

-- name: NewlyUncopied :many
SELECT e.id, e.thread_id, t.desk_id, e.said, p.language FROM entries e JOIN threads t ON t.id = e.thread_id
    JOIN people p ON p.id = coalesce(e.person_id, t.person_id)
WHERE e.id > sqlc.arg(after) AND e.id > (SELECT max(n.id) FROM entries n) - sqlc.arg(latest)
    AND e.kind = 'in' AND e.copy = '' AND e.said <> '' AND p.language <> '' ORDER BY e.id LIMIT sqlc.arg(most);

-- name: DropEntry :exec
DELETE FROM entries WHERE id = ?;

-- name: LastEntry :one
SELECT kind, at, said FROM entries WHERE thread_id = ? AND kind <> 'note' AND (kind <> 'out' OR account_id IS NOT NULL)
ORDER BY at DESC, id DESC LIMIT 1;

-- name: LastDelivery :one
SELECT d.id, d.message_id, d.key, m.apart, m.draft, c.parts, CAST(d.state IN ('queued', 'retrying', 'stopped') AS INTEGER) AS leaving
FROM deliveries d JOIN messages m ON m.id = d.message_id
    JOIN contents c ON c.id = d.content_id
WHERE d.address = sqlc.arg(address) AND d.channel = sqlc.arg(channel) AND d.updated_at >= sqlc.arg(since) AND m.apart <> 1
    AND (d.state NOT IN ('queued', 'retrying', 'stopped') OR d.leased_by > 0) -- it may be answered before we know that it left
ORDER BY d.updated_at DESC, d.id DESC LIMIT 1;

-- name: CountSentFrom :one
SELECT count(*) FROM (SELECT 1 FROM deliveries WHERE address = sqlc.arg(address) AND channel IN ('text', 'voice') AND sender = sqlc.arg(sender) LIMIT 1);

-- name: DeliveryByKey :one
SELECT d.id, d.message_id, d.key, d.address, d.channel, m.apart, m.draft, d.state, c.parts, c.language, c.subject, c.body FROM deliveries d JOIN messages m ON m.id = d.message_id
    JOIN contents c ON c.id = d.content_id WHERE d.key = ?;

-- name: RecipientsOfDelivery :many
SELECT r.person_id FROM recipients r JOIN delivery_recipients l ON l.recipient_id = r.id WHERE l.delivery_id = ? AND r.person_id IS NOT NULL;

-- name: RecipientsAt :many
SELECT DISTINCT r.person_id FROM deliveries d JOIN delivery_recipients l ON l.delivery_id = d.id JOIN recipients r ON r.id = l.recipient_id
WHERE d.address = sqlc.arg(address) AND d.channel = sqlc.arg(channel) AND +d.message_id = sqlc.arg(message_id) AND r.person_id IS NOT NULL;

-- name: FactsOf :many
SELECT kind, value FROM message_facts WHERE message_id = ? AND kind IN ('group', 'unit');

-- name: PutStop :one
INSERT INTO stops (channel, address, at, said) VALUES (?, ?, ?, ?) ON CONFLICT (channel, address) DO UPDATE SET said = excluded.said RETURNING at;

-- name: DropStop :execrows
DELETE FROM stops WHERE channel = ? AND address = ?;

-- name: LiftStop :exec
UPDATE addresses SET carrier_stop = 0 WHERE channel = ? AND value = ?;

-- name: Stops :many
SELECT channel, address FROM stops;

-- name: PutWriter :exec
INSERT INTO writers (address, person_id) VALUES (?, ?) ON CONFLICT (address) DO UPDATE SET person_id = excluded.person_id;

-- name: Writer :one
SELECT person_id FROM writers WHERE address = ?;

-- name: AddAnswer :exec
INSERT INTO messages (id, account_id, state, title, urgency, draft, created_at, updated_at, sent_by, sent_at, leaves_at, released_at, apart, currency)
VALUES (sqlc.arg(id), sqlc.arg(account_id), 'held', sqlc.arg(title), sqlc.arg(urgency), sqlc.arg(draft), sqlc.arg(now), sqlc.arg(now),
    sqlc.arg(account_id), sqlc.arg(now), sqlc.arg(leaves_at), 0, 2, sqlc.arg(currency));

-- name: TakeBackAnswer :execrows
DELETE FROM messages WHERE id = ? AND apart = 2 AND state = 'held';

-- name: LanguagesRead :many
SELECT DISTINCT language FROM people WHERE gone = 0 AND language <> '';

-- name: CountStops :one
SELECT count(*) FROM stops WHERE channel = ? AND address = ?;

-- name: WithWhom :many
SELECT DISTINCT p.language, p.unit_id FROM threads t JOIN people p ON p.id = t.person_id WHERE t.desk_id = ? ORDER BY p.language;

-- name: AddManyThread :one
INSERT INTO threads (desk_id, kind, group_id, unit_id, name, named, channel, address, waits, since, unread, last_at, last_text)
VALUES (?, ?, ?, ?, ?, ?, '', '', 'quiet', sqlc.arg(now), 0, sqlc.arg(now), '') RETURNING id;

-- name: ManyThread :one
SELECT id FROM threads WHERE desk_id = sqlc.arg(desk_id) AND kind = sqlc.arg(kind) AND coalesce(group_id, 0) = CAST(sqlc.arg(group_id) AS INTEGER)
    AND coalesce(unit_id, 0) = CAST(sqlc.arg(unit_id) AS INTEGER) ORDER BY id LIMIT 1;

-- name: RenameThread :exec
UPDATE threads SET name = sqlc.arg(name), named = sqlc.arg(named) WHERE id = sqlc.arg(id);

-- name: ShareThread :exec
UPDATE threads SET shared = sqlc.arg(shared) WHERE id = sqlc.arg(id);

-- name: ChooseForThread :exec
INSERT INTO thread_people (thread_id, person_id, chosen) VALUES (?, ?, 1) ON CONFLICT (thread_id, person_id) DO UPDATE SET chosen = 1, left_at = 0;

-- name: UnchooseForThread :exec
UPDATE thread_people SET chosen = 0 WHERE thread_id = sqlc.arg(thread_id)
    AND person_id NOT IN (SELECT value FROM json_each(CAST(sqlc.arg(people) AS TEXT)));

-- name: TellInThread :exec
INSERT INTO thread_people (thread_id, person_id, told_at)
SELECT sqlc.arg(thread_id), r.person_id, sqlc.arg(now) FROM recipients r WHERE r.message_id = sqlc.arg(message_id) AND r.person_id IS NOT NULL
ON CONFLICT (thread_id, person_id) DO UPDATE SET told_at = excluded.told_at;

-- name: UntellThread :exec
UPDATE thread_people SET told_at = 0 WHERE thread_id = ?;

-- name: LeaveThreadFor :exec
INSERT INTO thread_people (thread_id, person_id, left_at) VALUES (sqlc.arg(thread_id), sqlc.arg(person_id), sqlc.arg(now))
ON CONFLICT (thread_id, person_id) DO UPDATE SET left_at = iif(left_at = 0, excluded.left_at, left_at), told_at = 0;

-- name: PeopleOfThread :many
SELECT coalesce(p.merged_into, p.id) AS person_id, t.chosen, t.told_at, t.left_at FROM thread_people t JOIN people p ON p.id = t.person_id
WHERE t.thread_id = ?;

-- name: PassedOfPerson :many
SELECT at FROM entries WHERE thread_id = sqlc.arg(thread_id) AND person_id = sqlc.arg(person_id) AND passed_id IS NOT NULL
    AND at >= sqlc.arg(since);

-- name: EntryToPass :one
SELECT id, passed_id FROM entries WHERE source = ?;

-- name: PassEntry :execrows
UPDATE entries SET passed_id = sqlc.arg(passed_id) WHERE id = sqlc.arg(id) AND passed_id IS NULL;

-- name: AddRound :exec
INSERT INTO messages (id, account_id, state, title, urgency, draft, created_at, updated_at, apart)
VALUES (sqlc.arg(id), sqlc.arg(account_id), 'draft', sqlc.arg(title), sqlc.arg(urgency), sqlc.arg(draft), sqlc.arg(now), sqlc.arg(now), 2);

-- name: UnfinishedRounds :many
SELECT id FROM messages WHERE apart = 2 AND state = 'draft';

-- name: DropRound :exec
DELETE FROM messages WHERE id = ? AND apart = 2 AND state = 'draft';

-- name: RoundThread :one
SELECT thread_id FROM entries WHERE passed_id = sqlc.arg(message_id);

-- name: PutTold :exec
INSERT INTO desk_told (desk_id, account_id) VALUES (?, ?) ON CONFLICT DO NOTHING;

-- name: DropTold :exec
DELETE FROM desk_told WHERE desk_id = ? AND account_id = ?;

-- name: Told :many
SELECT t.desk_id, a.id, a.login FROM desk_told t JOIN desk_members m ON m.desk_id = t.desk_id AND m.account_id = t.account_id
    JOIN accounts a ON a.id = t.account_id WHERE a.active = 1 ORDER BY t.desk_id, a.id;

-- name: Untold :many
SELECT t.id, CAST(CASE WHEN t.person_id IS NULL THEN '' ELSE t.name END AS TEXT) AS name, e.id AS entry_id, e.said, e.copy
FROM threads t JOIN entries e ON e.id = (SELECT max(l.id) FROM entries l WHERE l.thread_id = t.id AND l.kind = 'in')
    LEFT JOIN phone_codes c ON c.thread_id = t.id AND c.account_id = sqlc.arg(account_id)
WHERE t.desk_id = sqlc.arg(desk_id) AND t.kind = 'one' AND t.waits = 'us' AND t.unread = 1
    AND coalesce(t.holder_id, sqlc.arg(account_id)) = sqlc.arg(account_id) AND e.at >= sqlc.arg(since)
    AND (c.entry_id IS NULL OR c.entry_id < e.id AND c.told_at <= sqlc.arg(again))
ORDER BY e.at LIMIT sqlc.arg(most);

-- name: PhoneCodes :many
SELECT code, thread_id, told_at FROM phone_codes WHERE account_id = ?;

-- name: PutPhoneCode :exec
INSERT INTO phone_codes (account_id, code, thread_id, entry_id, told_at) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (account_id, code) DO UPDATE SET thread_id = excluded.thread_id, entry_id = excluded.entry_id, told_at = excluded.told_at;

-- name: NotTold :exec
UPDATE phone_codes SET entry_id = 0 WHERE account_id = ? AND thread_id = ?;

-- name: ThreadOfCode :one
SELECT thread_id FROM phone_codes WHERE account_id = sqlc.arg(account_id) AND code = sqlc.arg(code) AND told_at > sqlc.arg(since);
