-- Which curves and profile a condition had when a reading of it was kept, by their results: one of before they were made
-- anew tells nothing of what is printed now. Those from before have what counted at their time.
ALTER TABLE baseline ADD COLUMN made_of TEXT;
ALTER TABLE drift ADD COLUMN made_of TEXT;
CREATE TEMP VIEW state_made_of AS
  SELECT condition_id, seq, made_at, json_array(
    CASE WHEN results ->> 'profile' IS NULL THEN results ->> 'start' ELSE coalesce(results ->> 'linear', results ->> 'start') END,
    coalesce(results ->> 'profile', results ->> 'start')
  ) AS made_of FROM condition_state;
UPDATE baseline AS b SET made_of = (SELECT s.made_of FROM state_made_of s
  WHERE s.condition_id = b.condition_id AND s.made_at <= b.made_at ORDER BY s.seq DESC LIMIT 1);
UPDATE drift AS d SET made_of = (SELECT s.made_of FROM state_made_of s
  WHERE s.condition_id = d.condition_id AND s.made_at <= d.made_at ORDER BY s.seq DESC LIMIT 1);
DROP VIEW state_made_of;
