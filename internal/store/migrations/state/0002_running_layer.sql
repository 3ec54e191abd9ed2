-- +goose Up
CREATE TABLE override (
  tag TEXT PRIMARY KEY,
  value TEXT NOT NULL,
  person TEXT NOT NULL,
  name TEXT NOT NULL,
  reason TEXT NOT NULL,
  at INTEGER NOT NULL,
  until INTEGER NOT NULL
) WITHOUT ROWID;
CREATE TABLE retained (
  tag TEXT PRIMARY KEY,
  value TEXT NOT NULL
) WITHOUT ROWID;
CREATE TABLE loop_check (
  tag TEXT PRIMARY KEY,
  result TEXT NOT NULL,
  person TEXT NOT NULL,
  name TEXT NOT NULL,
  at INTEGER NOT NULL,
  seen TEXT NOT NULL,
  raw TEXT NOT NULL,
  note TEXT NOT NULL,
  definition TEXT NOT NULL
) WITHOUT ROWID;
CREATE TABLE watch_set (
  person TEXT NOT NULL,
  name TEXT NOT NULL COLLATE NOCASE,
  tags TEXT NOT NULL,
  PRIMARY KEY (person, name)
) WITHOUT ROWID;
CREATE TABLE turn (
  one INTEGER PRIMARY KEY CHECK (one = 1),
  person TEXT NOT NULL,
  name TEXT NOT NULL,
  devices TEXT NOT NULL,
  reason TEXT NOT NULL,
  until INTEGER NOT NULL
);
-- +goose Down
DROP TABLE turn;
DROP TABLE watch_set;
DROP TABLE loop_check;
DROP TABLE retained;
DROP TABLE override;
