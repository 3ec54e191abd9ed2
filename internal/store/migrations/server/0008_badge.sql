-- +goose Up
ALTER TABLE person ADD COLUMN badge TEXT NOT NULL DEFAULT ''; -- a keyed hash of the badge's number; empty for none
CREATE UNIQUE INDEX person_badge ON person (badge) WHERE badge <> '';
ALTER TABLE panel ADD COLUMN badges TEXT NOT NULL DEFAULT ''; -- how it takes badges: alone, with a PIN, or not
-- +goose Down
ALTER TABLE panel DROP COLUMN badges;
DROP INDEX person_badge;
ALTER TABLE person DROP COLUMN badge;
