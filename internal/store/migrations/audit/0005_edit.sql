-- +goose Up
CREATE INDEX IF NOT EXISTS record_edit ON record (seq) WHERE what = 'edit';
-- +goose Down
DROP INDEX IF EXISTS record_edit;
