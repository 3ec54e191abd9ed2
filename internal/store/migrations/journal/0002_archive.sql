-- +goose Up
-- What was written out and sealed; the file lies in the project's folder.
CREATE TABLE archive (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  file TEXT NOT NULL UNIQUE,
  hash TEXT NOT NULL,
  entries INTEGER NOT NULL,
  first INTEGER NOT NULL,
  last INTEGER NOT NULL,
  at INTEGER NOT NULL,
  person TEXT NOT NULL,
  reason TEXT NOT NULL
);
-- +goose Down
DROP TABLE archive;
