-- Lengths are mm, times are Unix milliseconds, documents are JSON that Zod has checked.

CREATE TABLE setting (
  name TEXT PRIMARY KEY,
  value TEXT NOT NULL
);

-- Files that were made once and can be made again: previews, source profiles. The key says of what.
CREATE TABLE kept_file (
  key TEXT PRIMARY KEY,
  hash TEXT NOT NULL
);

CREATE TABLE artwork (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  file_hash TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('reading', 'ready', 'refused')),
  reason TEXT,
  -- What the interpreter reads: the file itself, or the PDF made of it.
  pdf_hash TEXT,
  facts TEXT,
  added_at INTEGER NOT NULL
);

CREATE TABLE machine (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('printer', 'cutter')),
  name TEXT NOT NULL,
  url TEXT NOT NULL UNIQUE
);

CREATE TABLE media (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  surface TEXT NOT NULL CHECK (surface IN ('gloss', 'matt')),
  cost_per_m2 REAL NOT NULL,
  -- As last seen on a machine.
  width_mm REAL NOT NULL DEFAULT 1300
);

-- A printing condition: machine + media + print mode, with its profile.
CREATE TABLE condition (
  id INTEGER PRIMARY KEY,
  machine_id INTEGER NOT NULL REFERENCES machine (id),
  media_id INTEGER NOT NULL REFERENCES media (id),
  mode TEXT NOT NULL,
  profile_hash TEXT,
  UNIQUE (machine_id, media_id)
);

CREATE TABLE docket (
  id INTEGER PRIMARY KEY,
  artwork_id INTEGER NOT NULL REFERENCES artwork (id),
  page INTEGER NOT NULL,
  name TEXT NOT NULL,
  customer TEXT NOT NULL DEFAULT '',
  choices TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1,
  added_at INTEGER NOT NULL
);

CREATE TABLE run (
  id INTEGER PRIMARY KEY,
  condition_id INTEGER NOT NULL REFERENCES condition (id),
  rule TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('laying out', 'ripping', 'ripped', 'printing', 'printed')),
  -- Frozen with the RIP.
  plan TEXT,
  result TEXT,
  plates_name TEXT,
  version INTEGER NOT NULL DEFAULT 1,
  added_at INTEGER NOT NULL
);

CREATE TABLE run_docket (
  run_id INTEGER NOT NULL REFERENCES run (id) ON DELETE CASCADE,
  docket_id INTEGER NOT NULL REFERENCES docket (id),
  position INTEGER NOT NULL,
  PRIMARY KEY (run_id, docket_id)
);

CREATE TABLE task (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL,
  subject TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'working', 'done', 'failed', 'cancelled')),
  error TEXT,
  added_at INTEGER NOT NULL,
  ended_at INTEGER
);
CREATE INDEX task_state ON task (state);

-- One sending of a run to a machine.
CREATE TABLE print (
  id INTEGER PRIMARY KEY,
  run_id INTEGER NOT NULL REFERENCES run (id),
  machine_id INTEGER NOT NULL REFERENCES machine (id),
  job INTEGER,
  state TEXT NOT NULL CHECK (state IN ('sending', 'printing', 'stopped', 'done', 'cancelled', 'failed')),
  reason TEXT,
  length_mm REAL NOT NULL,
  printed_mm REAL NOT NULL DEFAULT 0,
  -- Where in the run it began: above 0 for a print that goes on where another broke off.
  from_mm REAL NOT NULL DEFAULT 0,
  ink_ml TEXT NOT NULL DEFAULT '[]',
  started_at INTEGER NOT NULL,
  ended_at INTEGER
);

-- The cutter's part of a print.
CREATE TABLE cut_task (
  id INTEGER PRIMARY KEY,
  code TEXT NOT NULL UNIQUE,
  print_id INTEGER NOT NULL REFERENCES print (id),
  state TEXT NOT NULL CHECK (state IN ('waiting', 'loaded', 'registered', 'cut')),
  knife TEXT NOT NULL,
  registration TEXT,
  hpgl_hash TEXT,
  added_at INTEGER NOT NULL,
  cut_at INTEGER
);

-- Ink that a page takes in a condition, measured by drawing it small: mean coverage of C, M, Y, K.
CREATE TABLE page_ink (
  artwork_id INTEGER NOT NULL REFERENCES artwork (id) ON DELETE CASCADE,
  page INTEGER NOT NULL,
  condition_id INTEGER NOT NULL REFERENCES condition (id),
  means TEXT NOT NULL,
  PRIMARY KEY (artwork_id, page, condition_id)
);
