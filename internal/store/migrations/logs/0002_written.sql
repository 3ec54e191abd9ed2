-- +goose Up
-- whether the span was written out and verified
ALTER TABLE span ADD COLUMN written INTEGER NOT NULL DEFAULT 0;
-- +goose Down
ALTER TABLE span DROP COLUMN written;
