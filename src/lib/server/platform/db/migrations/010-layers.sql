-- How many layers of ink a machine lays down in one job, as it last said.
ALTER TABLE machine ADD COLUMN layers INTEGER NOT NULL DEFAULT 1;

-- What a machine can lay down, and what a media is, decides about checks of dockets on them.
CREATE TRIGGER machine_inks AFTER UPDATE OF inks, layers ON machine
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
