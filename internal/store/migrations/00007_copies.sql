-- +goose Up
-- How each line of a message is said in another language. A line is known by its
-- content; lines that are no longer in the message stay, so that what changed can be
-- shown.
CREATE TABLE copy_lines (
    message_id INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    language   TEXT    NOT NULL, -- BCP 47
    key        TEXT    NOT NULL, -- of the original
    original   TEXT    NOT NULL,
    places     TEXT    NOT NULL, -- JSON: what the numbers in it stand for
    target     TEXT    NOT NULL,
    source     TEXT    NOT NULL,
    filled_by  TEXT    NOT NULL,
    filled_at  INTEGER NOT NULL,
    checked_by TEXT    NOT NULL DEFAULT '', -- empty while nobody read it
    checked_at INTEGER NOT NULL DEFAULT 0,
    PRIMARY KEY (message_id, language, key)
) WITHOUT ROWID;

-- The copy that a recipient got; empty for the original.
ALTER TABLE recipients ADD COLUMN copy TEXT NOT NULL DEFAULT '';

-- The memory: every line that somebody checked, with how it is said.
CREATE TABLE remembered (
    id       INTEGER PRIMARY KEY,
    language TEXT NOT NULL, -- of the original
    key      TEXT NOT NULL,
    original TEXT NOT NULL,
    places   TEXT NOT NULL,
    shape    TEXT NOT NULL, -- without its numbers, times and dates
    UNIQUE (language, key)
);
CREATE INDEX remembered_shape ON remembered (shape, language);
CREATE VIRTUAL TABLE remembered_words USING fts5 (original, content = 'remembered', content_rowid = 'id', tokenize = 'trigram');
CREATE VIRTUAL TABLE remembered_trigrams USING fts5vocab (remembered_words, 'row'); -- how often each occurs
-- +goose StatementBegin
CREATE TRIGGER remembered_added AFTER INSERT ON remembered BEGIN
    INSERT INTO remembered_words (rowid, original) VALUES (new.id, new.original);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER remembered_dropped AFTER DELETE ON remembered BEGIN
    INSERT INTO remembered_words (remembered_words, rowid, original) VALUES ('delete', old.id, old.original);
END;
-- +goose StatementEnd

CREATE TABLE remembered_targets (
    original_id INTEGER NOT NULL REFERENCES remembered (id) ON DELETE CASCADE,
    language    TEXT    NOT NULL,
    target      TEXT    NOT NULL,
    unit_id     INTEGER NOT NULL DEFAULT 0, -- of whoever checked it; 0 is the whole organisation
    checked_by  TEXT    NOT NULL,
    checked_at  INTEGER NOT NULL,
    PRIMARY KEY (original_id, language)
) WITHOUT ROWID;

-- The glossary: how a term is said in a language, or that it stays as it is.
CREATE TABLE terms (
    id       INTEGER PRIMARY KEY,
    term     TEXT NOT NULL,
    language TEXT NOT NULL,
    says     TEXT NOT NULL,
    note     TEXT NOT NULL DEFAULT '',
    UNIQUE (term, language)
);

-- +goose Down
DROP TABLE terms;
DROP TABLE remembered_targets;
DROP TABLE remembered_trigrams;
DROP TABLE remembered_words;
DROP TABLE remembered;
ALTER TABLE recipients DROP COLUMN copy;
DROP TABLE copy_lines;
