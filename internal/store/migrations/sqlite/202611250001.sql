CREATE TABLE photos (sha256 text, mime text, width integer, height integer, data blob, thumb blob, at text, PRIMARY KEY (sha256));
