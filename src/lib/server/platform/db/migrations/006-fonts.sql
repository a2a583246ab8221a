-- The shop's own fonts, for lettering that comes without its font. The file is named by its hash.
CREATE TABLE font (
  id INTEGER PRIMARY KEY,
  family TEXT NOT NULL,
  hash TEXT NOT NULL UNIQUE,
  added_at INTEGER NOT NULL
);
