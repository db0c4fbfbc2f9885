-- +goose Up
-- What somebody said about how a roster file is to be read, JSON.
ALTER TABLE imports ADD COLUMN reading TEXT NOT NULL DEFAULT '{}';
