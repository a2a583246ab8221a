-- A docket that says no jig lies in that of the run it waits in, and is held against it: it is looked at again where that changes.
CREATE TRIGGER docket_run_jig AFTER UPDATE OF rule ON run
WHEN json_extract(old.rule, '$.jig') IS NOT json_extract(new.rule, '$.jig')
  OR json_extract(new.rule, '$.jig') IS NOT NULL AND json_extract(old.rule, '$.pockets') IS NOT json_extract(new.rule, '$.pockets')
BEGIN
  UPDATE docket SET worst = NULL WHERE run_id = new.id;
END;
CREATE TRIGGER docket_to_run AFTER UPDATE OF run_id ON docket
WHEN old.run_id IS NOT new.run_id AND (
  EXISTS (SELECT 1 FROM run WHERE id IN (old.run_id, new.run_id) AND json_extract(rule, '$.jig') IS NOT NULL)
  OR old.run_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM run WHERE id = old.run_id))
BEGIN
  UPDATE docket SET worst = NULL WHERE id = new.id;
END;
UPDATE docket SET worst = NULL WHERE run_id IN (SELECT id FROM run WHERE json_extract(rule, '$.jig') IS NOT NULL);
