-- +goose Up
CREATE TABLE matching (
  source TEXT PRIMARY KEY COLLATE NOCASE,
  doc BLOB NOT NULL
) WITHOUT ROWID;
-- +goose Down
DROP TABLE matching;
