ALTER TABLE summaries ADD COLUMN words text NOT NULL DEFAULT '';
UPDATE summaries SET words = lower(coalesce(name, '') || ' ' || coalesce(number, '') || ' ' || coalesce(frame, '') || ' ' || coalesce(brought, ''));
CREATE INDEX idx_summaries_standing ON summaries(planned, opened_at, number, words) WHERE signed = '';
CREATE INDEX idx_summaries_signed ON summaries(signed_at, number, words) WHERE signed <> '';
CREATE INDEX idx_summaries_due ON summaries(due, number, words) WHERE signed <> '' AND due <> '';
