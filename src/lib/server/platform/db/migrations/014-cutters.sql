-- Several cutters: which one a print lies in; whether it asked for its lines or was sent them; how much of a run it holds
-- still, which the order of its lines is made for.
ALTER TABLE cut_task ADD COLUMN machine_id INTEGER REFERENCES machine (id);
ALTER TABLE cut_task ADD COLUMN asked INTEGER NOT NULL DEFAULT 0;
ALTER TABLE cut_task ADD COLUMN reach_mm REAL;
-- A person said that it is to be cut though there is a reason not to.
ALTER TABLE cut_task ADD COLUMN allowed INTEGER NOT NULL DEFAULT 0;
-- What a cutter can do, as it last said.
ALTER TABLE machine ADD COLUMN abilities TEXT;
-- Cutters ask with a key of their own; of those that a roll was begun with the last is good.
CREATE TABLE cutter_key (
  hash TEXT PRIMARY KEY,
  machine_id INTEGER NOT NULL REFERENCES machine (id) ON DELETE CASCADE,
  kind TEXT NOT NULL CHECK (kind IN ('given', 'roll')),
  made_at INTEGER NOT NULL
) WITHOUT ROWID;
CREATE INDEX cutter_key_machine ON cutter_key (machine_id, kind);
-- Rolls that wait.
CREATE INDEX cut_task_state ON cut_task (state, id);
ALTER TABLE print_code ADD COLUMN width_mm REAL NOT NULL DEFAULT 0;
ALTER TABLE print_code ADD COLUMN length_mm REAL NOT NULL DEFAULT 0;
UPDATE print_code SET width_mm = json_extract(plan, '$.widthMm'), length_mm = json_extract(plan, '$.lengthMm');
