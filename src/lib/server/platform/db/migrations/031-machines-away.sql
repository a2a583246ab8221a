-- A machine that the shop has no more: what it printed and was measured with stays known, and it can be brought back. Its address is
-- free for another one meanwhile.
ALTER TABLE machine ADD COLUMN away INTEGER NOT NULL DEFAULT 0;
ALTER TABLE machine ADD COLUMN away_url TEXT;
CREATE TRIGGER machine_gone AFTER DELETE ON machine BEGIN
  INSERT INTO gone_number VALUES ('machine', old.id) ON CONFLICT (of) DO UPDATE SET most = max(most, excluded.most);
END;
