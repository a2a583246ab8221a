-- What was printed since a condition was last read.
CREATE INDEX print_ended ON print (ended_at);

-- The correction that a chart was printed through, where one was in force: what was read tells of that state alone.
ALTER TABLE drift ADD COLUMN match_id INTEGER;
