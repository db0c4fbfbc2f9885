-- name: Carriers :many
SELECT * FROM carriers ORDER BY channel, rank, id;

-- name: AddCarrier :one
INSERT INTO carriers (channel, rank, setup, secrets)
VALUES (sqlc.arg(channel), (SELECT COALESCE(MAX(c.rank), 0) + 1 FROM carriers c WHERE c.channel = sqlc.arg(channel)),
        sqlc.arg(setup), sqlc.arg(secrets))
RETURNING id;

-- name: SetCarrier :execrows
UPDATE carriers SET setup = sqlc.arg(setup), secrets = sqlc.arg(secrets) WHERE id = sqlc.arg(id) AND channel = sqlc.arg(channel);

-- name: RankCarrier :execrows
UPDATE carriers SET rank = sqlc.arg(rank) WHERE id = sqlc.arg(id) AND channel = sqlc.arg(channel);

-- name: CarrierTried :exec
UPDATE carriers SET tried_at = sqlc.arg(tried_at), tried = sqlc.arg(tried) WHERE id = sqlc.arg(id);

-- name: DropCarrier :execrows
DELETE FROM carriers WHERE id = ?;

-- name: DropCarrierDays :exec
DELETE FROM carrier_days WHERE carrier = ?;

-- name: DropCarrierTroubles :exec
DELETE FROM troubles WHERE carrier = ?;

-- name: CarrierDays :many
SELECT channel, carrier, taken FROM carrier_days WHERE day = ?;

-- name: CountTaken :exec
INSERT INTO carrier_days (channel, carrier, day, taken) VALUES (?, ?, ?, ?)
ON CONFLICT (channel, carrier, day) DO UPDATE SET taken = taken + excluded.taken;

-- name: Troubles :many
SELECT * FROM troubles ORDER BY since;

-- name: PutTrouble :exec
INSERT INTO troubles (channel, carrier, detail, since, tries, retry_at) VALUES (?, ?, ?, ?, 1, ?)
ON CONFLICT (channel, carrier) DO UPDATE SET detail = excluded.detail, tries = tries + 1, retry_at = excluded.retry_at;

-- name: DropTrouble :exec
DELETE FROM troubles WHERE channel = ? AND carrier = ?;
