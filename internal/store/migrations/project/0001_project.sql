-- +goose Up
CREATE TABLE entity (
  kind TEXT NOT NULL,
  id TEXT NOT NULL,
  doc BLOB NOT NULL,
  PRIMARY KEY (kind, id)
) WITHOUT ROWID;
CREATE TABLE change (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  at INTEGER NOT NULL,
  person TEXT NOT NULL,
  label TEXT NOT NULL,
  changes BLOB NOT NULL,
  state TEXT NOT NULL DEFAULT 'done' CHECK (state IN ('done', 'undone', 'gone'))
);
CREATE INDEX change_person ON change (person, id);
CREATE TABLE release (
  number INTEGER PRIMARY KEY AUTOINCREMENT,
  at INTEGER NOT NULL,
  person TEXT NOT NULL,
  note TEXT NOT NULL,
  change INTEGER NOT NULL,
  hash TEXT NOT NULL,
  archive BLOB NOT NULL
);
-- +goose Down
DROP TABLE release;
DROP TABLE change;
DROP TABLE entity;
