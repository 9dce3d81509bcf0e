-- list_environments --
SELECT id, name, width, height, is_bounded FROM environment WHERE project_id = %(project_id)s ORDER BY created;

-- keep_environment --
INSERT INTO environment (project_id, name, width, height, is_bounded, light)
VALUES (%(project_id)s, %(name)s, %(width)s, %(height)s, %(is_bounded)s, %(light)s) RETURNING id;

-- environment_light --
SELECT width, height, light FROM environment WHERE id = %(id)s;

-- forget_environment --
DELETE FROM environment WHERE id = %(id)s;
