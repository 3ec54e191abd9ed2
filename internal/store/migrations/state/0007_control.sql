-- +goose Up

-- Which place has an area in hand where one at a time acts in it.
CREATE TABLE control (
	area  TEXT PRIMARY KEY,
	place TEXT NOT NULL,    -- of a panel, or of a person at none
	panel TEXT NOT NULL,
	name  TEXT NOT NULL,    -- who took it
	at    INTEGER NOT NULL  -- nanoseconds since 1970
);

-- +goose Down
DROP TABLE control;
