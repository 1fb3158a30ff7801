CREATE TABLE entries (inspection text, seq integer, id text, at text, "by" text, kind text, body blob, prev text, hash text, PRIMARY KEY (inspection, seq));
CREATE UNIQUE INDEX idx_entries_id ON entries(id);
CREATE TABLE summaries (id text, number text, name text, kind text, place text, bay text, planned text, brought text, opened_at text, seq integer, verdict text, unsettled integer, minutes real, next text, signed text, signed_at text, due text, PRIMARY KEY (id));
CREATE UNIQUE INDEX idx_summaries_number ON summaries(number);
CREATE TABLE traces (sha256 text, name text, samples integer, data blob, at text, PRIMARY KEY (sha256));
CREATE TABLE registers (kind text, id text, data blob, PRIMARY KEY (kind, id));
