-- The plates that a print is of, since a run can be RIPped anew after one broke off; of older ones it is not known.
ALTER TABLE print ADD COLUMN plates TEXT;
-- How far what came out of one that broke off is kept, where the rest of its run was put into another.
ALTER TABLE print ADD COLUMN kept_mm REAL;
-- How far such a print is cut.
ALTER TABLE cut_task ADD COLUMN part_mm REAL;
