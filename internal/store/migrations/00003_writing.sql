-- +goose Up
ALTER TABLE organisation ADD COLUMN sending TEXT NOT NULL DEFAULT '{}'; -- JSON: the rules of sending

-- +goose Down
ALTER TABLE organisation DROP COLUMN sending;
