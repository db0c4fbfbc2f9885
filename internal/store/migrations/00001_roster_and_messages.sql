-- +goose Up
-- Times are Unix milliseconds in UTC, 0 where there is none yet. Money is in thousandths of the minor unit.

CREATE TABLE organisation (
    id            INTEGER PRIMARY KEY CHECK (id = 1),
    name          TEXT    NOT NULL,
    language      TEXT    NOT NULL, -- BCP 47, in which messages are written
    time_zone     TEXT    NOT NULL, -- IANA
    region        TEXT    NOT NULL, -- ISO 3166, whose national number form is assumed
    currency      TEXT    NOT NULL, -- ISO 4217
    hold_seconds  INTEGER NOT NULL,
    rates         TEXT    NOT NULL, -- JSON
    steps         TEXT    NOT NULL, -- JSON, by urgency
    mail_name     TEXT    NOT NULL,
    mail_from     TEXT    NOT NULL,
    return_domain TEXT    NOT NULL, -- mail to it comes back to us
    number_from   TEXT    NOT NULL, -- E.164
    revision      INTEGER NOT NULL DEFAULT 1, -- grows when a plan could come out differently
    demo          INTEGER NOT NULL DEFAULT 0
);

CREATE TABLE accounts (
    id            INTEGER PRIMARY KEY,
    login         TEXT    NOT NULL UNIQUE COLLATE NOCASE,
    name          TEXT    NOT NULL,
    duty          TEXT    NOT NULL DEFAULT '', -- what they do here, in a few words
    password_hash TEXT    NOT NULL,
    active        INTEGER NOT NULL DEFAULT 1
);

CREATE TABLE sessions (
    token  TEXT PRIMARY KEY,
    data   BLOB NOT NULL,
    expiry REAL NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE people (
    id          INTEGER PRIMARY KEY,
    external_id TEXT,
    given_name  TEXT NOT NULL,
    family_name TEXT NOT NULL,
    language    TEXT NOT NULL DEFAULT '',
    status      TEXT NOT NULL DEFAULT 'active'
);
CREATE UNIQUE INDEX people_external_id ON people (external_id) WHERE external_id IS NOT NULL;
CREATE INDEX people_name ON people (coalesce(nullif(family_name, ''), given_name) COLLATE NOCASE, given_name COLLATE NOCASE, id);

CREATE TABLE person_roles (
    person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    role      TEXT    NOT NULL,
    PRIMARY KEY (person_id, role)
) WITHOUT ROWID;

CREATE TABLE guardian_ties (
    guardian_id  INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    dependent_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    receives     INTEGER NOT NULL,
    barred       INTEGER NOT NULL,
    PRIMARY KEY (dependent_id, guardian_id),
    CHECK (guardian_id <> dependent_id)
) WITHOUT ROWID;
CREATE INDEX guardian_ties_guardian ON guardian_ties (guardian_id);

CREATE TABLE addresses (
    id               INTEGER PRIMARY KEY,
    person_id        INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    channel          TEXT    NOT NULL,
    value            TEXT    NOT NULL,
    label            TEXT    NOT NULL DEFAULT '',
    position         INTEGER NOT NULL,
    health           TEXT    NOT NULL DEFAULT 'untried',
    health_detail    TEXT    NOT NULL DEFAULT '',
    declines_routine INTEGER NOT NULL DEFAULT 0,
    declines_timely  INTEGER NOT NULL DEFAULT 0,
    carrier_stop     INTEGER NOT NULL DEFAULT 0,
    UNIQUE (person_id, channel, value)
);
CREATE INDEX addresses_value ON addresses (channel, value);

CREATE TABLE groups (
    id       INTEGER PRIMARY KEY,
    name     TEXT    NOT NULL UNIQUE COLLATE NOCASE,
    position INTEGER NOT NULL -- in the organisation's one order
);

CREATE TABLE group_members (
    group_id  INTEGER NOT NULL REFERENCES groups (id) ON DELETE CASCADE,
    person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    PRIMARY KEY (group_id, person_id)
) WITHOUT ROWID;
CREATE INDEX group_members_person ON group_members (person_id);

CREATE TABLE group_nestings (
    outer_id INTEGER NOT NULL REFERENCES groups (id) ON DELETE CASCADE,
    inner_id INTEGER NOT NULL REFERENCES groups (id) ON DELETE CASCADE,
    PRIMARY KEY (outer_id, inner_id),
    CHECK (outer_id <> inner_id)
) WITHOUT ROWID;

CREATE TABLE imports (
    id         INTEGER PRIMARY KEY,
    account_id INTEGER REFERENCES accounts (id),
    file_name  TEXT    NOT NULL,
    file       BLOB,             -- until it is loaded
    mapping    TEXT    NOT NULL, -- JSON: the meaning of each column
    state      TEXT    NOT NULL, -- proposed, loading, loaded
    result     TEXT    NOT NULL DEFAULT '', -- what it came to, in words
    created_at INTEGER NOT NULL
);

CREATE TABLE messages (
    id         INTEGER PRIMARY KEY,
    account_id INTEGER NOT NULL REFERENCES accounts (id),
    state      TEXT    NOT NULL, -- draft, held, sending, sent, stopped
    title      TEXT    NOT NULL,
    draft      TEXT    NOT NULL, -- JSON
    revision   INTEGER NOT NULL DEFAULT 1,
    created_at INTEGER NOT NULL,
    updated_at INTEGER NOT NULL,
    sent_by    INTEGER REFERENCES accounts (id),
    sent_at    INTEGER NOT NULL DEFAULT 0, -- when Send was pressed
    leaves_at  INTEGER NOT NULL DEFAULT 0, -- when the hold, or the wait for its time, is over
    ended_at   INTEGER NOT NULL DEFAULT 0  -- when the last delivery had left or was stopped
);
CREATE INDEX messages_state ON messages (state, updated_at);

CREATE TABLE recipients (
    id         INTEGER PRIMARY KEY,
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    person_id  INTEGER REFERENCES people (id) ON DELETE SET NULL,
    name       TEXT    NOT NULL,
    language   TEXT    NOT NULL,
    step       INTEGER NOT NULL,
    why        TEXT    NOT NULL
);
CREATE INDEX recipients_message ON recipients (message_id);
CREATE INDEX recipients_person ON recipients (person_id);

CREATE TABLE left_out (
    id         INTEGER PRIMARY KEY,
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    person_id  INTEGER REFERENCES people (id) ON DELETE SET NULL,
    name       TEXT    NOT NULL,
    reason     TEXT    NOT NULL,
    detail     TEXT    NOT NULL
);
CREATE INDEX left_out_message ON left_out (message_id);

CREATE TABLE deliveries (
    id          INTEGER PRIMARY KEY,
    message_id  INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    channel     TEXT    NOT NULL,
    address     TEXT    NOT NULL,
    subject     TEXT    NOT NULL,
    body        TEXT    NOT NULL,
    parts       INTEGER NOT NULL,
    seconds     INTEGER NOT NULL,
    cost        INTEGER NOT NULL,
    key         TEXT    NOT NULL UNIQUE, -- the idempotency key of its hand-over
    state       TEXT    NOT NULL,
    claimed     INTEGER NOT NULL DEFAULT 0, -- being handed over: can no longer be stopped
    attempts    INTEGER NOT NULL DEFAULT 0,
    queued_at   INTEGER NOT NULL DEFAULT 0, -- when it was first free to leave
    due_at      INTEGER NOT NULL, -- when it may be tried next
    detail      TEXT    NOT NULL DEFAULT '', -- the last thing heard
    updated_at  INTEGER NOT NULL
);
CREATE INDEX deliveries_message ON deliveries (message_id, state);
CREATE INDEX deliveries_due ON deliveries (channel, due_at) WHERE state IN ('queued', 'retrying') AND claimed = 0;

CREATE TABLE delivery_recipients (
    delivery_id  INTEGER NOT NULL REFERENCES deliveries (id) ON DELETE CASCADE,
    recipient_id INTEGER NOT NULL REFERENCES recipients (id) ON DELETE CASCADE,
    PRIMARY KEY (delivery_id, recipient_id)
) WITHOUT ROWID;
CREATE INDEX delivery_recipients_recipient ON delivery_recipients (recipient_id);

-- Every report is kept, whether or not it moved its delivery on.
CREATE TABLE reports (
    id          INTEGER PRIMARY KEY,
    delivery_id INTEGER NOT NULL REFERENCES deliveries (id) ON DELETE CASCADE,
    report_key  TEXT    NOT NULL, -- the carrier's own, to know a report that comes twice
    state       TEXT    NOT NULL,
    detail      TEXT    NOT NULL,
    occurred_at INTEGER NOT NULL,
    received_at INTEGER NOT NULL,
    UNIQUE (delivery_id, report_key)
);

-- +goose Down
DROP TABLE reports;
DROP TABLE delivery_recipients;
DROP TABLE deliveries;
DROP TABLE left_out;
DROP TABLE recipients;
DROP TABLE messages;
DROP TABLE imports;
DROP TABLE group_nestings;
DROP TABLE group_members;
DROP TABLE groups;
DROP TABLE addresses;
DROP TABLE guardian_ties;
DROP TABLE person_roles;
DROP TABLE people;
DROP TABLE sessions;
DROP TABLE accounts;
DROP TABLE organisation;
