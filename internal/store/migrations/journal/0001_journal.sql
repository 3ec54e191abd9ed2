-- +goose Up
CREATE TABLE entry (
  seq INTEGER PRIMARY KEY AUTOINCREMENT,
  at INTEGER NOT NULL,
  kind TEXT NOT NULL,
  what TEXT NOT NULL,
  alarm TEXT NOT NULL,
  name TEXT NOT NULL,
  area TEXT NOT NULL,
  class TEXT NOT NULL,
  priority INTEGER NOT NULL,
  state TEXT NOT NULL,
  text TEXT NOT NULL,
  value TEXT NOT NULL,
  bound TEXT NOT NULL,
  person TEXT NOT NULL,
  panel TEXT NOT NULL,
  reason TEXT NOT NULL,
  comments INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX entry_at ON entry (at);
CREATE INDEX entry_alarm ON entry (alarm, seq);
CREATE INDEX entry_kind ON entry (kind, seq);
CREATE INDEX entry_priority ON entry (priority, seq);
CREATE TABLE comment (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  entry INTEGER NOT NULL REFERENCES entry (seq) ON DELETE CASCADE,
  at INTEGER NOT NULL,
  person TEXT NOT NULL,
  text TEXT NOT NULL
);
CREATE INDEX comment_entry ON comment (entry);
CREATE TABLE standing (
  alarm TEXT PRIMARY KEY,
  doc TEXT NOT NULL
) WITHOUT ROWID;
-- +goose Down
DROP TABLE standing;
DROP TABLE comment;
DROP TABLE entry;
