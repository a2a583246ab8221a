-- What a person took out of a run, as it lay there: a step back brings a part of a docket back as that part, and not as all of its copies.
CREATE TABLE taken_out (
  run_id INTEGER NOT NULL REFERENCES run (id) ON DELETE CASCADE,
  docket_id INTEGER NOT NULL REFERENCES docket (id) ON DELETE CASCADE,
  copies INTEGER,
  first INTEGER NOT NULL,
  records TEXT,
  pieces TEXT,
  division TEXT,
  PRIMARY KEY (run_id, docket_id)
);
