CREATE TABLE behind (inspection text, seq integer, PRIMARY KEY (inspection)) WITHOUT ROWID;
