-- A condition that nothing is to be printed in any more: what was printed and measured in it stays known, and it can be brought back.
ALTER TABLE condition ADD COLUMN away INTEGER NOT NULL DEFAULT 0;
