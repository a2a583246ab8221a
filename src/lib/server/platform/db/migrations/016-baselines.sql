-- What a condition printed when it was right, for holding later readings against; the newest counts.
CREATE TABLE baseline (
  id INTEGER PRIMARY KEY,
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  -- Where it comes from: a chart of its own, a file, another condition.
  origin TEXT NOT NULL,
  -- Patches with their inks and L*a*b*, and what it was read on.
  document TEXT NOT NULL,
  made_at INTEGER NOT NULL
);
CREATE INDEX baseline_condition ON baseline (condition_id, id);

-- A later reading of the same chart.
CREATE TABLE drift (
  id INTEGER PRIMARY KEY,
  baseline_id INTEGER NOT NULL REFERENCES baseline (id) ON DELETE CASCADE,
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  chart_id INTEGER NOT NULL UNIQUE REFERENCES chart (id) ON DELETE CASCADE,
  mean REAL NOT NULL,
  p95 REAL NOT NULL,
  worst REAL NOT NULL,
  -- By channel and by patch, and the correction that it was printed through.
  document TEXT NOT NULL,
  made_at INTEGER NOT NULL
);
CREATE INDEX drift_condition ON drift (condition_id, id);

-- What was done to a machine that may change what it prints.
CREATE TABLE machine_note (
  id INTEGER PRIMARY KEY,
  machine_id INTEGER NOT NULL REFERENCES machine (id) ON DELETE CASCADE,
  what TEXT NOT NULL,
  made_at INTEGER NOT NULL
);
CREATE INDEX machine_note_machine ON machine_note (machine_id, id);

-- What steps there are the program says. The view that looks into the table is made anew with it.
DROP VIEW file_use;
CREATE TABLE condition_result_new (
  id INTEGER PRIMARY KEY,
  condition_id INTEGER NOT NULL REFERENCES condition (id) ON DELETE CASCADE,
  step TEXT NOT NULL,
  chart_id INTEGER REFERENCES chart (id),
  document TEXT NOT NULL,
  made_at INTEGER NOT NULL
);
INSERT INTO condition_result_new SELECT id, condition_id, step, chart_id, document, made_at FROM condition_result;
DROP TABLE condition_result;
ALTER TABLE condition_result_new RENAME TO condition_result;
CREATE INDEX condition_result_hash ON condition_result (json_extract(document, '$.hash'));
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
  UNION ALL SELECT hpgl_hash, 'cut ' || code FROM cut_task WHERE hpgl_hash IS NOT NULL AND hpgl_hash != '';
