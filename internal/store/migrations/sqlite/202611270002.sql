CREATE INDEX IF NOT EXISTS idx_summaries_frame ON summaries(frame);
CREATE INDEX IF NOT EXISTS idx_entries_first ON entries(at) WHERE seq = 1;
