-- list_projects --
-- Oldest first, which is the order they are offered in.
SELECT id, name, title, usual, put_away IS NOT NULL AS is_away, takes_newer, delivers_changes FROM project ORDER BY created;

-- make_project --
-- Nothing where the name or the title is taken.
INSERT INTO project (name, title) VALUES (%(name)s, %(title)s) ON CONFLICT DO NOTHING;

-- project_named --
SELECT id, name, title, usual, put_away IS NOT NULL AS is_away, takes_newer, delivers_changes FROM project WHERE name = %(name)s;

-- project_titled --
SELECT name FROM project WHERE title = %(title)s;

-- set_title --
UPDATE project SET title = %(title)s WHERE id = %(project_id)s;

-- put_project_away --
UPDATE project SET put_away = CASE WHEN %(is_away)s THEN now() END WHERE id = %(project_id)s;

-- own_files --
-- Files that versions of a project's sets name, and none of another project's.
WITH named AS (
    SELECT s.project_id, one.found #>> '{}' AS sha256
      FROM recipe_version v
      JOIN texture_set s ON s.id = v.set_id
     CROSS JOIN LATERAL (
          SELECT jsonb_path_query(v.recipe, '$.sources.**.sha256')
          UNION SELECT jsonb_path_query(v.recipe, '$.sources.**.missed_map')
          UNION SELECT jsonb_path_query(v.recipe, '$.sources.**.missed_in_tiles.*')
          UNION SELECT jsonb_path_query(v.recipe, '$.worn.**.sha256')) one (found)
)
SELECT o.sha256, o.size_bytes FROM original o
 WHERE o.sha256 IN (SELECT sha256 FROM named WHERE project_id = %(project_id)s)
   AND o.sha256 NOT IN (SELECT sha256 FROM named WHERE project_id <> %(project_id)s AND sha256 IS NOT NULL);

-- count_all_sets --
-- Those that were taken off the tray too.
SELECT count(*) AS sets FROM texture_set WHERE project_id = %(project_id)s;

-- lose_heads --
UPDATE texture_set SET head = NULL WHERE project_id = %(project_id)s;

-- delete_versions --
DELETE FROM recipe_version v USING texture_set s WHERE v.set_id = s.id AND s.project_id = %(project_id)s;

-- delete_sets --
DELETE FROM texture_set WHERE project_id = %(project_id)s;

-- delete_deliveries --
DELETE FROM delivery WHERE project_id = %(project_id)s;

-- delete_project --
DELETE FROM project WHERE id = %(project_id)s;

-- delete_files --
-- What was dropped within a day may wait to be taken in: the next start sweeps it.
DELETE FROM original WHERE sha256 = ANY(%(sha256s)s) AND created < now() - interval '1 day';

-- set_keeping_up --
-- What is given is set, the rest stays.
UPDATE project
   SET takes_newer = coalesce(%(takes_newer)s, takes_newer), delivers_changes = coalesce(%(delivers_changes)s, delivers_changes)
 WHERE id = %(project_id)s;

-- set_usual --
UPDATE project SET usual = %(usual)s WHERE id = %(project_id)s;
