-- name: LastVersion :one
SELECT id, account_id, began_at FROM draft_versions WHERE message_id = ? ORDER BY id DESC LIMIT 1;

-- name: SetVersion :exec
UPDATE draft_versions SET draft = ?, saved_at = ? WHERE id = ?;

-- name: AddVersion :exec
INSERT INTO draft_versions (message_id, account_id, draft, began_at, saved_at)
VALUES (sqlc.arg(message_id), sqlc.arg(account_id), sqlc.arg(draft), sqlc.arg(now), sqlc.arg(now));

-- name: DropOldVersions :exec
DELETE FROM draft_versions WHERE draft_versions.message_id = sqlc.arg(message_id) AND draft_versions.id NOT IN (
    SELECT v.id FROM draft_versions v WHERE v.message_id = sqlc.arg(message_id) ORDER BY v.id DESC LIMIT sqlc.arg(kept));

-- name: Versions :many
SELECT v.id, v.draft, v.saved_at, coalesce(a.name, '') AS author FROM draft_versions v LEFT JOIN accounts a ON a.id = v.account_id
WHERE v.message_id = ? ORDER BY v.id DESC;

-- name: Shelf :many
SELECT s.id, s.kind, s.name, s.own, s.owner_id, coalesce(s.unit_id, 0) AS unit_id, v.content, v.saved_at, coalesce(a.name, '') AS author
FROM shelf s JOIN shelf_versions v ON v.id = (SELECT max(id) FROM shelf_versions WHERE item_id = s.id)
LEFT JOIN accounts a ON a.id = v.account_id ORDER BY s.name COLLATE NOCASE, s.id;

-- name: AddShelfItem :one
INSERT INTO shelf (kind, owner_id, own, unit_id, name) VALUES (?, ?, ?, ?, ?) RETURNING id;

-- name: SetShelfItem :execrows
UPDATE shelf SET name = ?, own = ?, unit_id = ? WHERE id = ?;

-- name: AddShelfVersion :exec
INSERT INTO shelf_versions (item_id, account_id, content, saved_at) VALUES (?, ?, ?, ?);

-- name: ShelfVersions :many
SELECT v.id, v.content, v.saved_at, coalesce(a.name, '') AS author FROM shelf_versions v LEFT JOIN accounts a ON a.id = v.account_id
WHERE v.item_id = ? ORDER BY v.id DESC LIMIT 100;

-- name: DropShelfItem :execrows
DELETE FROM shelf WHERE id = ?;
