-- +goose Up
-- With whom a thread is: one, people, group, area, everybody, job.
ALTER TABLE threads ADD COLUMN kind TEXT NOT NULL DEFAULT 'one';
ALTER TABLE threads ADD COLUMN group_id INTEGER REFERENCES groups (id) ON DELETE SET NULL; -- of a group or a job
ALTER TABLE threads ADD COLUMN unit_id INTEGER REFERENCES units (id) ON DELETE SET NULL; -- of an area
ALTER TABLE threads ADD COLUMN named INTEGER NOT NULL DEFAULT 0; -- somebody gave it its name
ALTER TABLE threads ADD COLUMN shared INTEGER NOT NULL DEFAULT 0; -- all in it see what is said
CREATE INDEX threads_group ON threads (group_id) WHERE group_id IS NOT NULL;
CREATE INDEX threads_unit ON threads (unit_id) WHERE unit_id IS NOT NULL;

-- What is kept of people in a thread with many. Who is in it otherwise follows the roster.
CREATE TABLE thread_people (
    thread_id INTEGER NOT NULL REFERENCES threads (id) ON DELETE CASCADE,
    person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    chosen    INTEGER NOT NULL DEFAULT 0, -- at the desk
    told_at   INTEGER NOT NULL DEFAULT 0, -- that all in it see what is said
    left_at   INTEGER NOT NULL DEFAULT 0, -- by the word for it
    PRIMARY KEY (thread_id, person_id)
) WITHOUT ROWID;
CREATE INDEX thread_people_person ON thread_people (person_id);

ALTER TABLE entries ADD COLUMN person_id INTEGER REFERENCES people (id) ON DELETE SET NULL; -- who said it
ALTER TABLE entries ADD COLUMN passed_id INTEGER REFERENCES messages (id) ON DELETE SET NULL; -- as which it was passed on
ALTER TABLE entries ADD COLUMN interrupts INTEGER NOT NULL DEFAULT 0; -- pushes of it stay until they are touched
CREATE INDEX entries_passed ON entries (passed_id) WHERE passed_id IS NOT NULL;
CREATE INDEX entries_person ON entries (person_id) WHERE person_id IS NOT NULL;

ALTER TABLE groups ADD COLUMN reference TEXT NOT NULL DEFAULT ''; -- of a job, as others call it

-- What part the people of a job have in it: does, on-site, watches. Who stands here is in
-- the group too; whoever is in it and does not stand here does it.
CREATE TABLE job_people (
    job_id    INTEGER NOT NULL REFERENCES groups (id) ON DELETE CASCADE,
    person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    part      TEXT    NOT NULL,
    came_by   INTEGER REFERENCES messages (id) ON DELETE SET NULL, -- the message that they answered
    PRIMARY KEY (job_id, person_id)
) WITHOUT ROWID;
CREATE INDEX job_people_person ON job_people (person_id);

-- What a new job can begin with.
CREATE TABLE job_templates (
    id   INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    job  TEXT NOT NULL -- JSON: unit, place, how long it takes, people and groups by part
);

-- For which job a message asks who is coming, and the last answer that was taken into it.
ALTER TABLE messages ADD COLUMN job_id INTEGER REFERENCES groups (id) ON DELETE SET NULL;
ALTER TABLE messages ADD COLUMN joined INTEGER NOT NULL DEFAULT 0;
CREATE INDEX messages_job ON messages (job_id) WHERE job_id IS NOT NULL;

-- +goose Down
DROP INDEX messages_job;
ALTER TABLE messages DROP COLUMN joined;
ALTER TABLE messages DROP COLUMN job_id;
DROP TABLE job_templates;
DROP TABLE job_people;
ALTER TABLE groups DROP COLUMN reference;
DROP INDEX entries_person;
DROP INDEX entries_passed;
ALTER TABLE entries DROP COLUMN interrupts;
ALTER TABLE entries DROP COLUMN passed_id;
ALTER TABLE entries DROP COLUMN person_id;
DROP TABLE thread_people;
DROP INDEX threads_unit;
DROP INDEX threads_group;
ALTER TABLE threads DROP COLUMN shared;
ALTER TABLE threads DROP COLUMN named;
ALTER TABLE threads DROP COLUMN unit_id;
ALTER TABLE threads DROP COLUMN group_id;
ALTER TABLE threads DROP COLUMN kind;
