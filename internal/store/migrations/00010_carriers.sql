-- +goose Up
-- How the organisation's carriers are spoken to, in the order in which they are tried.
CREATE TABLE carriers (
    id        INTEGER PRIMARY KEY AUTOINCREMENT, -- never given again: troubles and days name it
    channel   TEXT    NOT NULL,
    rank      INTEGER NOT NULL,
    setup     TEXT    NOT NULL, -- JSON, without secrets
    secrets   BLOB    NOT NULL, -- sealed with a key that lies outside the database
    tried_at  INTEGER NOT NULL DEFAULT 0, -- when a trial was last handed over
    tried     TEXT    NOT NULL DEFAULT '' -- what was wrong with it
);

-- How many deliveries a carrier took in a day of the organisation's clocks; 0 is the one
-- that the program was started with.
CREATE TABLE carrier_days (
    channel TEXT    NOT NULL,
    carrier INTEGER NOT NULL,
    day     TEXT    NOT NULL, -- ISO 8601
    taken   INTEGER NOT NULL,
    PRIMARY KEY (channel, carrier, day)
) WITHOUT ROWID;

-- A carrier's own trouble; nothing is handed over to it meanwhile.
CREATE TABLE troubles (
    channel  TEXT    NOT NULL,
    carrier  INTEGER NOT NULL,
    detail   TEXT    NOT NULL, -- what it said
    since    INTEGER NOT NULL,
    tries    INTEGER NOT NULL, -- how often it was in trouble since it last was well
    retry_at INTEGER NOT NULL,
    PRIMARY KEY (channel, carrier)
) WITHOUT ROWID;
INSERT INTO troubles (channel, carrier, detail, since, tries, retry_at)
SELECT channel, 0, detail, since, tries, retry_at FROM carrier_troubles;
DROP TABLE carrier_troubles;
