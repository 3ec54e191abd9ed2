-- +goose Up
ALTER TABLE person ADD COLUMN until TEXT NOT NULL DEFAULT '';      -- the last day of the account, 2026-12-31; empty for no end
ALTER TABLE person ADD COLUMN renew INTEGER NOT NULL DEFAULT 0;    -- a new password is to be chosen at the next sign-in
CREATE TABLE old_password (
  id INTEGER PRIMARY KEY,
  person TEXT NOT NULL,
  hash TEXT NOT NULL
);
CREATE INDEX old_password_person ON old_password (person, id);
-- +goose Down
DROP TABLE old_password;
ALTER TABLE person DROP COLUMN renew;
ALTER TABLE person DROP COLUMN until;
