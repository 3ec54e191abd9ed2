-- +goose Up
CREATE INDEX IF NOT EXISTS record_at ON record (at);
CREATE INDEX IF NOT EXISTS record_tag ON record (tag, seq) WHERE tag <> '';
-- +goose Down
DROP INDEX IF EXISTS record_at;
DROP INDEX IF EXISTS record_tag;
