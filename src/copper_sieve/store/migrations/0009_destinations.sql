-- Where the files of a project's targets go: below a named folder of the server, with a folder for each of these.

CREATE TABLE destination (
  project_id uuid NOT NULL REFERENCES project (id) ON DELETE CASCADE,
  target text NOT NULL,
  root text NOT NULL,
  below text NOT NULL DEFAULT '',
  each text[] NOT NULL DEFAULT '{set}',
  PRIMARY KEY (project_id, target)
);
