CREATE TABLE behind (inspection text COLLATE "C", seq bigint, PRIMARY KEY (inspection));
