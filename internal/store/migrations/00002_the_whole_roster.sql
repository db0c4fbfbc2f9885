-- +goose Up
-- Days are ISO 8601, '' where there is none.

CREATE TABLE units (
    id        INTEGER PRIMARY KEY AUTOINCREMENT, -- never given out again
    name      TEXT    NOT NULL,
    parent_id INTEGER REFERENCES units (id),
    position  INTEGER NOT NULL
);

ALTER TABLE people ADD COLUMN known_as TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN away_until TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN born_on TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN unit_id INTEGER REFERENCES units (id);
ALTER TABLE people ADD COLUMN time_zone TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN wish TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN notes TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN reached_on TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
ALTER TABLE people ADD COLUMN roles TEXT NOT NULL DEFAULT ''; -- with commas between them
ALTER TABLE people ADD COLUMN attributes TEXT NOT NULL DEFAULT ''; -- JSON: values by attribute
UPDATE people SET roles = coalesce((SELECT group_concat(role, ',') FROM person_roles r WHERE r.person_id = people.id), '');
DROP TABLE person_roles;
-- Somebody who was taken off the roster keeps their number, so that records
-- and undoing still find them, and nothing else.
ALTER TABLE people ADD COLUMN gone INTEGER NOT NULL DEFAULT 0;
ALTER TABLE people ADD COLUMN merged_into INTEGER REFERENCES people (id);
CREATE INDEX people_merged ON people (merged_into) WHERE merged_into IS NOT NULL;
DROP INDEX people_name; -- lists are sorted by the core, which knows names

ALTER TABLE addresses ADD COLUMN failed_on TEXT NOT NULL DEFAULT '';
ALTER TABLE addresses ADD COLUMN checked_on TEXT NOT NULL DEFAULT '';

CREATE TABLE attributes (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    name     TEXT    NOT NULL UNIQUE COLLATE NOCASE,
    kind     TEXT    NOT NULL, -- text, number, date, choice, yes-no
    choices  TEXT    NOT NULL DEFAULT '[]', -- JSON
    position INTEGER NOT NULL
);

-- Groups are made anew so that the number of a deleted one never comes back:
-- a draft that names it must not write to another group.
CREATE TABLE all_groups (
    id            INTEGER PRIMARY KEY AUTOINCREMENT,
    name          TEXT    NOT NULL UNIQUE COLLATE NOCASE,
    position      INTEGER NOT NULL, -- in the organisation's one order
    kind          TEXT    NOT NULL DEFAULT 'picked', -- picked, rule, job
    unnamed       INTEGER NOT NULL DEFAULT 0,
    unit_id       INTEGER REFERENCES units (id),
    archived      INTEGER NOT NULL DEFAULT 0,
    rule          TEXT    NOT NULL DEFAULT '[]', -- JSON
    sender_name   TEXT    NOT NULL DEFAULT '',
    sender_number TEXT    NOT NULL DEFAULT '',
    caller_number TEXT    NOT NULL DEFAULT '',
    starts_at     INTEGER NOT NULL DEFAULT 0,
    ends_at       INTEGER NOT NULL DEFAULT 0,
    closed_at     INTEGER NOT NULL DEFAULT 0,
    place         TEXT    NOT NULL DEFAULT ''
);
INSERT INTO all_groups (id, name, position) SELECT id, name, position FROM groups;
CREATE TABLE all_members (
    group_id  INTEGER NOT NULL REFERENCES all_groups (id) ON DELETE CASCADE,
    person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    PRIMARY KEY (group_id, person_id)
) WITHOUT ROWID;
INSERT INTO all_members SELECT group_id, person_id FROM group_members;
CREATE TABLE all_nestings (
    outer_id INTEGER NOT NULL REFERENCES all_groups (id) ON DELETE CASCADE,
    inner_id INTEGER NOT NULL REFERENCES all_groups (id) ON DELETE CASCADE,
    PRIMARY KEY (outer_id, inner_id),
    CHECK (outer_id <> inner_id)
) WITHOUT ROWID;
INSERT INTO all_nestings SELECT outer_id, inner_id FROM group_nestings;
DROP TABLE group_nestings;
DROP TABLE group_members;
DROP TABLE groups;
ALTER TABLE all_groups RENAME TO groups;
ALTER TABLE all_members RENAME TO group_members;
ALTER TABLE all_nestings RENAME TO group_nestings;
CREATE INDEX group_members_person ON group_members (person_id);

ALTER TABLE accounts ADD COLUMN whole INTEGER NOT NULL DEFAULT 1; -- reaches the whole organisation
ALTER TABLE accounts ADD COLUMN units TEXT NOT NULL DEFAULT '[]'; -- JSON: or these units
ALTER TABLE accounts ADD COLUMN rights TEXT NOT NULL DEFAULT '["see-people","edit-people","write","write-emergencies","read-records","run-reports","change-settings"]'; -- JSON

ALTER TABLE organisation ADD COLUMN roles TEXT NOT NULL DEFAULT '[]'; -- JSON: its own, besides the built-in ones
ALTER TABLE organisation ADD COLUMN languages TEXT NOT NULL DEFAULT '[]'; -- JSON: those offered first
ALTER TABLE organisation ADD COLUMN updates_wait INTEGER NOT NULL DEFAULT 1; -- what people correct themselves waits for a yes
ALTER TABLE organisation ADD COLUMN secret TEXT NOT NULL DEFAULT ''; -- signs personal links

-- Every change of the roster, one row for what was done in one go.
CREATE TABLE edits (
    id         INTEGER PRIMARY KEY,
    account_id INTEGER REFERENCES accounts (id),
    kind       TEXT    NOT NULL, -- edit, add, remove, merge, import, undo, update
    said       TEXT    NOT NULL, -- in words
    people     INTEGER NOT NULL, -- how many it changed
    made_at    INTEGER NOT NULL,
    groups     TEXT    NOT NULL DEFAULT '{}', -- JSON: groups and nestings it made
    undone_by  INTEGER REFERENCES edits (id)
);

CREATE TABLE edit_people (
    edit_id   INTEGER NOT NULL REFERENCES edits (id) ON DELETE CASCADE,
    person_id INTEGER NOT NULL,
    version   INTEGER NOT NULL, -- of the person after it
    before    TEXT    NOT NULL, -- JSON, '' for one who was added
    changes   TEXT    NOT NULL, -- JSON, in words
    PRIMARY KEY (edit_id, person_id)
) WITHOUT ROWID;
CREATE INDEX edit_people_person ON edit_people (person_id);

ALTER TABLE imports ADD COLUMN mark_left INTEGER NOT NULL DEFAULT 0;
ALTER TABLE imports ADD COLUMN unit_id INTEGER REFERENCES units (id);
ALTER TABLE imports ADD COLUMN edit_id INTEGER REFERENCES edits (id);

-- How a file with these headings was understood before.
CREATE TABLE mappings (
    id      INTEGER PRIMARY KEY,
    name    TEXT NOT NULL UNIQUE COLLATE NOCASE,
    columns TEXT NOT NULL -- JSON: meaning by heading
);

ALTER TABLE deliveries ADD COLUMN sender TEXT NOT NULL DEFAULT ''; -- the name of an email, the number of a text or a call

-- The number under which a text conversation goes on.
CREATE TABLE conversations (
    address TEXT PRIMARY KEY, -- E.164
    number  TEXT NOT NULL     -- ours, E.164
) WITHOUT ROWID;

-- Stacks of filters that were given a name.
CREATE TABLE kept_filters (
    id   INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    rule TEXT NOT NULL -- JSON
);

-- Pairs of people who look like one and are two, the smaller number first.
CREATE TABLE not_twins (
    first_id  INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    second_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    PRIMARY KEY (first_id, second_id)
) WITHOUT ROWID;

-- What somebody corrected by their personal link.
CREATE TABLE updates (
    id         INTEGER PRIMARY KEY,
    person_id  INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    after      TEXT    NOT NULL, -- JSON: what they want to stand on the roster
    made_at    INTEGER NOT NULL,
    state      TEXT    NOT NULL -- waiting, accepted, declined
);
CREATE INDEX updates_waiting ON updates (person_id) WHERE state = 'waiting';

-- +goose Down
DROP TABLE updates;
DROP TABLE not_twins;
DROP TABLE kept_filters;
DROP TABLE conversations;
DROP TABLE mappings;
DROP TABLE edit_people;
DROP TABLE edits;
