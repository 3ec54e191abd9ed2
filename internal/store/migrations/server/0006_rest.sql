-- +goose Up
ALTER TABLE panel ADD COLUMN rest INTEGER NOT NULL DEFAULT 0; -- minutes without a touch after which its person is signed out; 0 for never
-- +goose Down
ALTER TABLE panel DROP COLUMN rest;
