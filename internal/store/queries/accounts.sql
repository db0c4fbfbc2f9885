-- name: Organisation :one
SELECT * FROM organisation WHERE id = 1;

-- name: PutOrganisation :exec
INSERT INTO organisation (id, name, language, time_zone, region, currency, hold_seconds, rates, steps,
                          mail_name, mail_from, return_domain, number_from, roles, languages, updates_wait, sending, secret, push_keys, demo, stand_ins, factor_for)
VALUES (1, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (id) DO UPDATE SET
    name = excluded.name, language = excluded.language, time_zone = excluded.time_zone, region = excluded.region,
    currency = excluded.currency, hold_seconds = excluded.hold_seconds, rates = excluded.rates,
    steps = excluded.steps, mail_name = excluded.mail_name, mail_from = excluded.mail_from,
    return_domain = excluded.return_domain, number_from = excluded.number_from, roles = excluded.roles,
    languages = excluded.languages, updates_wait = excluded.updates_wait,
    sending = excluded.sending, secret = excluded.secret, push_keys = excluded.push_keys, demo = excluded.demo,
    stand_ins = excluded.stand_ins, factor_for = excluded.factor_for;

-- name: Beginning :one
SELECT token, typed FROM beginning WHERE id = 1;

-- name: Begin :exec
INSERT INTO beginning (id, token, made_at) VALUES (1, ?, ?);

-- name: KeepTyped :execrows
UPDATE beginning SET typed = ? WHERE id = 1;

-- name: EndBeginning :exec
DELETE FROM beginning;

-- name: Revision :one
SELECT revision, time_zone FROM organisation WHERE id = 1;

-- name: BumpRevision :exec
UPDATE organisation SET revision = revision + 1 WHERE id = 1;

-- name: PutAccount :one
INSERT INTO accounts (login, name, duty, password_hash, active, whole, units, rights) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (login) DO UPDATE SET name = excluded.name, duty = excluded.duty, password_hash = excluded.password_hash,
    active = excluded.active, whole = excluded.whole, units = excluded.units, rights = excluded.rights
RETURNING id;

-- name: SetAccount :execrows
UPDATE accounts SET login = sqlc.arg(login), name = sqlc.arg(name), duty = sqlc.arg(duty), active = sqlc.arg(active), whole = sqlc.arg(whole),
    units = sqlc.arg(units), rights = sqlc.arg(rights), password_hash = sqlc.arg(password_hash),
    session_epoch = session_epoch + (password_hash <> sqlc.arg(password_hash))
WHERE id = sqlc.arg(id);

-- name: AccountByLogin :one
SELECT * FROM accounts WHERE login = ? AND active = 1;

-- name: Account :one
SELECT * FROM accounts WHERE id = ? AND active = 1;

-- name: AnyAccount :one
SELECT * FROM accounts WHERE id = ?;

-- name: SetPassword :execrows
UPDATE accounts SET password_hash = sqlc.arg(password_hash), session_epoch = session_epoch + 1 WHERE id = sqlc.arg(id);

-- name: KnowNetwork :exec
INSERT INTO known_networks (account_id, network, seen_at) VALUES (?, ?, ?)
ON CONFLICT (account_id, network) DO UPDATE SET seen_at = excluded.seen_at;

-- name: ForgetNetworks :exec
DELETE FROM known_networks WHERE known_networks.account_id = sqlc.arg(account_id) AND (known_networks.seen_at < sqlc.arg(before) OR known_networks.network NOT IN (
    SELECT k.network FROM known_networks k WHERE k.account_id = sqlc.arg(account_id) ORDER BY k.seen_at DESC LIMIT sqlc.arg(kept)));

-- name: KnowsNetwork :one
SELECT count(*) FROM known_networks WHERE account_id = ? AND network = ? AND seen_at >= ?;

-- name: Probe :exec
INSERT INTO probes (filler) VALUES (zeroblob(65536));

-- name: EmptyProbes :exec
DELETE FROM probes;

-- name: DropOldSessions :exec
DELETE FROM sessions WHERE expiry < julianday('now');

-- name: Accounts :many
SELECT * FROM accounts ORDER BY id;

-- name: AddPass :exec
INSERT INTO passes (hash, account_id, invites, ends_at) VALUES (?, ?, ?, ?);

-- name: Pass :one
SELECT passes.account_id, passes.invites, passes.ends_at FROM passes JOIN accounts ON accounts.id = passes.account_id
WHERE passes.hash = ? AND accounts.active = 1;

-- name: PassOf :one
SELECT ends_at FROM passes WHERE account_id = ? AND invites = 1 ORDER BY ends_at DESC LIMIT 1;

-- name: DropPasses :exec
DELETE FROM passes WHERE account_id = ?;

-- name: DropPassesOfKind :exec
DELETE FROM passes WHERE account_id = ? AND invites = ?;

-- name: DropOldPasses :exec
DELETE FROM passes WHERE ends_at < ?;

-- name: SetFactor :execrows
UPDATE accounts SET factor = ?, factor_step = ? WHERE id = ?;

-- name: StepFactor :execrows
UPDATE accounts SET factor_step = sqlc.arg(step) WHERE id = sqlc.arg(id) AND factor_step < sqlc.arg(step);

-- name: AddRecoveryCode :exec
INSERT INTO recovery_codes (account_id, hash) VALUES (?, ?);

-- name: UseRecoveryCode :execrows
DELETE FROM recovery_codes WHERE account_id = ? AND hash = ?;

-- name: RecoveryCodesLeft :one
SELECT count(*) FROM recovery_codes WHERE account_id = ?;

-- name: DropRecoveryCodes :exec
DELETE FROM recovery_codes WHERE account_id = ?;

-- name: Slowed :execrows
UPDATE accounts SET slowed_at = sqlc.arg(slowed_at), slowed_from = sqlc.arg(slowed_from)
WHERE id = sqlc.arg(id) AND slowed_at < sqlc.arg(before);

-- name: SetSite :exec
UPDATE accounts SET site = sqlc.arg(site) WHERE id = sqlc.arg(id) AND site <> sqlc.arg(site);
