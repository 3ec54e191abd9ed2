-- +goose Up
-- Who signed a release and with what meaning, and which release it is again.
ALTER TABLE release ADD COLUMN signed TEXT NOT NULL DEFAULT '';
ALTER TABLE release ADD COLUMN again INTEGER NOT NULL DEFAULT 0;
