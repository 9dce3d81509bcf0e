-- What must always hold is a rule of the schema; what a screen asks again and again has an index.

CREATE INDEX recipe_version_of_parent ON recipe_version (parent);
CREATE INDEX delivery_of_project ON delivery (project_id, created DESC);
CREATE INDEX delivery_going ON delivery (state) WHERE state IN ('waiting', 'running');
CREATE INDEX texture_set_of_project ON texture_set (project_id, created) WHERE deleted IS NULL;

-- A set's head, and a version's parent, are versions of the same set.
ALTER TABLE recipe_version ADD CONSTRAINT recipe_version_in_set UNIQUE (set_id, id);
ALTER TABLE texture_set DROP CONSTRAINT set_head_exists;
ALTER TABLE texture_set ADD CONSTRAINT set_head_is_own FOREIGN KEY (id, head) REFERENCES recipe_version (set_id, id);
ALTER TABLE recipe_version DROP CONSTRAINT recipe_version_parent_fkey;
ALTER TABLE recipe_version
  ADD CONSTRAINT version_parent_is_own FOREIGN KEY (set_id, parent) REFERENCES recipe_version (set_id, id);
DROP INDEX recipe_version_of_set;

ALTER TABLE recipe_version DROP CONSTRAINT recipe_version_name_check;
ALTER TABLE recipe_version ADD CONSTRAINT version_name_length CHECK (length(name) BETWEEN 1 AND 80);
-- Names and titles that were kept before this rule stay as they are.
ALTER TABLE texture_set ADD CONSTRAINT set_name_length CHECK (octet_length(name) BETWEEN 1 AND 120) NOT VALID;
CREATE UNIQUE INDEX project_title_unique ON project (title);
ALTER TABLE original ADD CONSTRAINT original_size_positive CHECK (size_bytes >= 0) NOT VALID;
ALTER TABLE delivery ADD CONSTRAINT delivery_units_positive CHECK (done_units >= 0 AND total_units >= 0) NOT VALID;

ALTER TABLE migration ADD COLUMN sha256 text;
