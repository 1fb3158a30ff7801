ALTER TABLE credentials ADD COLUMN epoch integer NOT NULL DEFAULT 0;
ALTER TABLE credentials DROP COLUMN since;
DELETE FROM sessions;
