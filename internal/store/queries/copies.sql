-- name: CopyLines :many
SELECT language, key, original, places, target, source, filled_by, filled_at, checked_by, checked_at
FROM copy_lines WHERE message_id = ? ORDER BY language, key;

-- name: CopyLine :one
SELECT target, filled_by FROM copy_lines WHERE message_id = ? AND language = ? AND key = ?;

-- name: CopyTarget :one
SELECT target, source, filled_by, filled_at, checked_by, checked_at
FROM copy_lines WHERE message_id = ? AND language = ? AND key = ?;

-- name: SetCopyLine :execrows
INSERT INTO copy_lines (message_id, language, key, original, places, target, source, filled_by, filled_at, checked_by, checked_at)
SELECT m.id, sqlc.arg(language), sqlc.arg(key), sqlc.arg(original), sqlc.arg(places), sqlc.arg(target), sqlc.arg(source),
    sqlc.arg(filled_by), sqlc.arg(filled_at), sqlc.arg(checked_by), sqlc.arg(checked_at)
FROM messages m WHERE m.id = sqlc.arg(message_id) AND m.state = 'draft'
ON CONFLICT (message_id, language, key) DO UPDATE SET target = excluded.target, source = excluded.source,
    filled_by = excluded.filled_by, filled_at = excluded.filled_at, checked_by = excluded.checked_by, checked_at = excluded.checked_at;

-- name: DropCopy :exec
DELETE FROM copy_lines WHERE message_id = sqlc.arg(message_id) AND language = sqlc.arg(language)
AND EXISTS (SELECT 1 FROM messages m WHERE m.id = sqlc.arg(message_id) AND m.state = 'draft');

-- name: CopyCopies :exec
INSERT INTO copy_lines (message_id, language, key, original, places, target, source, filled_by, filled_at, checked_by, checked_at)
SELECT sqlc.arg(into_id), c.language, c.key, c.original, c.places, c.target, c.source, c.filled_by, c.filled_at, c.checked_by, c.checked_at
FROM copy_lines c WHERE c.message_id = sqlc.arg(from_id) ON CONFLICT DO NOTHING;

-- name: Remember :one
INSERT INTO remembered (language, key, original, places, shape) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (language, key) DO UPDATE SET shape = excluded.shape RETURNING id;

-- name: RememberTarget :exec
INSERT INTO remembered_targets (original_id, language, target, unit_id, checked_by, checked_at) VALUES (?, ?, ?, ?, ?, ?)
ON CONFLICT (original_id, language) DO UPDATE SET target = excluded.target, unit_id = excluded.unit_id,
    checked_by = excluded.checked_by, checked_at = excluded.checked_at;

-- name: RecallSame :many
SELECT r.id, r.original, r.places, t.language, t.target, t.checked_by, t.checked_at
FROM remembered r JOIN remembered_targets t ON t.original_id = r.id
WHERE r.language = sqlc.arg(language) AND r.key IN (sqlc.slice(keys));

-- name: RecallShaped :many
SELECT r.id, r.original, r.places, t.language, t.target, t.checked_by, t.checked_at
FROM remembered r JOIN remembered_targets t ON t.original_id = r.id
WHERE r.language = sqlc.arg(language) AND r.shape IN (sqlc.slice(shapes)) ORDER BY t.checked_at DESC LIMIT 5000;

-- name: Terms :many
SELECT id, term, language, says, note FROM terms ORDER BY term COLLATE NOCASE, language;

-- name: SetTerm :exec
INSERT INTO terms (term, language, says, note) VALUES (?, ?, ?, ?)
ON CONFLICT (term, language) DO UPDATE SET says = excluded.says, note = excluded.note;

-- name: DropTerm :execrows
DELETE FROM terms WHERE id = ?;

-- name: TargetOf :one
SELECT r.original, r.places, t.target, t.checked_by FROM remembered r JOIN remembered_targets t ON t.original_id = r.id
WHERE r.id = sqlc.arg(id) AND t.language = sqlc.arg(language);

-- name: SetTarget :execrows
UPDATE remembered_targets SET target = ?, checked_by = ?, checked_at = ? WHERE original_id = ? AND language = ?;

-- name: DropTarget :execrows
DELETE FROM remembered_targets WHERE original_id = ? AND language = ?;

-- name: DropBareOriginal :exec
DELETE FROM remembered WHERE id = ? AND NOT EXISTS (SELECT 1 FROM remembered_targets t WHERE t.original_id = remembered.id);

-- name: EveryTarget :many
SELECT r.id, r.language AS source, r.original, r.places, t.language, t.target, t.unit_id, t.checked_by, t.checked_at
FROM remembered r JOIN remembered_targets t ON t.original_id = r.id
WHERE (r.id > sqlc.arg(after_id) OR r.id = sqlc.arg(after_id) AND t.language > sqlc.arg(after_language))
ORDER BY r.id, t.language LIMIT sqlc.arg(count);

-- name: SayingSo :many
SELECT m.id, m.title FROM copy_lines c JOIN messages m ON m.id = c.message_id
WHERE c.key = sqlc.arg(key) AND c.language = sqlc.arg(language) AND m.state IN ('draft', 'held') ORDER BY m.id DESC LIMIT 20;

-- name: MemoryLanguages :many
SELECT DISTINCT language FROM remembered_targets ORDER BY language;

-- name: MemoryCheckers :many
SELECT DISTINCT checked_by FROM remembered_targets ORDER BY checked_by LIMIT 200;

-- name: Targets :many
SELECT r.id, r.original, r.places, t.language, t.target, t.checked_by, t.checked_at
FROM json_each(sqlc.arg(ids)) j CROSS JOIN remembered r ON r.id = j.value CROSS JOIN remembered_targets t ON t.original_id = r.id
WHERE sqlc.arg(language) = '' OR t.language = sqlc.arg(language);
