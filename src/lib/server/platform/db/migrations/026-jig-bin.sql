-- Jigs that were deleted. Their numbers are given to no other, since recipes and dockets say them, and one comes back with its own.
CREATE TABLE jig_bin (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  document TEXT NOT NULL,
  version INTEGER NOT NULL
);
