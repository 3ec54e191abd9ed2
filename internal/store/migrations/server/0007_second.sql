-- +goose Up
ALTER TABLE person ADD COLUMN second BLOB;                                  -- the secret of one-time codes, sealed with the vault's key; NULL for none
ALTER TABLE person ADD COLUMN second_used INTEGER NOT NULL DEFAULT 0; -- the last step of time of which a code was taken
-- +goose Down
ALTER TABLE person DROP COLUMN second_used;
ALTER TABLE person DROP COLUMN second;
