-- +goose Up
-- Limits of alarms that were changed at the Desk; they lie over the release.
CREATE TABLE alarm_limit (
  alarm TEXT PRIMARY KEY,
  value TEXT NOT NULL,
  person TEXT NOT NULL,
  reason TEXT NOT NULL,
  at INTEGER NOT NULL
) WITHOUT ROWID;
-- +goose Down
DROP TABLE alarm_limit;
