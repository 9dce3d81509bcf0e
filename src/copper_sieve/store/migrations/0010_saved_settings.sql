-- How sets are made, by the names people gave it: to be used for other sets of any project.

CREATE TABLE saved_settings (
  name text PRIMARY KEY,
  settings jsonb NOT NULL,
  changed timestamptz NOT NULL DEFAULT now()
);
