-- How many layers of ink a machine lays down in one job, as it last said.
ALTER TABLE machine ADD COLUMN layers INTEGER NOT NULL DEFAULT 1;

-- What a machine can lay down, and what a media is, decides about checks of dockets on them.
-- Colours alone are what every machine has: one that says them for the first time changes nothing.
CREATE TRIGGER machine_inks AFTER UPDATE OF inks, layers ON machine
WHEN old.layers != new.layers
  OR (SELECT group_concat(json_extract(value, '$.role')) FROM json_each(old.inks)
      WHERE json_extract(value, '$.role') NOT IN ('colour', 'light'))
    IS NOT (SELECT group_concat(json_extract(value, '$.role')) FROM json_each(new.inks)
      WHERE json_extract(value, '$.role') NOT IN ('colour', 'light'))
BEGIN
  UPDATE docket SET worst = NULL
  WHERE away = 0 AND condition_id IN (SELECT id FROM condition WHERE machine_id = new.id);
END;

CREATE TRIGGER media_body AFTER UPDATE OF card ON media
WHEN json_extract(old.card, '$.body', '$.printedSide', '$.primer') IS NOT json_extract(new.card, '$.body', '$.printedSide', '$.primer')
BEGIN
  UPDATE docket SET worst = NULL
  WHERE away = 0 AND condition_id IN (SELECT id FROM condition WHERE media_id = new.id);
END;
