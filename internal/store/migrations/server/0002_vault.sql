-- +goose Up
CREATE TABLE vault (
  name TEXT PRIMARY KEY COLLATE NOCASE,
  kind TEXT NOT NULL,
  roles TEXT NOT NULL,
  note TEXT NOT NULL,
  sealed BLOB NOT NULL,
  person TEXT NOT NULL,
  at INTEGER NOT NULL
) WITHOUT ROWID;
-- +goose Down
DROP TABLE vault;
