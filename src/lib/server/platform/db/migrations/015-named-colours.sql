-- Named colours: a name and its L*a*b* (D50), the same on every condition. Hue and chroma are for ordering. One that was
-- deleted stays for a while, to be brought back.
CREATE TABLE named_colour (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  l REAL NOT NULL,
  a REAL NOT NULL,
  b REAL NOT NULL,
  hue REAL NOT NULL,
  chroma REAL NOT NULL,
  collection TEXT NOT NULL,
  origin TEXT NOT NULL,
  note TEXT NOT NULL,
  -- Other names for the same, JSON.
  others TEXT NOT NULL,
  -- Folded: what is looked for.
  words TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1,
  changed_at INTEGER NOT NULL,
  gone_at INTEGER
);
CREATE INDEX named_colour_collection ON named_colour (collection, id) WHERE gone_at IS NULL;
CREATE INDEX named_colour_name ON named_colour (name COLLATE NOCASE, id) WHERE gone_at IS NULL;

-- What colours are called, as names are compared: each name is one colour's alone. The stem is without what suppliers add;
-- the name read backwards finds names that begin otherwise.
CREATE TABLE colour_name (
  plain TEXT PRIMARY KEY,
  stem TEXT NOT NULL,
  backwards TEXT NOT NULL,
  colour_id INTEGER NOT NULL REFERENCES named_colour (id) ON DELETE CASCADE
) WITHOUT ROWID;
CREATE INDEX colour_name_stem ON colour_name (stem);
CREATE INDEX colour_name_backwards ON colour_name (backwards);
CREATE INDEX colour_name_colour ON colour_name (colour_id);

-- A colour's own inks on one condition, by hand or measured, and how they were come to.
CREATE TABLE colour_inks (
  colour_id INTEGER NOT NULL REFERENCES named_colour (id) ON DELETE CASCADE,
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  document TEXT NOT NULL,
  changed_at INTEGER NOT NULL,
  PRIMARY KEY (colour_id, condition_id)
) WITHOUT ROWID;
CREATE INDEX colour_inks_condition ON colour_inks (condition_id);

-- Charts are of colours too. What kinds there are the program says.
CREATE TABLE chart_new (
  id INTEGER PRIMARY KEY,
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  colour_id INTEGER REFERENCES named_colour (id) ON DELETE SET NULL,
  -- The docket whose variants are on it.
  docket_id INTEGER REFERENCES docket (id) ON DELETE SET NULL,
  document TEXT NOT NULL,
  -- By patch: L*a*b* against the perfect reflector.
  readings TEXT NOT NULL DEFAULT '{}',
  read_at INTEGER,
  made_at INTEGER NOT NULL
);
INSERT INTO chart_new (id, condition_id, kind, document, readings, read_at, made_at)
  SELECT id, condition_id, kind, document, readings, read_at, made_at FROM chart;
DROP TABLE chart;
ALTER TABLE chart_new RENAME TO chart;
CREATE INDEX chart_condition ON chart (condition_id);
CREATE INDEX chart_colour ON chart (colour_id);
CREATE INDEX chart_docket ON chart (docket_id);
