-- Pictures that fields show, as they came together: the set by its names and files, each picture a file of its own.
CREATE TABLE picture_set (
  hash TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  count INTEGER NOT NULL,
  added_at INTEGER NOT NULL
);
CREATE TABLE record_picture (
  set_hash TEXT NOT NULL REFERENCES picture_set (hash) ON DELETE CASCADE,
  name TEXT NOT NULL,
  -- As it is asked for: without folder and ending, and what makes no difference between names.
  plain TEXT NOT NULL,
  hash TEXT NOT NULL,
  width INTEGER NOT NULL,
  height INTEGER NOT NULL,
  PRIMARY KEY (set_hash, name)
) WITHOUT ROWID;
CREATE INDEX record_picture_plain ON record_picture (set_hash, plain);
CREATE INDEX record_picture_file ON record_picture (hash);
CREATE INDEX docket_pictures ON docket (json_extract(choices, '$.records.pictures.hash'))
  WHERE json_extract(choices, '$.records.pictures.hash') IS NOT NULL;
CREATE INDEX docket_step_pictures ON docket_step (json_extract(document, '$.choices.records.pictures.hash'))
  WHERE json_extract(document, '$.choices.records.pictures.hash') IS NOT NULL;

-- The pages over a run's copies lie in several files; in one, in runs from before.
DROP VIEW plan_file;
CREATE VIEW plan_file AS
  SELECT run_id, json_extract(plan, '$.profile') AS hash FROM run_plan
  UNION SELECT run_id, json_extract(source.value, '$.file') FROM run_plan, json_each(plan, '$.plan.sources') AS source
  UNION SELECT run_id, json_extract(source.value, '$.overlays') FROM run_plan, json_each(plan, '$.plan.sources') AS source
    WHERE json_type(source.value, '$.overlays') = 'text'
  UNION SELECT run_id, pages.value FROM run_plan, json_each(plan, '$.plan.sources') AS source, json_each(source.value, '$.overlays.files') AS pages
  UNION SELECT run_id, choice.value FROM run_plan, json_each(plan, '$.plan.sources') AS source, json_each(source.value, '$.sources') AS choice;

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
  UNION ALL SELECT hpgl_hash, 'cut ' || code FROM cut_task WHERE hpgl_hash IS NOT NULL AND hpgl_hash != '';
