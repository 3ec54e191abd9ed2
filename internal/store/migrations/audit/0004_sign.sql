-- +goose Up
ALTER TABLE record ADD COLUMN sign TEXT NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE record DROP COLUMN sign;
