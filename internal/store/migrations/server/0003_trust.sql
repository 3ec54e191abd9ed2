-- +goose Up
ALTER TABLE person ADD COLUMN server INTEGER NOT NULL DEFAULT 0;    -- manages the server: accounts, vault, failed sign-ins
ALTER TABLE person ADD COLUMN home TEXT NOT NULL DEFAULT '';        -- project in which the account was made
ALTER TABLE person ADD COLUMN set_by TEXT NOT NULL DEFAULT '';      -- full name of who set the secret for one sign-in; empty when the person chose it
ALTER TABLE person ADD COLUMN epoch INTEGER NOT NULL DEFAULT 0;     -- counts up when a secret changes: sessions of an older one have ended
ALTER TABLE person DROP COLUMN failures;
ALTER TABLE person DROP COLUMN locked_until;
ALTER TABLE panel ADD COLUMN project TEXT NOT NULL DEFAULT '';
ALTER TABLE vault ADD COLUMN hosts TEXT NOT NULL DEFAULT '';        -- where a credential may go, as JSON
CREATE TABLE failed_sign_in (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  place TEXT NOT NULL,
  first INTEGER NOT NULL,
  last INTEGER NOT NULL,
  count INTEGER NOT NULL
);
-- +goose Down
DROP TABLE failed_sign_in;
