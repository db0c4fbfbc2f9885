-- +goose Up
ALTER TABLE messages ADD COLUMN expires_at INTEGER NOT NULL DEFAULT 0; -- what has not left by then does not leave any more; 0 is never
ALTER TABLE messages ADD COLUMN paused_by TEXT NOT NULL DEFAULT ''; -- who lets it wait; '' while nobody does
CREATE INDEX messages_expiring ON messages (expires_at) WHERE state = 'sending' AND expires_at > 0;

-- +goose Down
DROP INDEX messages_expiring;
ALTER TABLE messages DROP COLUMN paused_by;
ALTER TABLE messages DROP COLUMN expires_at;
