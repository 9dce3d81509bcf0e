-- Pictures of surroundings that a project's sets are lit by on the screen, made small once; the file itself is not kept.

CREATE TABLE environment (
  id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
  project_id uuid NOT NULL REFERENCES project (id) ON DELETE CASCADE,
  name text NOT NULL,
  width integer NOT NULL,
  height integer NOT NULL,
  is_bounded boolean NOT NULL,
  light bytea NOT NULL,
  created timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX environment_by_project ON environment (project_id, created);
