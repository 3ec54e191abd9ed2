-- +goose Up
CREATE TABLE person (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE UNIQUE,
  full_name TEXT NOT NULL,
  password TEXT NOT NULL DEFAULT '',
  pin TEXT NOT NULL DEFAULT '',
  owner INTEGER NOT NULL DEFAULT 0,
  disabled INTEGER NOT NULL DEFAULT 0,
  failures INTEGER NOT NULL DEFAULT 0,
  locked_until INTEGER NOT NULL DEFAULT 0
);
CREATE TABLE session (
  token TEXT PRIMARY KEY,
  data BLOB NOT NULL,
  expiry INTEGER NOT NULL
);
CREATE TABLE panel (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE UNIQUE,
  key_hash BLOB NOT NULL UNIQUE,
  enrolled_by TEXT NOT NULL,
  at INTEGER NOT NULL
);
CREATE TABLE grants (
  project TEXT NOT NULL,
  person TEXT NOT NULL,
  role TEXT NOT NULL,
  area TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (project, person, role, area)
);
-- +goose Down
DROP TABLE grants;
DROP TABLE panel;
DROP TABLE session;
DROP TABLE person;
