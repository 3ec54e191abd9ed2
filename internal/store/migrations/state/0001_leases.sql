-- +goose Up
CREATE TABLE lease (
  id TEXT PRIMARY KEY,
  tag TEXT NOT NULL,
  path TEXT NOT NULL,
  person TEXT NOT NULL,
  name TEXT NOT NULL,
  panel TEXT NOT NULL,
  screen TEXT NOT NULL,
  element TEXT NOT NULL,
  release_value TEXT NOT NULL,
  device BLOB NOT NULL,
  tag_doc BLOB NOT NULL,
  at INTEGER NOT NULL
);
-- +goose Down
DROP TABLE lease;
