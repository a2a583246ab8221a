-- Lanes: a machine used with a media; runs are laid out by rules, released, and cost money.

ALTER TABLE machine ADD COLUMN cost_per_hour REAL NOT NULL DEFAULT 24;
-- Whether it takes rolls or sheets; as last heard.
ALTER TABLE machine ADD COLUMN bed TEXT NOT NULL DEFAULT 'roll' CHECK (bed IN ('roll', 'flatbed'));

CREATE TABLE lane (
  id INTEGER PRIMARY KEY,
  machine_id INTEGER NOT NULL REFERENCES machine (id),
  media_id INTEGER NOT NULL REFERENCES media (id),
  -- Its print mode.
  condition_id INTEGER NOT NULL REFERENCES condition (id),
  -- How its new runs are laid out, and when they print by themselves.
  rule TEXT NOT NULL,
  release TEXT NOT NULL,
  -- Of the roll or sheet as last seen on the machine.
  width_mm REAL,
  height_mm REAL,
  -- When a docket came last, and the day of the last release at a time of day.
  changed_at INTEGER NOT NULL DEFAULT 0,
  released_on TEXT NOT NULL DEFAULT '',
  UNIQUE (machine_id, media_id)
);
INSERT INTO lane (machine_id, media_id, condition_id, rule, release, width_mm)
SELECT c.machine_id, c.media_id, min(c.id),
  '{"gapX":4,"gapY":4,"margin":5,"lead":10,"tail":20,"align":"centre","method":"blue-noise"}', '{"kind":"hand"}', d.width_mm
FROM condition c JOIN media d ON d.id = c.media_id GROUP BY c.machine_id, c.media_id;

ALTER TABLE run ADD COLUMN lane_id INTEGER REFERENCES lane (id);
UPDATE run SET lane_id = (
  SELECT l.id FROM lane l JOIN condition c ON c.machine_id = l.machine_id AND c.media_id = l.media_id WHERE c.id = run.condition_id
);
-- Copies that were put where they are by hand.
ALTER TABLE run ADD COLUMN pins TEXT NOT NULL DEFAULT '[]';
-- As it was RIPped: the layout, and what all of it depended on.
ALTER TABLE run ADD COLUMN placement TEXT;
ALTER TABLE run ADD COLUMN plan_key TEXT;
-- It prints as soon as its lane is loaded and the machine is free; why it does not, when that went wrong.
ALTER TABLE run ADD COLUMN released_at INTEGER;
-- Equal sheets are RIPped once and printed so many times.
ALTER TABLE run ADD COLUMN times INTEGER NOT NULL DEFAULT 1;

-- Of a docket's copies those in this run, and how many came before; all where nothing is said.
ALTER TABLE run_docket ADD COLUMN copies INTEGER;
ALTER TABLE run_docket ADD COLUMN first INTEGER NOT NULL DEFAULT 0;
ALTER TABLE run_docket ADD COLUMN held INTEGER NOT NULL DEFAULT 0;

-- What a print used and cost, written down when it ended.
ALTER TABLE print ADD COLUMN usage TEXT;

-- Marks and layouts are told otherwise: a run that was RIPped before is laid out anew.
UPDATE run SET state = 'laying out', plan = NULL, result = NULL, plates_name = NULL WHERE state IN ('ripped', 'ripping') AND chart_id IS NULL;
