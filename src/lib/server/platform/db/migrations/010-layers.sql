-- How many layers of ink a machine lays down in one job, as it last said.
ALTER TABLE machine ADD COLUMN layers INTEGER NOT NULL DEFAULT 1;
