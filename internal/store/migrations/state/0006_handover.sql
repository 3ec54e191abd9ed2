-- +goose Up

-- Notes that a shift leaves to the next one.
CREATE TABLE handover (
	seq          INTEGER PRIMARY KEY AUTOINCREMENT,
	at           INTEGER NOT NULL, -- nanoseconds since 1970
	person       TEXT NOT NULL,
	name         TEXT NOT NULL,
	panel        TEXT NOT NULL,
	text         TEXT NOT NULL,
	taken_at     INTEGER NOT NULL DEFAULT 0, -- 0 while nobody has taken it over
	taken_person TEXT NOT NULL DEFAULT '',
	taken_name   TEXT NOT NULL DEFAULT ''
);

-- +goose Down
DROP TABLE handover;
