-- +goose Up
-- A tag's id stands once; its samples carry the number. Times are nanoseconds
-- since 1970, UTC; the quality is that of internal/core/value.
CREATE TABLE tag (
    n  INTEGER PRIMARY KEY,
    id TEXT NOT NULL UNIQUE
);
CREATE TABLE sample (
    tag     INTEGER NOT NULL REFERENCES tag (n),
    at      INTEGER NOT NULL,
    value   REAL NOT NULL,
    quality INTEGER NOT NULL,
    PRIMARY KEY (tag, at)
) WITHOUT ROWID;
