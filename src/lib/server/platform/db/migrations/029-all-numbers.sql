-- More that is said by number where its row may be gone: on printed charts and captions, in addresses of pages and of printers, in tasks
-- and in what came by itself. Here too a number is given once.
CREATE TRIGGER docket_gone AFTER DELETE ON docket BEGIN
  INSERT INTO gone_number VALUES ('docket', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER run_gone AFTER DELETE ON run BEGIN
  INSERT INTO gone_number VALUES ('run', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER chart_gone AFTER DELETE ON chart BEGIN
  INSERT INTO gone_number VALUES ('chart', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER lane_gone AFTER DELETE ON lane BEGIN
  INSERT INTO gone_number VALUES ('lane', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER media_gone AFTER DELETE ON media BEGIN
  INSERT INTO gone_number VALUES ('media', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER watched_folder_gone AFTER DELETE ON watched_folder BEGIN
  INSERT INTO gone_number VALUES ('watched_folder', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER network_printer_gone AFTER DELETE ON network_printer BEGIN
  INSERT INTO gone_number VALUES ('network_printer', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;

-- What is gone already, as far as something says it.
INSERT INTO gone_number SELECT 'docket', id FROM (
  SELECT max(id) AS id FROM (
    SELECT id FROM docket_bin
    UNION ALL SELECT docket_id FROM recipe_use
    UNION ALL SELECT d.value FROM arrival, json_each(arrival.dockets) d
  )
) WHERE id IS NOT NULL;
INSERT INTO gone_number SELECT 'run', id FROM (
  SELECT max(id) AS id FROM (
    SELECT CAST(subject AS INTEGER) AS id FROM task WHERE kind = 'rip'
    UNION ALL SELECT r.value FROM arrival, json_each(arrival.runs) r
  )
) WHERE id IS NOT NULL;
