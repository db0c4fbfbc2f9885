-- name: KeepReport :one
INSERT INTO kept_reports (account_id, name, ask) VALUES (?, ?, ?)
ON CONFLICT (name) DO UPDATE SET ask = excluded.ask
RETURNING id;

-- name: KeptReports :many
SELECT id, name, account_id, ask FROM kept_reports ORDER BY name COLLATE NOCASE, id;

-- name: DropReport :execrows
DELETE FROM kept_reports WHERE id = ?;

-- name: KeepReaders :exec
DELETE FROM report_readers WHERE report_id = sqlc.arg(report_id)
    AND account_id NOT IN (SELECT value FROM json_each(CAST(sqlc.arg(ids) AS TEXT)));

-- name: AddReader :exec
INSERT OR IGNORE INTO report_readers (report_id, account_id, month) VALUES (?, ?, ?);

-- name: ReportReaders :many
SELECT report_id, account_id FROM report_readers ORDER BY report_id, account_id;

-- name: ReportsDue :many
SELECT report_id, account_id FROM report_readers WHERE month < ? ORDER BY account_id, report_id;

-- name: ReportMailed :exec
UPDATE report_readers SET month = sqlc.arg(month) WHERE report_id = sqlc.arg(report_id) AND account_id = sqlc.arg(account_id);

-- name: GapsKnown :one
SELECT count(*) FROM gap_days WHERE day = ?;

-- name: GapDays :many
SELECT day, gap, CAST(sum(people) AS INTEGER) AS people FROM gap_days
WHERE day BETWEEN sqlc.arg(from_day) AND sqlc.arg(until_day)
    AND (CAST(sqlc.arg(every_unit) AS INTEGER) = 1 OR unit_id IN (SELECT value FROM json_each(CAST(sqlc.arg(units) AS TEXT))))
GROUP BY day, gap ORDER BY day;
