-- +goose Up
-- A scheduled message is planned again shortly before it leaves, and what still waits
-- is looked at again when the roster changed.
ALTER TABLE messages ADD COLUMN planned_for INTEGER NOT NULL DEFAULT 0; -- the revision of the roster that its plan knows
ALTER TABLE messages ADD COLUMN looked_at INTEGER NOT NULL DEFAULT 0; -- when the plan was last compared with the roster
ALTER TABLE messages ADD COLUMN changes TEXT NOT NULL DEFAULT ''; -- JSON: what changed since it was checked
UPDATE messages SET planned_for = (SELECT o.revision FROM organisation o) WHERE state NOT IN ('draft', 'held');

-- +goose Down
ALTER TABLE messages DROP COLUMN changes;
ALTER TABLE messages DROP COLUMN looked_at;
ALTER TABLE messages DROP COLUMN planned_for;
