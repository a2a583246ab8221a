-- The inks that a machine says it has, in the order of its plates; nothing until it was asked.
ALTER TABLE machine ADD COLUMN inks TEXT;
