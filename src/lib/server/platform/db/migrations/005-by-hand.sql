-- A person took the run back, or it went wrong: no lane releases it by itself any more.
ALTER TABLE run ADD COLUMN by_hand INTEGER NOT NULL DEFAULT 0;
