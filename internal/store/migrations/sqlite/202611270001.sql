ALTER TABLE summaries ADD COLUMN frame text;
