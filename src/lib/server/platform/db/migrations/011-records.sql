-- Customers' tables, each version a file named by its hash.
CREATE TABLE record_table (
  hash TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  columns TEXT NOT NULL,
  count INTEGER NOT NULL,
  added_at INTEGER NOT NULL
);
-- Which dockets and steps of theirs are of a table.
CREATE INDEX docket_table ON docket (json_extract(choices, '$.records.table.hash'))
  WHERE json_extract(choices, '$.records.table.hash') IS NOT NULL;
CREATE INDEX docket_step_table ON docket_step (json_extract(document, '$.choices.records.table.hash'))
  WHERE json_extract(document, '$.choices.records.table.hash') IS NOT NULL;

-- The records of a docket that are in a run, one number a copy, where that is not its series from the first copy on.
ALTER TABLE run_docket ADD COLUMN records TEXT;

-- What a font is called beside its family, and what its file says of its licence.
ALTER TABLE font ADD COLUMN style TEXT NOT NULL DEFAULT '';
ALTER TABLE font ADD COLUMN licence TEXT NOT NULL DEFAULT '';

-- What a run was RIPped from, and how it lay: long runs have megabytes of it, and no list reads it.
DROP TRIGGER run_planned;
DROP TRIGGER run_planned_again;
DROP VIEW plan_file;
CREATE TABLE run_plan (
  run_id INTEGER PRIMARY KEY REFERENCES run (id) ON DELETE CASCADE,
  plan TEXT NOT NULL,
  -- None for a chart.
  placement TEXT
);
INSERT INTO run_plan (run_id, plan, placement) SELECT id, plan, placement FROM run WHERE plan IS NOT NULL;
ALTER TABLE run DROP COLUMN plan;
ALTER TABLE run DROP COLUMN placement;

CREATE VIEW plan_file AS
  SELECT run_id, json_extract(plan, '$.profile') AS hash FROM run_plan
  UNION SELECT run_id, json_extract(source.value, '$.file') FROM run_plan, json_each(plan, '$.plan.sources') AS source
  UNION SELECT run_id, json_extract(source.value, '$.overlays') FROM run_plan, json_each(plan, '$.plan.sources') AS source
  UNION SELECT run_id, choice.value FROM run_plan, json_each(plan, '$.plan.sources') AS source, json_each(source.value, '$.sources') AS choice;
CREATE TRIGGER run_planned AFTER INSERT ON run_plan BEGIN
  INSERT OR IGNORE INTO run_file SELECT run_id, hash FROM plan_file WHERE run_id = new.run_id AND hash IS NOT NULL;
END;
CREATE TRIGGER run_planned_again AFTER UPDATE OF plan ON run_plan BEGIN
  DELETE FROM run_file WHERE run_id = new.run_id;
  INSERT OR IGNORE INTO run_file SELECT run_id, hash FROM plan_file WHERE run_id = new.run_id AND hash IS NOT NULL;
END;

DROP VIEW file_use;
CREATE VIEW file_use AS
  SELECT file_hash AS hash, 'artwork ' || id AS holder FROM artwork WHERE state != 'refused'
  UNION ALL SELECT pdf_hash, 'artwork ' || id FROM artwork WHERE state != 'refused' AND pdf_hash IS NOT NULL
  UNION ALL SELECT json_extract(facts, '$.outputIntent.hash'), 'artwork ' || id FROM artwork
    WHERE json_extract(facts, '$.outputIntent.hash') IS NOT NULL
  UNION ALL SELECT hash, 'kept ' || key FROM kept_file
  UNION ALL SELECT hash, 'font ' || id FROM font
  UNION ALL SELECT hash, 'table ' || name FROM record_table
  UNION ALL SELECT hash, 'source profile ' || name FROM source_profile
  UNION ALL SELECT json_extract(document, '$.hash'), 'result ' || id FROM condition_result
    WHERE json_extract(document, '$.hash') IS NOT NULL
  UNION ALL SELECT hash, 'run ' || run_id FROM run_file
  UNION ALL SELECT hpgl_hash, 'cut ' || code FROM cut_task WHERE hpgl_hash IS NOT NULL AND hpgl_hash != '';
