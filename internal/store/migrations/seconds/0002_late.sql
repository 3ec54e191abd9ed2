-- +goose Up
-- Samples from before what is in blocks already wait here until the blocks among
-- which they belong are written anew; data is as in second.
CREATE TABLE late (
    seq  INTEGER PRIMARY KEY AUTOINCREMENT,
    data BLOB NOT NULL
);
