-- What is baked for a set from the meshes that its recipe names: how far it is, a small trial of it, and what came of it.

CREATE TABLE bake (
  id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
  set_id uuid NOT NULL REFERENCES texture_set (id) ON DELETE CASCADE,
  state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'done', 'cancelled', 'failed')),
  worn jsonb NOT NULL,
  size integer NOT NULL CHECK (size > 0),
  is_trial boolean NOT NULL DEFAULT false,
  share real NOT NULL DEFAULT 0,
  doing text NOT NULL DEFAULT '',
  trial jsonb NOT NULL DEFAULT '[]',
  findings jsonb NOT NULL DEFAULT '[]',
  problem text,
  created timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX bake_of_set ON bake (set_id, created DESC);
