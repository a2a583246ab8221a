-- Preparing artwork on the docket: dates, notes, steps back, and what a page outlines.

ALTER TABLE docket ADD COLUMN due_on TEXT NOT NULL DEFAULT '';
ALTER TABLE docket ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE docket ADD COLUMN priority TEXT NOT NULL DEFAULT 'normal' CHECK (priority IN ('low', 'normal', 'high'));
-- The artwork that a newer one has taken the place of, while the operator may want to compare.
ALTER TABLE docket ADD COLUMN previous_artwork_id INTEGER REFERENCES artwork (id);
ALTER TABLE docket ADD COLUMN previous_page INTEGER;
-- Which step of the history the docket is at.
ALTER TABLE docket ADD COLUMN step INTEGER NOT NULL DEFAULT 0;

-- Every state that a docket was in, for going back and forth; step 0 is how it was made.
CREATE TABLE docket_step (
  docket_id INTEGER NOT NULL REFERENCES docket (id) ON DELETE CASCADE,
  step INTEGER NOT NULL,
  document TEXT NOT NULL,
  made_at INTEGER NOT NULL,
  PRIMARY KEY (docket_id, step)
);

-- What a page outlines in spot colours and on layers: candidates for cut lines.
CREATE TABLE page_lines (
  artwork_id INTEGER NOT NULL REFERENCES artwork (id) ON DELETE CASCADE,
  page INTEGER NOT NULL,
  lines TEXT NOT NULL,
  PRIMARY KEY (artwork_id, page)
);

-- Pictures of dockets are many: the oldest go.
ALTER TABLE kept_file ADD COLUMN kept_at INTEGER NOT NULL DEFAULT 0;

-- Ink is measured for the docket as it will print, and kept among the files.
DROP TABLE page_ink;

-- Facts say more than they did: all artwork is looked at anew.
INSERT INTO task (kind, subject, state, added_at) SELECT 'artwork', id, 'waiting', 0 FROM artwork WHERE state = 'ready';
UPDATE artwork SET state = 'reading', facts = NULL WHERE state = 'ready';

-- Every tool has its own knife.
UPDATE cut_task SET knife = json_object(
  'kiss cut', json(knife), 'crease', json(knife), 'perforation', json(knife), 'through cut', json(knife)
);
-- Names of cut lines become rules; a run that was RIPped before keeps its plates but is laid out anew.
UPDATE setting SET value = json_remove(value, '$.cutNames') WHERE name = 'shop';
UPDATE run SET state = 'laying out', plan = NULL, result = NULL, plates_name = NULL WHERE state IN ('ripped', 'ripping');
