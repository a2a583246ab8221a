-- What things lie in on a bed.
CREATE TABLE jig (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  document TEXT NOT NULL,
  version INTEGER NOT NULL DEFAULT 1,
  changed_at INTEGER NOT NULL
);
