ALTER TABLE credentials ADD COLUMN epoch bigint NOT NULL DEFAULT 0;
ALTER TABLE credentials DROP COLUMN since;
DELETE FROM sessions;
