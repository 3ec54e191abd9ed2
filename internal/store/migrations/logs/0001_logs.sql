-- +goose Up
-- How logs stand, and what cuts them. Times are nanoseconds since 1970, UTC.
CREATE TABLE log (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  state TEXT NOT NULL,  -- on, off or full
  person TEXT NOT NULL, -- who started or stopped it last
  at INTEGER NOT NULL,
  exported INTEGER NOT NULL DEFAULT 0, -- when it was last written out whole
  upto INTEGER NOT NULL DEFAULT 0      -- and up to which of its times
) WITHOUT ROWID;
-- A span without an end lasts yet. A mark is a span that ends as it begins.
CREATE TABLE span (
  seq INTEGER PRIMARY KEY AUTOINCREMENT,
  log TEXT NOT NULL,
  of TEXT NOT NULL,     -- id of the equipment, empty for none
  name TEXT NOT NULL,
  began INTEGER NOT NULL,
  ended INTEGER,
  mark INTEGER NOT NULL,
  person TEXT NOT NULL, -- who made a mark
  note TEXT NOT NULL
);
CREATE INDEX span_by_log ON span (log, began);
-- +goose Down
DROP TABLE span;
DROP TABLE log;
