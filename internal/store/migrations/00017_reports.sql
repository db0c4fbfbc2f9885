-- +goose Up
-- In what a message was paid for, ISO 4217.
ALTER TABLE messages ADD COLUMN currency TEXT NOT NULL DEFAULT '';
UPDATE messages SET currency = coalesce(
    (SELECT json_extract(s.settings, '$.currency') FROM sendings s WHERE s.message_id = messages.id),
    (SELECT o.currency FROM organisation o), '')
WHERE state <> 'draft';

-- What it would have come to had every channel been used at once; 0 is not known.
ALTER TABLE figures ADD COLUMN at_once INTEGER NOT NULL DEFAULT 0; -- deliveries
ALTER TABLE figures ADD COLUMN at_once_cost INTEGER NOT NULL DEFAULT 0;

CREATE TABLE kept_reports (
    id         INTEGER PRIMARY KEY,
    name       TEXT    NOT NULL UNIQUE,
    account_id INTEGER REFERENCES accounts (id), -- who keeps it
    ask        TEXT    NOT NULL -- JSON: what is counted
);

-- To whom a kept report is mailed each month.
CREATE TABLE report_readers (
    report_id  INTEGER NOT NULL REFERENCES kept_reports (id) ON DELETE CASCADE,
    account_id INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    month      TEXT    NOT NULL, -- the last one that they got or that was passed over, 2026-11
    PRIMARY KEY (report_id, account_id)
) WITHOUT ROWID;

-- How many people had a gap, counted once a day.
CREATE TABLE gap_days (
    day     TEXT    NOT NULL,
    unit_id INTEGER NOT NULL, -- 0 is no unit
    gap     TEXT    NOT NULL, -- of roster.Gap, 'declines' for those who decline anything anywhere, or 'people' for all
    people  INTEGER NOT NULL,
    PRIMARY KEY (day, unit_id, gap)
) WITHOUT ROWID;

-- +goose Down
DROP TABLE gap_days;
DROP TABLE report_readers;
DROP TABLE kept_reports;
ALTER TABLE figures DROP COLUMN at_once_cost;
ALTER TABLE figures DROP COLUMN at_once;
ALTER TABLE messages DROP COLUMN currency;
