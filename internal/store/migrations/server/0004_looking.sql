-- +goose Up
ALTER TABLE panel ADD COLUMN looks INTEGER NOT NULL DEFAULT 0; -- shows its project, and sounds its alarms, with nobody signed in
-- +goose Down
ALTER TABLE panel DROP COLUMN looks;
