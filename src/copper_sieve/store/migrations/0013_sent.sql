-- What a delivery sends, a line for each set and target, beside the plans with all their files: lists and a look at how far it
-- is read no more.

ALTER TABLE delivery ADD COLUMN sent jsonb NOT NULL DEFAULT '[]';
UPDATE delivery SET sent = coalesce((
  SELECT jsonb_agg(jsonb_build_object(
    'set', job->'plan'->'set', 'target', job->'plan'->'target',
    'target_title', job->'plan'->'target_title', 'place', job->'plan'->'place') ORDER BY number)
  FROM jsonb_array_elements(plan) WITH ORDINALITY AS jobs (job, number)), '[]');
