-- +goose Up
-- The newest record and how many there are, under a seal of its own, so that
-- the end of the chain cannot be cut off unseen. closed: every intent up to this
-- number has its outcome.
CREATE TABLE head (
  one INTEGER PRIMARY KEY CHECK (one = 1),
  seq INTEGER NOT NULL,
  closed INTEGER NOT NULL,
  seal BLOB NOT NULL
);
-- +goose Down
DROP TABLE head;
