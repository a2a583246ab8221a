-- The batch of the film that was on the machine, where it is known: panels of a wall are printed from one.
ALTER TABLE print ADD COLUMN batch TEXT;
