-- +goose Up

-- Views of recorded courses that people keep for themselves.
CREATE TABLE own_view (
	person TEXT NOT NULL,
	id     TEXT NOT NULL,
	doc    TEXT NOT NULL,
	PRIMARY KEY (person, id)
) WITHOUT ROWID;

-- +goose Down
DROP TABLE own_view;
