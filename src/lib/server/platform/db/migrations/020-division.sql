-- How a wall was divided when its panels were taken apart into runs, or RIPped: a hash.
ALTER TABLE run_docket ADD COLUMN division TEXT;
