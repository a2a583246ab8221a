-- How often a task was begun: one that ends the server each time is given up.
ALTER TABLE task ADD COLUMN attempts INTEGER NOT NULL DEFAULT 0;
CREATE INDEX task_subject ON task (kind, subject);

-- Artwork that could not be read for no fault of its own is unread: its file stays.
CREATE TABLE artwork_new (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  file_hash TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('reading', 'ready', 'refused', 'unread')),
  reason TEXT,
  pdf_hash TEXT,
  facts TEXT,
  added_at INTEGER NOT NULL,
  -- What the sender calls the upload that it came by: sent again, it is the same.
  upload TEXT UNIQUE
);
INSERT INTO artwork_new (id, name, file_hash, bytes, state, reason, pdf_hash, facts, added_at)
  SELECT id, name, file_hash, bytes, state, reason, pdf_hash, facts, added_at FROM artwork;
DROP TABLE artwork;
ALTER TABLE artwork_new RENAME TO artwork;

-- What the machine knows a job by: ours, and written down before the machine hears of it.
ALTER TABLE print ADD COLUMN key TEXT;
CREATE UNIQUE INDEX print_key ON print (key);
-- What a screen asked with: asked again, it is the same prints.
ALTER TABLE print ADD COLUMN request TEXT;
CREATE INDEX print_request ON print (request);
CREATE INDEX print_run ON print (run_id);
-- A person asked for it to be cancelled: what the machine does about that is waited for.
ALTER TABLE print ADD COLUMN cancelled_at INTEGER;
-- Given up while the machine did not answer: what it printed is written down when it does.
ALTER TABLE print ADD COLUMN given_up INTEGER NOT NULL DEFAULT 0;

-- A cut is claimed before it is sent, so that it is sent once.
CREATE TABLE cut_task_new (
  id INTEGER PRIMARY KEY,
  code TEXT NOT NULL UNIQUE,
  print_id INTEGER NOT NULL REFERENCES print (id),
  state TEXT NOT NULL CHECK (state IN ('waiting', 'loaded', 'registered', 'cutting', 'cut')),
  knife TEXT NOT NULL,
  registration TEXT,
  -- What the cutter calls the sheet that was laid into it.
  sheet TEXT,
  -- What a person should look at before it is cut again.
  reason TEXT,
  -- How many of its lines are cut, in their order; what the cutter's own count is above that.
  lines_cut INTEGER NOT NULL DEFAULT 0,
  line_offset INTEGER NOT NULL DEFAULT 0,
  hpgl_hash TEXT,
  added_at INTEGER NOT NULL,
  cut_at INTEGER
);
INSERT INTO cut_task_new (id, code, print_id, state, knife, registration, hpgl_hash, added_at, cut_at)
  SELECT id, code, print_id, state, knife, registration, hpgl_hash, added_at, cut_at FROM cut_task;
DROP TABLE cut_task;
ALTER TABLE cut_task_new RENAME TO cut_task;

-- The files that a run was frozen with: they stay as long as it does.
CREATE TABLE run_file (
  run_id INTEGER NOT NULL REFERENCES run (id) ON DELETE CASCADE,
  hash TEXT NOT NULL,
  PRIMARY KEY (run_id, hash)
) WITHOUT ROWID;
CREATE INDEX run_file_hash ON run_file (hash);

CREATE VIEW plan_file AS
  SELECT run.id AS run_id, json_extract(run.plan, '$.profile') AS hash FROM run WHERE plan IS NOT NULL
  UNION SELECT run.id, json_extract(source.value, '$.file') FROM run, json_each(run.plan, '$.plan.sources') AS source
  UNION SELECT run.id, choice.value FROM run, json_each(run.plan, '$.plan.sources') AS source, json_each(source.value, '$.sources') AS choice
  UNION SELECT run.id, json_extract(overlay.value, '$.file') FROM run, json_each(run.plan, '$.plan.overlays') AS overlay;

CREATE TRIGGER run_planned AFTER INSERT ON run BEGIN
  INSERT OR IGNORE INTO run_file SELECT run_id, hash FROM plan_file WHERE run_id = new.id AND hash IS NOT NULL;
END;
CREATE TRIGGER run_planned_again AFTER UPDATE OF plan ON run BEGIN
  DELETE FROM run_file WHERE run_id = new.id;
  INSERT OR IGNORE INTO run_file SELECT run_id, hash FROM plan_file WHERE run_id = new.id AND hash IS NOT NULL;
END;
INSERT OR IGNORE INTO run_file SELECT run_id, hash FROM plan_file WHERE hash IS NOT NULL;

-- Who needs which file. A file that is not in here is of no use to anybody.
CREATE INDEX artwork_file ON artwork (file_hash);
CREATE INDEX artwork_pdf ON artwork (pdf_hash);
CREATE INDEX artwork_intent ON artwork (json_extract(facts, '$.outputIntent.hash'));
CREATE INDEX kept_file_hash ON kept_file (hash);
CREATE INDEX condition_result_hash ON condition_result (json_extract(document, '$.hash'));
CREATE VIEW file_use AS
  SELECT file_hash AS hash, 'artwork ' || id AS holder FROM artwork WHERE state != 'refused'
  UNION ALL SELECT pdf_hash, 'artwork ' || id FROM artwork WHERE state != 'refused' AND pdf_hash IS NOT NULL
  UNION ALL SELECT json_extract(facts, '$.outputIntent.hash'), 'artwork ' || id FROM artwork
    WHERE json_extract(facts, '$.outputIntent.hash') IS NOT NULL
  UNION ALL SELECT hash, 'kept ' || key FROM kept_file
  UNION ALL SELECT hash, 'font ' || id FROM font
  UNION ALL SELECT hash, 'source profile ' || name FROM source_profile
  UNION ALL SELECT json_extract(document, '$.hash'), 'result ' || id FROM condition_result
    WHERE json_extract(document, '$.hash') IS NOT NULL
  UNION ALL SELECT hash, 'run ' || run_id FROM run_file
  UNION ALL SELECT hpgl_hash, 'cut ' || code FROM cut_task WHERE hpgl_hash IS NOT NULL AND hpgl_hash != '';

CREATE INDEX run_plates ON run (plates_name);

-- Media on its way from stock to a machine: out of stock already, and not yet known to be on the machine.
CREATE TABLE loading (
  machine_id INTEGER PRIMARY KEY REFERENCES machine (id) ON DELETE CASCADE,
  key TEXT NOT NULL,
  media_id INTEGER NOT NULL REFERENCES media (id),
  stock TEXT NOT NULL
);

-- How long a lane has been quiet is not reckoned by a clock that can be set.
ALTER TABLE lane DROP COLUMN changed_at;
