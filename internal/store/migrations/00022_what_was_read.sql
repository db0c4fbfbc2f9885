-- +goose Up
-- The language from which what was said last was read by the machine, BCP 47; '' when
-- it stands as it was said, or somebody checked the copy.
ALTER TABLE threads ADD COLUMN last_from TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE threads DROP COLUMN last_from;
