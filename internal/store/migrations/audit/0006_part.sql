-- +goose Up
-- Parts that were closed, each under a seal; their records are in files, and gone here.
CREATE TABLE part (
  id INTEGER PRIMARY KEY,
  first INTEGER NOT NULL,
  last INTEGER NOT NULL,
  chain BLOB NOT NULL,
  file TEXT NOT NULL,
  digest TEXT NOT NULL,
  records INTEGER NOT NULL,
  at INTEGER NOT NULL,
  person TEXT NOT NULL,
  reason TEXT NOT NULL,
  seal BLOB NOT NULL
);
CREATE TRIGGER part_no_update BEFORE UPDATE ON part BEGIN SELECT RAISE(ABORT, 'closed parts are not altered'); END;
CREATE TRIGGER part_no_delete BEFORE DELETE ON part BEGIN SELECT RAISE(ABORT, 'closed parts are not deleted'); END;
DROP TRIGGER record_no_delete;
CREATE TRIGGER record_no_delete BEFORE DELETE ON record WHEN OLD.seq > (SELECT coalesce(max(last), 0) FROM part) BEGIN SELECT RAISE(ABORT, 'audit records are not deleted'); END;
-- +goose Down
DROP TRIGGER record_no_delete;
CREATE TRIGGER record_no_delete BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'audit records are not deleted'); END;
DROP TABLE part;
