CREATE TABLE register_log (seq integer, at text, "by" text, kind text, id text, data blob, prev text, hash text, key text, seal text, PRIMARY KEY (seq));
CREATE TABLE credentials (person text, password text, otp text, otp_on integer, otp_used integer, since text, PRIMARY KEY (person));
CREATE TABLE pins (tablet text, person text, pin text, wrong integer, PRIMARY KEY (tablet, person));
CREATE TABLE sessions (token text, data blob, expiry integer, PRIMARY KEY (token));
CREATE INDEX idx_sessions_expiry ON sessions(expiry);
