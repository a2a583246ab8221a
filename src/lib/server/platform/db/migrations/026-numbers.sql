-- Recipes, tickets and their earlier steps say artwork, conditions, colours and jigs by number. A number whose row is gone is given to
-- no other row, or they would mean another thing. Here stand the highest numbers of rows that are gone.
CREATE TABLE gone_number (
  of TEXT PRIMARY KEY,
  most INTEGER NOT NULL
);
CREATE TRIGGER artwork_gone AFTER DELETE ON artwork BEGIN
  INSERT INTO gone_number VALUES ('artwork', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER condition_gone AFTER DELETE ON condition BEGIN
  INSERT INTO gone_number VALUES ('condition', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER jig_gone AFTER DELETE ON jig BEGIN
  INSERT INTO gone_number VALUES ('jig', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
CREATE TRIGGER named_colour_gone AFTER DELETE ON named_colour BEGIN
  INSERT INTO gone_number VALUES ('named_colour', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;

-- What is gone already, as far as something says it.
INSERT INTO gone_number SELECT 'artwork', id FROM (
  SELECT max(id) AS id FROM (
    SELECT json_extract(document, '$.artworkId') AS id FROM docket_step
    UNION ALL SELECT json_extract(docket, '$.artwork_id') FROM docket_bin
  )
) WHERE id IS NOT NULL;
INSERT INTO gone_number SELECT 'condition', id FROM (
  SELECT max(id) AS id FROM (
    SELECT json_extract(document, '$.choices.conditionId') AS id FROM docket_step
    UNION ALL SELECT json_extract(docket ->> '$.choices', '$.conditionId') FROM docket_bin
    UNION ALL SELECT json_extract(document, '$.sets.media.conditionId') FROM recipe
    UNION ALL SELECT json_extract(document, '$.sets.media.conditionId') FROM recipe_version
  )
) WHERE id IS NOT NULL;
INSERT INTO gone_number SELECT 'jig', id FROM (
  SELECT max(id) AS id FROM (
    SELECT json_extract(document, '$.choices.jig.id') AS id FROM docket_step
    UNION ALL SELECT json_extract(docket ->> '$.choices', '$.jig.id') FROM docket_bin
    UNION ALL SELECT json_extract(document, '$.sets.jig.id') FROM recipe
    UNION ALL SELECT json_extract(document, '$.sets.jig.id') FROM recipe_version
  )
) WHERE id IS NOT NULL;

-- Jigs that were deleted, to be brought back with their number.
CREATE TABLE jig_bin (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  document TEXT NOT NULL,
  version INTEGER NOT NULL
);
