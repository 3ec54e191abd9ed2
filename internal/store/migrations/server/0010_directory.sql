-- +goose Up
ALTER TABLE person ADD COLUMN subject TEXT NOT NULL DEFAULT '';     -- what the company's directory knows the person by for good; empty for an account of our own
ALTER TABLE person ADD COLUMN renewal BLOB;                         -- with what the directory is asked again, sealed with the vault's key; NULL for nothing
ALTER TABLE person ADD COLUMN gone INTEGER NOT NULL DEFAULT 0;      -- the directory no longer has the person
ALTER TABLE grants ADD COLUMN directory INTEGER NOT NULL DEFAULT 0; -- given by a group of the directory
CREATE UNIQUE INDEX person_subject ON person (subject) WHERE subject <> '';
CREATE TABLE setting (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL -- JSON
);
-- +goose Down
DROP TABLE setting;
DROP INDEX person_subject;
ALTER TABLE grants DROP COLUMN directory;
ALTER TABLE person DROP COLUMN gone;
ALTER TABLE person DROP COLUMN renewal;
ALTER TABLE person DROP COLUMN subject;
