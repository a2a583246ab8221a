-- A media that the shop has no more: what was printed and measured on it stays known, and it can be brought back.
ALTER TABLE media ADD COLUMN away INTEGER NOT NULL DEFAULT 0;
