-- +goose Up
CREATE TABLE recipe (
	id TEXT PRIMARY KEY,
	book TEXT NOT NULL,
	name TEXT NOT NULL,
	key TEXT NOT NULL,            -- the name as names are compared
	latest INTEGER NOT NULL,      -- number of its newest version
	approved INTEGER NOT NULL,    -- number of its newest approved version; 0 for none
	changed INTEGER NOT NULL,     -- when it was changed last
	person TEXT NOT NULL,         -- and by whom
	gone INTEGER NOT NULL,        -- when it was deleted; 0 while it is there
	gone_by TEXT NOT NULL
);
CREATE UNIQUE INDEX recipe_key ON recipe (book, key) WHERE gone = 0;
CREATE INDEX recipe_gone ON recipe (gone) WHERE gone > 0;

CREATE TABLE version (
	recipe TEXT NOT NULL REFERENCES recipe (id) ON DELETE CASCADE,
	number INTEGER NOT NULL,
	doc TEXT NOT NULL,            -- the values by the fields' ids, as JSON
	state TEXT NOT NULL,          -- draft, approved, withdrawn
	person TEXT NOT NULL,         -- id of who wrote it
	name TEXT NOT NULL,           -- as it was then
	at INTEGER NOT NULL,
	why TEXT NOT NULL,
	judged_by TEXT NOT NULL,      -- who approved or withdrew it
	judged_at INTEGER NOT NULL,
	judged_why TEXT NOT NULL,
	PRIMARY KEY (recipe, number)
) WITHOUT ROWID;

CREATE TABLE delivery (
	seq INTEGER PRIMARY KEY,
	key TEXT NOT NULL UNIQUE,     -- the command's own
	book TEXT NOT NULL,
	recipe TEXT NOT NULL,
	title TEXT NOT NULL,          -- of the recipe, as it was then
	number INTEGER NOT NULL,      -- of the version
	quantity REAL NOT NULL,       -- 0 where the book has none
	target TEXT NOT NULL,         -- id of the equipment; empty for single tags
	place TEXT NOT NULL,          -- as the target was called then
	person TEXT NOT NULL,
	name TEXT NOT NULL,
	panel TEXT NOT NULL,
	began INTEGER NOT NULL,
	ended INTEGER NOT NULL,       -- 0 while it is under way
	state TEXT NOT NULL,
	reason TEXT NOT NULL,
	open INTEGER NOT NULL,        -- 1 until somebody has dealt with what it left
	settled TEXT NOT NULL,        -- who dealt with it, and how
	doc TEXT NOT NULL             -- the fields, as JSON
);
CREATE INDEX delivery_at ON delivery (book, target, began);
CREATE INDEX delivery_target ON delivery (target, began);
CREATE INDEX delivery_open ON delivery (open) WHERE open = 1;

-- +goose Down
DROP TABLE delivery;
DROP TABLE version;
DROP TABLE recipe;
