-- +goose Up
CREATE TABLE screen_check (
  screen TEXT NOT NULL,
  args TEXT NOT NULL,
  element TEXT NOT NULL,
  result TEXT NOT NULL,
  person TEXT NOT NULL,
  name TEXT NOT NULL,
  at INTEGER NOT NULL,
  note TEXT NOT NULL,
  definition TEXT NOT NULL,
  PRIMARY KEY (screen, args, element)
) WITHOUT ROWID;
-- +goose Down
DROP TABLE screen_check;
