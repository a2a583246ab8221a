-- A person said of a print that it needs no cutter here any more: 'cut elsewhere' or 'not to be cut'. Its state is 'cut' then, and what
-- was cut of it before is known still, for when it is put back.
ALTER TABLE cut_task ADD COLUMN closed TEXT CHECK (closed IN ('cut elsewhere', 'not to be cut'));
