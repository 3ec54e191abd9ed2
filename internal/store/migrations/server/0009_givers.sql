-- +goose Up
ALTER TABLE grants ADD COLUMN giver TEXT NOT NULL DEFAULT '';  -- full name of who gave it; empty where nobody is told
ALTER TABLE grants ADD COLUMN beyond TEXT NOT NULL DEFAULT ''; -- rights that who gave it did not have there then, by commas
-- +goose Down
ALTER TABLE grants DROP COLUMN beyond;
ALTER TABLE grants DROP COLUMN giver;
