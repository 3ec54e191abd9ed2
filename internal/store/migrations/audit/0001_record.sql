-- +goose Up
CREATE TABLE record (
  seq INTEGER PRIMARY KEY,
  at INTEGER NOT NULL,
  what TEXT NOT NULL,
  person TEXT NOT NULL,
  name TEXT NOT NULL,
  panel TEXT NOT NULL,
  screen TEXT NOT NULL,
  element TEXT NOT NULL,
  tag TEXT NOT NULL,
  path TEXT NOT NULL,
  old TEXT NOT NULL,
  new TEXT NOT NULL,
  outcome TEXT NOT NULL,
  reason TEXT NOT NULL,
  intent INTEGER NOT NULL,
  key TEXT NOT NULL,
  hash BLOB NOT NULL
);
CREATE INDEX record_intent ON record (intent) WHERE intent > 0;
CREATE UNIQUE INDEX record_key ON record (key) WHERE key <> '' AND what = 'intent';
CREATE TRIGGER record_no_update BEFORE UPDATE ON record BEGIN SELECT RAISE(ABORT, 'audit records are not altered'); END;
CREATE TRIGGER record_no_delete BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'audit records are not deleted'); END;
-- +goose Down
DROP TABLE record;
