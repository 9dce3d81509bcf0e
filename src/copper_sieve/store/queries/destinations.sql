-- list_destinations --
SELECT target, root, below, each FROM destination WHERE project_id = %(project_id)s ORDER BY target;

-- keep_destination --
INSERT INTO destination (project_id, target, root, below, each)
VALUES (%(project_id)s, %(target)s, %(root)s, %(below)s, %(each)s)
ON CONFLICT (project_id, target) DO UPDATE SET root = excluded.root, below = excluded.below, each = excluded.each;

-- forget_destination --
DELETE FROM destination WHERE project_id = %(project_id)s AND target = %(target)s;
