-- name: AllPeople :many
SELECT id, coalesce(external_id, '') AS external_id, given_name, family_name, known_as, language, status, away_until, born_on,
       coalesce(unit_id, 0) AS unit_id, time_zone, wish, notes, reached_on, roles, attributes, version
FROM people WHERE gone = 0;

-- name: SomePeople :many
SELECT id, coalesce(external_id, '') AS external_id, given_name, family_name, known_as, language, status, away_until, born_on,
       coalesce(unit_id, 0) AS unit_id, time_zone, wish, notes, reached_on, roles, attributes, version
FROM people WHERE gone = 0 AND id IN (sqlc.slice('ids'));

-- name: SomeAddresses :many
SELECT * FROM addresses WHERE person_id IN (sqlc.slice('ids')) ORDER BY person_id, position, id;

-- name: SomeTies :many
SELECT guardian_id, dependent_id, receives, barred FROM guardian_ties
WHERE guardian_id IN (sqlc.slice('ids')) OR dependent_id IN (sqlc.slice('more_ids')) ORDER BY dependent_id, guardian_id;

-- name: SomeMembers :many
SELECT group_id, person_id FROM group_members WHERE person_id IN (sqlc.slice('ids'));

-- name: AllAddresses :many
SELECT * FROM addresses ORDER BY person_id, position, id;

-- name: AllTies :many
SELECT guardian_id, dependent_id, receives, barred FROM guardian_ties ORDER BY dependent_id, guardian_id;

-- name: AllGroups :many
SELECT * FROM groups ORDER BY position, id;

-- name: AllMembers :many
SELECT group_id, person_id FROM group_members;

-- name: AllNestings :many
SELECT n.outer_id, n.inner_id FROM group_nestings n JOIN groups g ON g.id = n.inner_id ORDER BY g.position;

-- name: AllUnits :many
SELECT id, name, coalesce(parent_id, 0) AS parent_id, prefix, footer FROM units ORDER BY position, id;

-- name: AllAttributes :many
SELECT id, name, kind, choices FROM attributes ORDER BY position, id;

-- name: AddPerson :one
INSERT INTO people (external_id, given_name, family_name, known_as, language, status, away_until, born_on, unit_id, time_zone, wish, notes, roles,
                    attributes, reached_on)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id;

-- name: SetPerson :execrows
UPDATE people SET external_id = ?, given_name = ?, family_name = ?, known_as = ?, language = ?, status = ?, away_until = ?,
                  born_on = ?, unit_id = ?, time_zone = ?, wish = ?, notes = ?, roles = ?, attributes = ?, reached_on = ?, version = version + 1
WHERE id = ? AND version = ? AND gone = 0;

-- name: RestorePerson :execrows
UPDATE people SET external_id = ?, given_name = ?, family_name = ?, known_as = ?, language = ?, status = ?, away_until = ?,
                  born_on = ?, unit_id = ?, time_zone = ?, wish = ?, notes = ?, roles = ?, attributes = ?, reached_on = ?, version = version + 1, gone = 0, merged_into = NULL
WHERE id = ? AND gone = 1;

-- name: RemovePerson :execrows
UPDATE people SET external_id = NULL, given_name = '', family_name = '', known_as = '', language = '', status = 'left', away_until = '',
                  born_on = '', unit_id = NULL, time_zone = '', wish = '', notes = '', roles = '', attributes = '', version = version + 1, gone = 1,
                  merged_into = sqlc.narg(merged_into)
WHERE id = sqlc.arg(id) AND version = sqlc.arg(version) AND gone = 0;

-- name: TouchPerson :exec
UPDATE people SET version = version + 1 WHERE id = ? AND gone = 0;

-- name: PersonVersion :one
SELECT version FROM people WHERE id = ?;

-- name: DropAddress :exec
DELETE FROM addresses WHERE person_id = ? AND channel = ? AND value = ?;

-- name: DropAddresses :exec
DELETE FROM addresses WHERE person_id = ?;

-- name: PutAddress :exec
INSERT INTO addresses (person_id, channel, value, label, position, health, health_detail, failed_on, checked_on,
                       declines_routine, declines_timely, carrier_stop)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (person_id, channel, value) DO UPDATE SET
    label = excluded.label, position = excluded.position, checked_on = excluded.checked_on, carrier_stop = excluded.carrier_stop,
    declines_routine = excluded.declines_routine, declines_timely = excluded.declines_timely;

-- name: AddGroup :one
INSERT INTO groups (name, kind, position) VALUES (?, ?, (SELECT coalesce(max(position), 0) + 1 FROM groups)) RETURNING id;

-- name: SetGroup :execrows
UPDATE groups SET name = ?, kind = ?, unnamed = ?, unit_id = ?, archived = ?, rule = ?, sender_name = ?, sender_number = ?,
                  caller_number = ?, starts_at = ?, ends_at = ?, closed_at = ?, place = ?, reference = ?
WHERE id = ?;

-- name: DropGroup :execrows
DELETE FROM groups WHERE id = ?;

-- name: DropEmptyGroup :exec
DELETE FROM groups WHERE id = ? AND kind = 'picked'
    AND NOT EXISTS (SELECT 1 FROM group_members WHERE group_id = groups.id)
    AND NOT EXISTS (SELECT 1 FROM group_nestings WHERE outer_id = groups.id);

-- name: PlaceGroup :exec
UPDATE groups SET position = ? WHERE id = ?;

-- name: DropNestings :exec
DELETE FROM group_nestings WHERE outer_id = ?;

-- name: AddNesting :exec
INSERT INTO group_nestings (outer_id, inner_id) VALUES (?, ?) ON CONFLICT DO NOTHING;

-- name: DropMemberships :exec
DELETE FROM group_members WHERE person_id = ?;

-- name: DropMember :exec
DELETE FROM group_members WHERE group_id = ? AND person_id = ?;

-- name: AddMember :exec
INSERT INTO group_members (group_id, person_id)
SELECT g.id, sqlc.arg(person_id) FROM groups g WHERE g.id = sqlc.arg(group_id) ON CONFLICT DO NOTHING;

-- name: DropTie :exec
DELETE FROM guardian_ties WHERE guardian_id = ? AND dependent_id = ?;

-- name: DropTies :exec
DELETE FROM guardian_ties WHERE guardian_id = sqlc.arg(person) OR dependent_id = sqlc.arg(person);

-- name: PutTie :exec
INSERT INTO guardian_ties (guardian_id, dependent_id, receives, barred)
SELECT g.id, d.id, sqlc.arg(receives), sqlc.arg(barred) FROM people g, people d
WHERE g.id = sqlc.arg(guardian_id) AND d.id = sqlc.arg(dependent_id) AND g.gone = 0 AND d.gone = 0
ON CONFLICT (dependent_id, guardian_id) DO UPDATE SET receives = excluded.receives, barred = excluded.barred;

-- name: SetHealth :execrows
UPDATE addresses SET health = sqlc.arg(health), health_detail = sqlc.arg(detail), failed_on = sqlc.arg(failed_on)
WHERE channel = sqlc.arg(channel) AND value = sqlc.arg(value) AND health <> sqlc.arg(health);

-- name: SetGood :execrows
UPDATE addresses SET health = 'good', health_detail = sqlc.arg(detail), failed_on = '', failures = 0
WHERE channel = sqlc.arg(channel) AND health IN ('untried', 'failing') AND value IN (SELECT j.value FROM json_each(CAST(sqlc.arg(addresses) AS TEXT)) j);

-- name: Revive :execrows
UPDATE addresses SET health = 'good', health_detail = sqlc.arg(detail), failed_on = '', failures = 0
WHERE channel = sqlc.arg(channel) AND health = 'dead' AND value IN (SELECT j.value FROM json_each(CAST(sqlc.arg(addresses) AS TEXT)) j);

-- name: CountFailure :one
UPDATE addresses SET failures = failures + 1 WHERE channel = ? AND value = ? RETURNING failures;

-- name: SetReached :execrows
UPDATE people SET reached_on = sqlc.arg(day) WHERE reached_on < sqlc.arg(day) AND id IN (
    SELECT r.person_id FROM delivery_recipients dr JOIN recipients r ON r.id = dr.recipient_id
    WHERE dr.delivery_id IN (SELECT value FROM json_each(CAST(sqlc.arg(deliveries) AS TEXT))));

-- name: AddUnit :one
INSERT INTO units (name, parent_id, prefix, footer, position) VALUES (?, ?, ?, ?, (SELECT coalesce(max(position), 0) + 1 FROM units)) RETURNING id;

-- name: SetUnit :execrows
UPDATE units SET name = ?, parent_id = ?, prefix = ?, footer = ? WHERE id = ?;

-- name: DropUnit :execrows
DELETE FROM units WHERE id = ?;

-- name: AddAttribute :one
INSERT INTO attributes (name, kind, choices, position) VALUES (?, ?, ?, (SELECT coalesce(max(position), 0) + 1 FROM attributes)) RETURNING id;

-- name: SetAttribute :execrows
UPDATE attributes SET name = ?, choices = ? WHERE id = ?;

-- name: ForgetValues :exec
UPDATE people SET attributes = json_remove(attributes, sqlc.arg(path)) WHERE attributes <> '';

-- name: DropAttribute :execrows
DELETE FROM attributes WHERE id = ?;

-- name: AddEdit :one
INSERT INTO edits (account_id, kind, said, people, made_at, groups) VALUES (?, ?, ?, ?, ?, ?) RETURNING id;

-- name: AddEditPerson :exec
INSERT INTO edit_people (edit_id, person_id, version, before, changes) VALUES (?, ?, ?, ?, ?);

-- name: SetUndone :execrows
UPDATE edits SET undone_by = ? WHERE id = ? AND undone_by IS NULL;

-- name: EditByID :one
SELECT e.*, CAST(coalesce(a.name, '') AS TEXT) AS by_name FROM edits e LEFT JOIN accounts a ON a.id = e.account_id WHERE e.id = ?;

-- name: EditPeople :many
SELECT ep.person_id, ep.version, ep.before, p.version AS now_version, p.gone FROM edit_people ep JOIN people p ON p.id = ep.person_id
WHERE ep.edit_id = ? ORDER BY ep.person_id;

-- name: Edits :many
SELECT e.id, e.account_id, e.kind, e.said, e.people, e.made_at, e.undone_by, CAST(coalesce(a.name, '') AS TEXT) AS by_name
FROM edits e LEFT JOIN accounts a ON a.id = e.account_id
WHERE sqlc.arg(own) = 0 OR e.account_id = sqlc.arg(own) ORDER BY e.id DESC LIMIT sqlc.arg(count) OFFSET sqlc.arg(first);

-- name: PersonEdits :many
SELECT e.id, e.kind, e.said, e.people, e.made_at, e.undone_by, CAST(coalesce(a.name, '') AS TEXT) AS by_name, ep.version, ep.changes
FROM edit_people ep JOIN edits e ON e.id = ep.edit_id LEFT JOIN accounts a ON a.id = e.account_id
WHERE ep.person_id = sqlc.arg(person_id) OR ep.person_id IN (SELECT id FROM people WHERE merged_into = sqlc.arg(person_id))
ORDER BY e.id DESC LIMIT 200;

-- name: PersonDeliveries :many
SELECT m.id AS message_id, m.account_id, m.title, d.channel, d.address, d.state, d.updated_at
FROM recipients r JOIN messages m ON m.id = r.message_id
     JOIN delivery_recipients dr ON dr.recipient_id = r.id JOIN deliveries d ON d.id = dr.delivery_id
WHERE (r.person_id = sqlc.arg(person_id) OR r.person_id IN (SELECT id FROM people WHERE merged_into = sqlc.arg(person_id)))
  AND m.sent_at >= sqlc.arg(since) AND m.released_at > 0 AND m.apart = 0
ORDER BY d.updated_at DESC LIMIT 200;

-- name: ReMerge :exec
UPDATE people SET merged_into = sqlc.arg(into_id) WHERE merged_into = sqlc.arg(from_id);

-- name: AddMapping :exec
INSERT INTO mappings (name, columns, account_id) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET columns = excluded.columns;

-- name: Mappings :many
SELECT * FROM mappings ORDER BY name COLLATE NOCASE;

-- name: DropMapping :execrows
DELETE FROM mappings WHERE id = ?;

-- name: KeepFilter :one
INSERT INTO kept_filters (name, rule, account_id) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET rule = excluded.rule RETURNING id;

-- name: KeptFilters :many
SELECT * FROM kept_filters ORDER BY name COLLATE NOCASE;

-- name: DropFilter :execrows
DELETE FROM kept_filters WHERE id = ?;

-- name: AddNotTwins :exec
INSERT INTO not_twins (first_id, second_id) VALUES (?, ?) ON CONFLICT DO NOTHING;

-- name: NotTwins :many
SELECT first_id, second_id FROM not_twins;

-- name: AddUpdate :one
INSERT INTO updates (person_id, after, made_at, state) VALUES (?, ?, ?, ?) RETURNING id;

-- name: ReplaceUpdates :exec
DELETE FROM updates WHERE person_id = ? AND state = 'waiting';

-- name: WaitingUpdates :many
SELECT u.* FROM updates u JOIN people p ON p.id = u.person_id WHERE u.state = 'waiting' AND p.gone = 0 ORDER BY u.made_at;

-- name: UpdateByID :one
SELECT * FROM updates WHERE id = ?;

-- name: SetUpdate :execrows
UPDATE updates SET state = ? WHERE id = ? AND state = 'waiting';

-- name: AddImport :one
INSERT INTO imports (account_id, file_name, file, mapping, unit_id, state, created_at) VALUES (?, ?, ?, ?, ?, 'proposed', ?) RETURNING id;

-- name: ImportByID :one
SELECT id, account_id, file_name, mapping, state, result, mark_left, unit_id, edit_id, reading FROM imports WHERE id = ?;

-- name: ImportFile :one
SELECT file FROM imports WHERE id = ?;

-- name: SetImport :execrows
UPDATE imports SET mapping = ?, mark_left = ?, unit_id = ?, reading = ? WHERE id = ? AND state = 'proposed';

-- name: StartImport :execrows
UPDATE imports SET state = 'loading' WHERE id = ? AND state = 'proposed';

-- name: EndImport :exec
UPDATE imports SET state = sqlc.arg(state), result = sqlc.arg(result), edit_id = sqlc.narg(edit_id),
    file = CASE WHEN sqlc.arg(state) = 'loaded' THEN NULL ELSE file END
WHERE id = sqlc.arg(id);

-- name: ForgetImports :execrows
UPDATE imports SET file = NULL WHERE state = 'proposed' AND file IS NOT NULL AND created_at < ?;

-- name: AbandonImports :exec
UPDATE imports SET state = 'proposed' WHERE state = 'loading';

-- name: IsDead :one
SELECT EXISTS (SELECT 1 FROM addresses WHERE channel = ? AND value = ? AND health = 'dead') AS dead;

-- name: LastImport :one
SELECT i.id, i.file_name, i.result, i.edit_id, e.made_at, CAST(coalesce(a.name, '') AS TEXT) AS by_name
FROM imports i JOIN edits e ON e.id = i.edit_id LEFT JOIN accounts a ON a.id = e.account_id
WHERE e.undone_by IS NULL ORDER BY e.id DESC LIMIT 1;

-- name: ConnectedDevices :many
SELECT name FROM devices;

-- name: Device :one
SELECT * FROM devices WHERE name = ?;

-- name: PutDevice :exec
INSERT INTO devices (name, endpoint, p256dh, auth, connected_at) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (name) DO UPDATE SET endpoint = excluded.endpoint, p256dh = excluded.p256dh, auth = excluded.auth, connected_at = excluded.connected_at;

-- name: ReviveDevice :exec
UPDATE addresses SET health = 'untried', health_detail = '', failed_on = '', failures = 0 WHERE channel = 'push' AND value = ?;

-- name: DropUnusedDevices :execrows
DELETE FROM devices WHERE connected_at < ?
AND NOT EXISTS (SELECT 1 FROM addresses a WHERE a.channel = 'push' AND a.value = devices.name)
AND NOT EXISTS (SELECT 1 FROM updates u WHERE u.state = 'waiting' AND instr(u.after, devices.name));

-- name: JobPeople :many
SELECT coalesce(p.merged_into, p.id) AS person_id, j.part, coalesce(j.came_by, 0) AS came_by
FROM job_people j JOIN people p ON p.id = j.person_id WHERE j.job_id = ?;

-- name: PutJobPerson :exec
INSERT INTO job_people (job_id, person_id, part, came_by) VALUES (?, ?, ?, ?)
ON CONFLICT (job_id, person_id) DO UPDATE SET part = excluded.part, came_by = excluded.came_by;

-- name: DropJobPeople :exec
DELETE FROM job_people WHERE job_id = sqlc.arg(job_id) AND person_id IN (SELECT value FROM json_each(CAST(sqlc.arg(people) AS TEXT)));

-- name: PutMember :execrows
INSERT INTO group_members (group_id, person_id) VALUES (?, ?) ON CONFLICT DO NOTHING;

-- name: JobTemplates :many
SELECT id, name, job FROM job_templates ORDER BY name;

-- name: JobTemplate :one
SELECT id, name, job FROM job_templates WHERE id = ?;

-- name: PutJobTemplate :exec
INSERT INTO job_templates (name, job) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET job = excluded.job;

-- name: DropJobTemplate :execrows
DELETE FROM job_templates WHERE id = ?;

-- name: JobPartCounts :many
SELECT job_id, part, count(*) AS people FROM job_people j
WHERE EXISTS (SELECT 1 FROM group_members m WHERE m.group_id = j.job_id AND m.person_id = j.person_id) GROUP BY job_id, part;

-- name: LastAnswerGiven :one
SELECT CAST(coalesce(max(id), 0) AS INTEGER) FROM answers;

-- name: JobsToJoin :many
SELECT m.id, m.job_id, m.draft FROM messages m JOIN groups g ON g.id = m.job_id
WHERE m.joined < sqlc.arg(last) AND g.closed_at = 0 AND m.state IN ('sending', 'sent', 'stopped');

-- name: SetJoined :exec
UPDATE messages SET joined = sqlc.arg(last) WHERE id = sqlc.arg(id);

-- name: JoinAgain :exec
UPDATE messages SET joined = 0 WHERE job_id IS NOT NULL;

-- name: ComingBy :many
SELECT DISTINCT coalesce(p.merged_into, p.id) AS person_id FROM recipients r JOIN people p ON p.id = r.person_id
WHERE r.message_id = sqlc.arg(message_id) AND r.answer IN (SELECT value FROM json_each(CAST(sqlc.arg(answers) AS TEXT)));

-- name: JobAsks :many
SELECT id, account_id, title FROM messages WHERE job_id = ? AND state <> 'draft' ORDER BY id DESC LIMIT 50;

-- name: ThreadsOfGroup :many
SELECT t.id, t.desk_id, t.waits, t.unread FROM threads t WHERE t.group_id = ? ORDER BY t.id;
