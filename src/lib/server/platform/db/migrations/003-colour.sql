-- Media become cards, print modes come from machines, and a condition is climbed in steps.

CREATE TABLE machine_new (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('printer', 'cutter', 'instrument')),
  name TEXT NOT NULL,
  url TEXT NOT NULL UNIQUE,
  -- What kind of machine it says it is, and its maker's table of how to treat media; as last heard.
  model TEXT NOT NULL DEFAULT '',
  handling TEXT
);
INSERT INTO machine_new (id, kind, name, url, model) SELECT id, kind, name, url, CASE kind WHEN 'printer' THEN name ELSE '' END FROM machine;
DROP TABLE machine;
ALTER TABLE machine_new RENAME TO machine;

CREATE TABLE print_mode (
  code TEXT PRIMARY KEY,
  document TEXT NOT NULL,
  pinned INTEGER NOT NULL DEFAULT 0
);

CREATE TABLE media_new (
  id INTEGER PRIMARY KEY,
  -- As in the card: machines know their roll by it.
  name TEXT NOT NULL UNIQUE,
  card TEXT NOT NULL,
  -- Came with the application or from a library: copied to be changed.
  locked INTEGER NOT NULL DEFAULT 0,
  library_id TEXT,
  library_version INTEGER,
  version INTEGER NOT NULL DEFAULT 1,
  -- As last seen on a machine.
  width_mm REAL
);
INSERT INTO media_new (id, name, card, width_mm)
SELECT id, name, json_object(
    'name', name, 'maker', '', 'family', CASE surface WHEN 'gloss' THEN 'calendered' ELSE 'banner' END, 'surface', surface,
    'widthMm', width_mm, 'thicknessMm', 0.1, 'costPerM2', cost_per_m2, 'note', '', 'white', NULL, 'rolls', json('[]'),
    'handling', json('{}')
  ), width_mm FROM media;
DROP TABLE media;
ALTER TABLE media_new RENAME TO media;

CREATE TABLE condition_new (
  id INTEGER PRIMARY KEY,
  machine_id INTEGER NOT NULL REFERENCES machine (id),
  media_id INTEGER NOT NULL REFERENCES media (id),
  mode_code TEXT NOT NULL,
  -- The mode as it was when the condition was made: what was calibrated must not change under it.
  mode TEXT NOT NULL,
  -- Which of its states the condition is in.
  seq INTEGER NOT NULL DEFAULT 0,
  UNIQUE (machine_id, media_id, mode_code)
);
INSERT INTO condition_new (id, machine_id, media_id, mode_code, mode)
SELECT c.id, c.machine_id, c.media_id, 'before/' || c.id, json_object(
    'code', 'before/' || c.id, 'name', json_extract(c.mode, '$.name'), 'machine', m.name, 'inkSet', 'Harbour', 'family', 'calendered',
    'maker', '', 'dpi', json_extract(c.mode, '$.dpi'), 'passes', json_extract(c.mode, '$.passes'), 'direction', 'both ways',
    'quality', 'quality', 'drops', json('[6,13,21]'), 'speedM2PerH', 10,
    'limits', json_object('channels', json('[1,1,1,1]'), 'total', 2.6)
  ) FROM condition c JOIN machine m ON m.id = c.machine_id;
-- What a profile was built from has changed: it is made anew from the machine's own start.
INSERT INTO task (kind, subject, state, added_at) SELECT 'start', id, 'waiting', 0 FROM condition;
DROP TABLE condition;
ALTER TABLE condition_new RENAME TO condition;

-- A chart that is printed and read; its plates, prints and roll are a run's.
CREATE TABLE chart (
  id INTEGER PRIMARY KEY,
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  kind TEXT NOT NULL CHECK (kind IN ('limits', 'linear', 'linear check', 'total', 'profile', 'verify')),
  document TEXT NOT NULL,
  -- By patch: L*a*b* against the perfect reflector.
  readings TEXT NOT NULL DEFAULT '{}',
  read_at INTEGER,
  made_at INTEGER NOT NULL
);
ALTER TABLE run ADD COLUMN chart_id INTEGER REFERENCES chart (id) ON DELETE CASCADE;

-- What a step came to. Never changed: a step that is done again makes another.
CREATE TABLE condition_result (
  id INTEGER PRIMARY KEY,
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  step TEXT NOT NULL CHECK (step IN ('start', 'limits', 'linear', 'linear check', 'total', 'profile', 'verify')),
  chart_id INTEGER REFERENCES chart (id),
  document TEXT NOT NULL,
  made_at INTEGER NOT NULL
);

-- Which results counted together: going back is choosing an earlier state.
CREATE TABLE condition_state (
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  seq INTEGER NOT NULL,
  results TEXT NOT NULL,
  what TEXT NOT NULL,
  made_at INTEGER NOT NULL,
  PRIMARY KEY (condition_id, seq)
);

-- Profiles that customers' colours are read with, beside those that come with the application.
CREATE TABLE source_profile (
  hash TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  space TEXT NOT NULL CHECK (space IN ('rgb', 'cmyk', 'grey')),
  added_at INTEGER NOT NULL
);

-- Colours are other than they were: a run that was RIPped before is laid out anew.
UPDATE run SET state = 'laying out', plan = NULL, result = NULL, plates_name = NULL WHERE state IN ('ripped', 'ripping');
