-- name: AllPeople :many
SELECT id, coalesce(external_id, '') AS external_id, given_name, family_name, language, status
FROM people ORDER BY coalesce(nullif(family_name, ''), given_name) COLLATE NOCASE, given_name COLLATE NOCASE, id;

-- name: AllRoles :many
SELECT person_id, role FROM person_roles;

-- name: AllAddresses :many
SELECT id, person_id, channel, value, label, health, declines_routine, declines_timely, carrier_stop
FROM addresses ORDER BY person_id, position, id;

-- name: AllTies :many
SELECT guardian_id, dependent_id, receives, barred FROM guardian_ties ORDER BY dependent_id, guardian_id;

-- name: AllGroups :many
SELECT id, name FROM groups ORDER BY position, id;

-- name: AllMembers :many
SELECT group_id, person_id FROM group_members;

-- name: AllNestings :many
SELECT n.outer_id, n.inner_id FROM group_nestings n JOIN groups g ON g.id = n.inner_id ORDER BY g.position;

-- name: AddPerson :one
INSERT INTO people (external_id, given_name, family_name, language, status)
VALUES (?, ?, ?, ?, ?) RETURNING id;

-- name: SetPerson :exec
UPDATE people SET external_id = ?, given_name = ?, family_name = ?, language = ?, status = ?
WHERE id = ?;

-- name: AddRole :exec
INSERT INTO person_roles (person_id, role) VALUES (?, ?) ON CONFLICT DO NOTHING;

-- name: PutAddress :exec
INSERT INTO addresses (person_id, channel, value, label, position, health, declines_routine, declines_timely)
VALUES (?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (person_id, channel, value) DO UPDATE SET
    declines_routine = excluded.declines_routine, declines_timely = excluded.declines_timely;

-- name: AddGroup :exec
INSERT INTO groups (name, position) VALUES (?, (SELECT coalesce(max(position), 0) + 1 FROM groups));

-- name: AddNesting :exec
INSERT INTO group_nestings (outer_id, inner_id)
VALUES ((SELECT id FROM groups WHERE groups.name = sqlc.arg(outer_name)), (SELECT id FROM groups WHERE groups.name = sqlc.arg(inner_name)))
ON CONFLICT DO NOTHING;

-- name: AddMember :exec
INSERT INTO group_members (group_id, person_id)
VALUES ((SELECT id FROM groups WHERE groups.name = sqlc.arg(group_name)), sqlc.arg(person_id)) ON CONFLICT DO NOTHING;

-- name: PutTie :exec
INSERT INTO guardian_ties (guardian_id, dependent_id, receives, barred) VALUES (?, ?, ?, ?)
ON CONFLICT (dependent_id, guardian_id) DO UPDATE SET receives = excluded.receives, barred = excluded.barred;

-- name: SetHealth :execrows
UPDATE addresses SET health = sqlc.arg(health), health_detail = sqlc.arg(detail)
WHERE channel = sqlc.arg(channel) AND value = sqlc.arg(value) AND health <> sqlc.arg(health);

-- name: SearchPeople :many
SELECT p.id, coalesce(p.external_id, '') AS external_id, p.given_name, p.family_name, p.language, p.status,
       CAST(coalesce((SELECT group_concat(role, ' ') FROM person_roles r WHERE r.person_id = p.id), '') AS TEXT) AS roles,
       CAST(coalesce((SELECT group_concat(g.name, char(10)) FROM group_members m JOIN groups g ON g.id = m.group_id
                 WHERE m.person_id = p.id), '') AS TEXT) AS group_names
FROM people p
WHERE instr(lower(p.given_name || ' ' || p.family_name), lower(sqlc.arg(search))) > 0
   OR p.external_id = sqlc.arg(search)
   OR EXISTS (SELECT 1 FROM addresses a WHERE a.person_id = p.id AND instr(a.value, lower(sqlc.arg(search))) > 0)
ORDER BY coalesce(nullif(p.family_name, ''), p.given_name) COLLATE NOCASE, p.given_name COLLATE NOCASE, p.id
LIMIT sqlc.arg(count) OFFSET sqlc.arg(first);

-- name: CountPeople :one
SELECT count(*) FROM people p
WHERE instr(lower(p.given_name || ' ' || p.family_name), lower(sqlc.arg(search))) > 0
   OR p.external_id = sqlc.arg(search)
   OR EXISTS (SELECT 1 FROM addresses a WHERE a.person_id = p.id AND instr(a.value, lower(sqlc.arg(search))) > 0);

-- name: CountAllPeople :one
SELECT count(*) FROM people;

-- name: PersonAddresses :many
SELECT * FROM addresses WHERE person_id = ? ORDER BY position, id;

-- name: PersonByID :one
SELECT id, coalesce(external_id, '') AS external_id, given_name, family_name, language, status FROM people WHERE id = ?;

-- name: PersonRoles :many
SELECT role FROM person_roles WHERE person_id = ?;

-- name: PersonGroups :many
SELECT g.id, g.name FROM group_members m JOIN groups g ON g.id = m.group_id WHERE m.person_id = ? ORDER BY g.position;

-- name: PersonTies :many
SELECT t.guardian_id, t.dependent_id, t.receives, t.barred,
       CAST(g.given_name || ' ' || g.family_name AS TEXT) AS guardian, CAST(d.given_name || ' ' || d.family_name AS TEXT) AS dependent
FROM guardian_ties t JOIN people g ON g.id = t.guardian_id JOIN people d ON d.id = t.dependent_id
WHERE t.guardian_id = sqlc.arg(person) OR t.dependent_id = sqlc.arg(person)
ORDER BY g.family_name, g.given_name;

-- name: AddImport :one
INSERT INTO imports (account_id, file_name, file, mapping, state, created_at) VALUES (?, ?, ?, ?, 'proposed', ?) RETURNING id;

-- name: ImportByID :one
SELECT * FROM imports WHERE id = ?;

-- name: SetMapping :exec
UPDATE imports SET mapping = ? WHERE id = ? AND state = 'proposed';

-- name: StartImport :execrows
UPDATE imports SET state = 'loading' WHERE id = ? AND state = 'proposed';

-- name: EndImport :exec
UPDATE imports SET state = sqlc.arg(state), result = sqlc.arg(result),
    file = CASE WHEN sqlc.arg(state) = 'loaded' THEN NULL ELSE file END
WHERE id = sqlc.arg(id);

-- name: AbandonImports :exec
UPDATE imports SET state = 'proposed' WHERE state = 'loading';

-- name: IsDead :one
SELECT EXISTS (SELECT 1 FROM addresses WHERE channel = ? AND value = ? AND health = 'dead') AS dead;
