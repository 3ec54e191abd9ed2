-- +goose Up
-- What came in lies here, a row each time it was kept, until it is in the files
-- of the months. Times are nanoseconds since 1970, UTC.
CREATE TABLE tag (
    n  INTEGER PRIMARY KEY,
    id TEXT NOT NULL UNIQUE
);
CREATE TABLE second (
    seq  INTEGER PRIMARY KEY AUTOINCREMENT,
    at   INTEGER NOT NULL, -- of its newest sample
    form INTEGER NOT NULL, -- how data is written; see seconds.go
    data BLOB NOT NULL
);
