-- Plates that will be cut carry a code from the moment they are frozen. What is cut by it is kept with it: the run may be
-- RIPped otherwise before its earlier prints are cut.
CREATE TABLE print_code (
  code TEXT PRIMARY KEY,
  run_id INTEGER NOT NULL,
  -- {widthMm, lengthMm, marks, codes, cuts}
  plan TEXT NOT NULL,
  made_at INTEGER NOT NULL
) WITHOUT ROWID;
-- Of the print; none on prints from before.
ALTER TABLE cut_task ADD COLUMN print_code TEXT REFERENCES print_code (code);
CREATE INDEX cut_task_print_code ON cut_task (print_code, id);
