-- Which pieces of a docket are in a run, and how many copies of each, where it has only some: pairs of figures.
ALTER TABLE run_docket ADD COLUMN pieces TEXT;
