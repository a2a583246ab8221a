-- Printers for every program: what is printed on them becomes dockets by a recipe.
CREATE TABLE network_printer (
  id INTEGER PRIMARY KEY,
  -- What other programs know it by, also when its name or its port changes.
  uuid TEXT NOT NULL UNIQUE,
  document TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1,
  changed_at INTEGER NOT NULL
);

-- Where it was printed, and what was asked for with it.
ALTER TABLE arrival ADD COLUMN printer_id INTEGER REFERENCES network_printer (id) ON DELETE SET NULL;
ALTER TABLE arrival ADD COLUMN asked TEXT;

-- What programs know as their jobs. Numbers are never used again: programs ask by them.
CREATE TABLE network_job (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  printer_id INTEGER NOT NULL REFERENCES network_printer (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  sender TEXT NOT NULL,
  copies INTEGER NOT NULL,
  asked TEXT NOT NULL,
  -- None until its document is here.
  arrival_id INTEGER REFERENCES arrival (id),
  -- As RFC 8011 counts states of jobs, once it has ended; until then it follows what was made of it.
  ended_as INTEGER,
  reason TEXT,
  made_at INTEGER NOT NULL,
  ended_at INTEGER
);
CREATE INDEX network_job_by_printer ON network_job (printer_id, ended_as);
CREATE INDEX network_job_by_arrival ON network_job (arrival_id);

-- A table that lay beside the artwork, with its name there: its records.
ALTER TABLE arrival ADD COLUMN table_place TEXT;
ALTER TABLE arrival ADD COLUMN table_hash TEXT;
ALTER TABLE arrival ADD COLUMN table_identity TEXT;
CREATE INDEX arrival_table ON arrival (table_hash) WHERE table_hash IS NOT NULL;

DROP VIEW file_use;
CREATE VIEW file_use AS
  SELECT file_hash AS hash, 'artwork ' || id AS holder FROM artwork WHERE state != 'refused'
  UNION ALL SELECT pdf_hash, 'artwork ' || id FROM artwork WHERE state != 'refused' AND pdf_hash IS NOT NULL
  UNION ALL SELECT json_extract(facts, '$.outputIntent.hash'), 'artwork ' || id FROM artwork
    WHERE json_extract(facts, '$.outputIntent.hash') IS NOT NULL
  UNION ALL SELECT hash, 'kept ' || key FROM kept_file
  UNION ALL SELECT hash, 'font ' || id FROM font
  UNION ALL SELECT hash, 'table ' || name FROM record_table
  UNION ALL SELECT hash, 'picture ' || name FROM record_picture
  UNION ALL SELECT hash, 'source profile ' || name FROM source_profile
  UNION ALL SELECT json_extract(document, '$.hash'), 'result ' || id FROM condition_result
    WHERE json_extract(document, '$.hash') IS NOT NULL
  UNION ALL SELECT hash, 'run ' || run_id FROM run_file
  UNION ALL SELECT hpgl_hash, 'cut ' || code FROM cut_task WHERE hpgl_hash IS NOT NULL AND hpgl_hash != ''
  UNION ALL SELECT table_hash, 'arrival ' || id FROM arrival WHERE table_hash IS NOT NULL;
