-- The print that broke off and that this one goes on with: together they are one. Of older ones it is the last before it that broke off.
ALTER TABLE print ADD COLUMN rest_of INTEGER REFERENCES print (id);
UPDATE print SET rest_of = (
  SELECT max(p.id) FROM print p
  WHERE p.run_id = print.run_id AND p.id < print.id AND p.state IN ('cancelled', 'failed') AND p.printed_mm > 0 AND p.from_mm < print.from_mm
) WHERE from_mm > 0;
CREATE INDEX print_rest_of ON print (rest_of) WHERE rest_of IS NOT NULL;
