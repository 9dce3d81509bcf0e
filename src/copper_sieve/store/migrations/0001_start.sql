-- Projects, sets with their recipes' history, originals in chunks, deliveries with manifests.

CREATE TABLE project (
    id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    name text NOT NULL CONSTRAINT project_name_unique UNIQUE,
    title text NOT NULL,
    owner text,
    created timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE original (
    sha256 text PRIMARY KEY CHECK (sha256 ~ '^[0-9a-f]{64}$'),
    name text NOT NULL,
    size_bytes bigint NOT NULL,
    created timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE original_chunk (
    sha256 text NOT NULL REFERENCES original ON DELETE CASCADE,
    number integer NOT NULL,
    content bytea NOT NULL,
    PRIMARY KEY (sha256, number)
);
ALTER TABLE original_chunk ALTER COLUMN content SET STORAGE EXTERNAL;

CREATE TABLE texture_set (
    id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    project_id uuid NOT NULL REFERENCES project,
    name text NOT NULL,
    head bigint,
    created timestamptz NOT NULL DEFAULT clock_timestamp(),
    deleted timestamptz
);
CREATE UNIQUE INDEX set_name_unique ON texture_set (project_id, lower(name)) WHERE deleted IS NULL;

CREATE TABLE recipe_version (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    set_id uuid NOT NULL REFERENCES texture_set,
    parent bigint REFERENCES recipe_version,
    recipe jsonb NOT NULL,
    note text NOT NULL,
    created timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX recipe_version_of_set ON recipe_version (set_id, id);
ALTER TABLE texture_set ADD CONSTRAINT set_head_exists FOREIGN KEY (head) REFERENCES recipe_version;

CREATE TABLE delivery (
    id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    project_id uuid NOT NULL REFERENCES project,
    state text NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'cancelled', 'failed')),
    folder text NOT NULL,
    plan jsonb NOT NULL,
    heads jsonb NOT NULL,
    done_units bigint NOT NULL DEFAULT 0,
    total_units bigint NOT NULL DEFAULT 0,
    rows jsonb NOT NULL DEFAULT '{}',
    manifest jsonb,
    problem text,
    created timestamptz NOT NULL DEFAULT now()
);
