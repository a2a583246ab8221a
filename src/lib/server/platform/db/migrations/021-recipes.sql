-- Saved sets of docket choices. One that was deleted can come back: what it made still names it.
CREATE TABLE recipe (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  document TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1,
  gone INTEGER NOT NULL DEFAULT 0,
  changed_at INTEGER NOT NULL
);
CREATE UNIQUE INDEX recipe_by_name ON recipe (name) WHERE gone = 0;

-- As it was before each change.
CREATE TABLE recipe_version (
  recipe_id INTEGER NOT NULL REFERENCES recipe (id) ON DELETE CASCADE,
  version INTEGER NOT NULL,
  document TEXT NOT NULL,
  made_at INTEGER NOT NULL,
  PRIMARY KEY (recipe_id, version)
);

-- Which dockets it was applied to; a docket may be deleted meanwhile.
CREATE TABLE recipe_use (
  recipe_id INTEGER NOT NULL REFERENCES recipe (id) ON DELETE CASCADE,
  docket_id INTEGER NOT NULL,
  version INTEGER NOT NULL,
  used_at INTEGER NOT NULL
);
CREATE INDEX recipe_use_by_recipe ON recipe_use (recipe_id, used_at);

-- Folders whose files become dockets by themselves.
CREATE TABLE watched_folder (
  id INTEGER PRIMARY KEY,
  document TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1
);

-- All that came by itself, and what was made of it.
CREATE TABLE arrival (
  id INTEGER PRIMARY KEY,
  -- Where it came in: a folder, perhaps one that is watched no more, or a program.
  source TEXT NOT NULL,
  folder_id INTEGER REFERENCES watched_folder (id) ON DELETE SET NULL,
  place TEXT NOT NULL,
  name TEXT NOT NULL,
  customer TEXT NOT NULL DEFAULT '',
  copies INTEGER,
  bytes INTEGER NOT NULL DEFAULT 0,
  hash TEXT,
  -- The file that it was: so that it is taken once, also by a server that was killed meanwhile.
  identity TEXT,
  -- What whoever sent it calls it: asked for twice it is made once.
  sent_as TEXT UNIQUE,
  -- Whether the file has left the folder.
  moved INTEGER NOT NULL DEFAULT 0,
  way TEXT NOT NULL,
  -- Whether what is only to be looked at goes on all the same.
  despite_looks INTEGER NOT NULL DEFAULT 0,
  recipe_id INTEGER REFERENCES recipe (id),
  artwork_id INTEGER REFERENCES artwork (id) ON DELETE SET NULL,
  dockets TEXT NOT NULL DEFAULT '[]',
  runs TEXT NOT NULL DEFAULT '[]',
  -- A person said that it is to be made though the same came before.
  meant INTEGER NOT NULL DEFAULT 0,
  state TEXT NOT NULL,
  reason TEXT,
  came_at INTEGER NOT NULL,
  changed_at INTEGER NOT NULL
);
CREATE INDEX arrival_unmoved ON arrival (folder_id, place) WHERE moved = 0;
CREATE INDEX arrival_by_artwork ON arrival (artwork_id);
CREATE INDEX arrival_by_state ON arrival (state);
