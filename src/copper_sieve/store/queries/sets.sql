-- list_sets --
-- Every set of a project with its head's recipe, and the recipe of the step before.
SELECT s.id, s.name, s.head, v.recipe, v.parent, p.recipe AS before,
       (SELECT max(n.id) FROM recipe_version n WHERE n.parent = v.id) AS next
  FROM texture_set s
  JOIN recipe_version v ON v.id = s.head
  LEFT JOIN recipe_version p ON p.id = v.parent
 WHERE s.project_id = %(project_id)s AND s.deleted IS NULL
 ORDER BY s.created, s.name;

-- get_set --
SELECT s.id, s.name, s.head, v.recipe, v.parent, p.recipe AS before,
       (SELECT max(n.id) FROM recipe_version n WHERE n.parent = v.id) AS next
  FROM texture_set s
  JOIN recipe_version v ON v.id = s.head
  LEFT JOIN recipe_version p ON p.id = v.parent
 WHERE s.id = %(set_id)s AND s.deleted IS NULL;

-- sets_of_known_width --
-- The sets of a project of which somebody has said how wide their tile is.
SELECT s.id, v.recipe
  FROM texture_set s
  JOIN recipe_version v ON v.id = s.head
 WHERE s.project_id = %(project_id)s AND s.deleted IS NULL AND v.recipe->'facts'->>'tile_size' IS NOT NULL
 ORDER BY s.created;

-- project_of --
SELECT project_id FROM texture_set WHERE id = %(set_id)s AND deleted IS NULL;

-- list_heads --
-- The head of every set of a project, without the recipes.
SELECT id, head FROM texture_set WHERE project_id = %(project_id)s AND deleted IS NULL;

-- list_names --
SELECT id, name FROM texture_set WHERE project_id = %(project_id)s AND deleted IS NULL;

-- set_is_named --
SELECT 1 FROM texture_set WHERE project_id = %(project_id)s AND lower(name) = lower(%(name)s) AND deleted IS NULL;

-- make_set --
INSERT INTO texture_set (project_id, name) VALUES (%(project_id)s, %(name)s) RETURNING id;

-- append_version --
-- A new version, which becomes the head.
WITH made AS (
    INSERT INTO recipe_version (set_id, parent, recipe, note) VALUES (%(set_id)s, %(parent)s, %(recipe)s, %(note)s) RETURNING id
)
UPDATE texture_set SET head = (SELECT id FROM made) WHERE id = %(set_id)s;

-- hold_set --
-- Nobody else may change the set until the transaction ends.
SELECT 1 FROM texture_set WHERE id = %(set_id)s FOR UPDATE;

-- move_head --
UPDATE texture_set SET head = %(version)s WHERE id = %(set_id)s;

-- list_versions --
SELECT v.id, v.parent, v.note, v.name, v.created, v.id = s.head AS is_head
  FROM recipe_version v JOIN texture_set s ON s.id = v.set_id
 WHERE v.set_id = %(set_id)s
 ORDER BY v.id DESC LIMIT %(most)s;

-- version_recipe --
SELECT recipe FROM recipe_version WHERE set_id = %(set_id)s AND id = %(version)s;

-- undone_sources --
-- Sources of the versions that do not lead to the head.
WITH RECURSIVE line AS (
    SELECT v.id, v.parent FROM recipe_version v JOIN texture_set s ON s.head = v.id WHERE s.id = %(set_id)s
    UNION ALL
    SELECT v.id, v.parent FROM recipe_version v JOIN line ON v.id = line.parent
)
SELECT recipe->'sources' AS sources FROM recipe_version
 WHERE set_id = %(set_id)s AND id NOT IN (SELECT id FROM line);

-- name_version --
UPDATE recipe_version SET name = %(name)s WHERE set_id = %(set_id)s AND id = %(version)s;

-- rename_set --
UPDATE texture_set SET name = %(name)s WHERE id = %(set_id)s;

-- name_of_set --
SELECT name, project_id FROM texture_set WHERE id = %(set_id)s;

-- list_removed --
SELECT id, name, deleted AS removed FROM texture_set
 WHERE project_id = %(project_id)s AND deleted IS NOT NULL ORDER BY deleted DESC;

-- remove_set --
-- Put away, or brought back; nothing is lost.
UPDATE texture_set SET deleted = CASE WHEN %(removed)s THEN now() END WHERE id = %(set_id)s;
