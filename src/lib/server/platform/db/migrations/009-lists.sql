-- Lists are sorted and filtered here: what they go by stands in columns, and the database keeps it true.

-- Words as they are looked for: by fold(), in lower case and without accents.
ALTER TABLE artwork ADD COLUMN words TEXT NOT NULL DEFAULT '';
UPDATE artwork SET words = fold(id || ' ' || name);
CREATE TRIGGER artwork_named AFTER INSERT ON artwork BEGIN
  UPDATE artwork SET words = fold(new.id || ' ' || new.name) WHERE id = new.id;
END;

-- A row for each page, and one for artwork that has none (yet): what a list shows of it.
CREATE TABLE artwork_page (
  id INTEGER PRIMARY KEY,
  artwork_id INTEGER NOT NULL REFERENCES artwork (id) ON DELETE CASCADE,
  page INTEGER NOT NULL,
  width_mm REAL,
  height_mm REAL,
  bleed_mm REAL,
  -- Names of colour spaces and spot colours; and what is outlined by name: [{name, outlines}].
  colours TEXT NOT NULL DEFAULT '',
  outlines TEXT NOT NULL DEFAULT '[]',
  images INTEGER NOT NULL DEFAULT 0,
  least_ppi REAL,
  -- Of the whole file: how much a person should look at, and its format.
  looks INTEGER,
  format TEXT,
  UNIQUE (artwork_id, page)
);
INSERT INTO artwork_page (artwork_id, page) SELECT id, 0 FROM artwork;
CREATE TRIGGER artwork_added AFTER INSERT ON artwork BEGIN
  INSERT INTO artwork_page (artwork_id, page) VALUES (new.id, 0);
END;
-- What was found in the whole file: how many pages, its format, notes and findings in words.
ALTER TABLE artwork ADD COLUMN brief TEXT;

CREATE TABLE docket_new (
  id INTEGER PRIMARY KEY,
  artwork_id INTEGER NOT NULL REFERENCES artwork (id),
  page INTEGER NOT NULL,
  name TEXT NOT NULL,
  customer TEXT NOT NULL DEFAULT '',
  due_on TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '',
  priority TEXT NOT NULL DEFAULT 'normal' CHECK (priority IN ('low', 'normal', 'high')),
  version INTEGER NOT NULL DEFAULT 1,
  -- Which step of the history the docket is at.
  step INTEGER NOT NULL DEFAULT 0,
  previous_artwork_id INTEGER REFERENCES artwork (id),
  previous_page INTEGER,
  added_at INTEGER NOT NULL,
  -- The newest run that it is in and that is not printed, or else the newest; and how far it is.
  run_id INTEGER,
  stage TEXT NOT NULL DEFAULT 'waiting' CHECK (stage IN ('waiting', 'laid out', 'printing', 'printed', 'done')),
  -- By a person: 1 put away, 0 brought back. Where nobody said, what is done is put away.
  put_away INTEGER CHECK (put_away IN (0, 1)),
  away INTEGER NOT NULL GENERATED ALWAYS AS (coalesce(put_away, stage = 'done')) STORED,
  -- The worst that checks find without drawing it: 0 nothing, 1 look, 2 stop; nothing until it was looked at.
  worst INTEGER,
  condition_id INTEGER GENERATED ALWAYS AS (json_extract(choices, '$.conditionId')) STORED,
  copies INTEGER GENERATED ALWAYS AS (json_extract(choices, '$.copies')) STORED,
  width_mm REAL GENERATED ALWAYS AS (json_extract(choices, '$.widthMm')) STORED,
  height_mm REAL GENERATED ALWAYS AS (json_extract(choices, '$.heightMm')) STORED,
  is_cut INTEGER GENERATED ALWAYS AS (json_extract(choices, '$.cut')) STORED,
  words TEXT NOT NULL DEFAULT '',
  -- Last: outlines make it long, and a list does not read it.
  choices TEXT NOT NULL
);
INSERT INTO docket_new (id, artwork_id, page, name, customer, due_on, note, priority, version, step, previous_artwork_id,
  previous_page, added_at, words, choices)
SELECT id, artwork_id, page, name, customer, due_on, note, priority, version, step, previous_artwork_id, previous_page,
  added_at, fold(id || ' ' || name || ' ' || customer || ' ' || note), choices FROM docket;
DROP TABLE docket;
ALTER TABLE docket_new RENAME TO docket;

CREATE INDEX docket_artwork ON docket (artwork_id, page);
CREATE INDEX docket_previous ON docket (previous_artwork_id) WHERE previous_artwork_id IS NOT NULL;
CREATE INDEX docket_condition ON docket (condition_id);
CREATE INDEX docket_facets ON docket (away, stage, condition_id, worst, customer, due_on);
CREATE INDEX docket_due ON docket (due_on);
CREATE INDEX docket_customer ON docket (customer);
CREATE INDEX docket_run ON docket (run_id);
CREATE INDEX docket_unchecked ON docket (id) WHERE worst IS NULL AND away = 0;
CREATE INDEX run_docket_docket ON run_docket (docket_id);
CREATE INDEX run_chart ON run (chart_id);
CREATE INDEX run_state ON run (state);
CREATE INDEX cut_task_print ON cut_task (print_id);
CREATE INDEX task_ended ON task (kind, state);

CREATE TRIGGER docket_added AFTER INSERT ON docket BEGIN
  UPDATE docket SET words = fold(id || ' ' || name || ' ' || customer || ' ' || note) WHERE id = new.id;
END;
CREATE TRIGGER docket_named AFTER UPDATE OF name, customer, note ON docket BEGIN
  UPDATE docket SET words = fold(id || ' ' || name || ' ' || customer || ' ' || note) WHERE id = new.id;
END;
-- What was looked at is another docket now.
CREATE TRIGGER docket_changed AFTER UPDATE OF choices, artwork_id, page ON docket BEGIN
  UPDATE docket SET worst = NULL WHERE id = new.id;
END;

CREATE VIEW docket_run_now AS
  SELECT d.id AS docket_id, (
      SELECT r.id FROM run_docket e JOIN run r ON r.id = e.run_id WHERE e.docket_id = d.id
      ORDER BY r.state = 'printed', r.id DESC LIMIT 1
    ) AS run_id
  FROM docket d;
CREATE VIEW docket_now AS
  SELECT docket_id, run_id,
    CASE
      WHEN run_id IS NULL THEN 'waiting'
      ELSE (SELECT CASE
          WHEN state = 'printing' THEN 'printing'
          WHEN state != 'printed' THEN 'laid out'
          WHEN EXISTS (
            SELECT 1 FROM run_docket e JOIN print p ON p.run_id = e.run_id JOIN cut_task c ON c.print_id = p.id
            WHERE e.docket_id = docket_run_now.docket_id AND c.state != 'cut'
          ) THEN 'printed'
          ELSE 'done'
        END FROM run WHERE id = run_id)
    END AS stage
  FROM docket_run_now;
UPDATE docket SET (run_id, stage) = (SELECT run_id, stage FROM docket_now WHERE docket_id = docket.id);

CREATE TRIGGER docket_laid_out AFTER INSERT ON run_docket BEGIN
  UPDATE docket SET put_away = NULL WHERE id = new.docket_id AND put_away = 1;
  UPDATE docket SET (run_id, stage) = (SELECT run_id, stage FROM docket_now WHERE docket_id = new.docket_id)
    WHERE id = new.docket_id;
END;
CREATE TRIGGER docket_taken_out AFTER DELETE ON run_docket BEGIN
  UPDATE docket SET (run_id, stage) = (SELECT run_id, stage FROM docket_now WHERE docket_id = old.docket_id)
    WHERE id = old.docket_id;
END;
CREATE TRIGGER docket_moved AFTER UPDATE OF run_id ON run_docket BEGIN
  UPDATE docket SET (run_id, stage) = (SELECT run_id, stage FROM docket_now WHERE docket_id = new.docket_id)
    WHERE id = new.docket_id;
END;
CREATE TRIGGER run_went_on AFTER UPDATE OF state ON run BEGIN
  UPDATE docket SET (run_id, stage) = (SELECT run_id, stage FROM docket_now WHERE docket_id = docket.id)
    WHERE id IN (SELECT docket_id FROM run_docket WHERE run_id = new.id);
END;
CREATE TRIGGER cut_added AFTER INSERT ON cut_task BEGIN
  UPDATE docket SET (run_id, stage) = (SELECT run_id, stage FROM docket_now WHERE docket_id = docket.id)
    WHERE id IN (SELECT e.docket_id FROM run_docket e JOIN print p ON p.run_id = e.run_id WHERE p.id = new.print_id);
END;
CREATE TRIGGER cut_went_on AFTER UPDATE OF state ON cut_task BEGIN
  UPDATE docket SET (run_id, stage) = (SELECT run_id, stage FROM docket_now WHERE docket_id = docket.id)
    WHERE id IN (SELECT e.docket_id FROM run_docket e JOIN print p ON p.run_id = e.run_id WHERE p.id = new.print_id);
END;

-- How long a run is and what of it is waste, as last laid out; nothing where it changed since.
ALTER TABLE run ADD COLUMN length_mm REAL;
ALTER TABLE run ADD COLUMN waste_share REAL;
ALTER TABLE run ADD COLUMN parts INTEGER;
UPDATE run SET length_mm = json_extract(placement, '$.length'), waste_share = json_extract(placement, '$.wasteShare'),
  parts = json_array_length(placement, '$.parts') WHERE placement IS NOT NULL;

-- What was deleted, as it was, for a while: it can be brought back.
CREATE TABLE docket_bin (
  id INTEGER PRIMARY KEY,
  docket TEXT NOT NULL,
  steps TEXT NOT NULL,
  binned_at INTEGER NOT NULL
);
