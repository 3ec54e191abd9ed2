-- +goose Up
-- The course of a tag in blocks of internal/core/history, with the buckets of a
-- minute that lie in each, and those of five minutes packed by day. Keys are day
-- of the month, tag, second of the day and a number within it, from high to low
-- bits; see months.go. What is in the table sample is brought over when the file
-- is opened. until is the time of the tag's newest sample in a block.
ALTER TABLE tag ADD COLUMN until INTEGER NOT NULL DEFAULT 0;
CREATE TABLE block (key INTEGER PRIMARY KEY, data BLOB NOT NULL);
CREATE TABLE minutes (key INTEGER PRIMARY KEY, data BLOB NOT NULL);
CREATE TABLE day (key INTEGER PRIMARY KEY, data BLOB NOT NULL);
