CREATE TABLE held (kind text, key text, inspection text, PRIMARY KEY (kind, key, inspection)) WITHOUT ROWID;
