-- +goose Up
ALTER TABLE record ADD COLUMN captured TEXT NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE record DROP COLUMN captured;
