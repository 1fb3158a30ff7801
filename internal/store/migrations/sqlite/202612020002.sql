CREATE TABLE heads (inspection text PRIMARY KEY, seq integer NOT NULL, hash text NOT NULL);
CREATE TABLE ledger_of_heads (id integer PRIMARY KEY, n integer NOT NULL, sum text NOT NULL, prev text NOT NULL, hash text NOT NULL, "key" text NOT NULL, seal text NOT NULL);
CREATE INDEX entries_files ON entries (inspection) WHERE kind IN ('photo', 'trace');
