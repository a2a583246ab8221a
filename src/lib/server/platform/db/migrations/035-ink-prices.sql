-- What a ml of some of its inks costs, by their names; of all others what the shop pays for any.
ALTER TABLE machine ADD COLUMN ink_prices TEXT NOT NULL DEFAULT '{}';
