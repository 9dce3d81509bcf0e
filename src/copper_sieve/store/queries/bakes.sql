-- forget_ended --
DELETE FROM bake WHERE set_id = %(set_id)s AND state NOT IN ('waiting', 'running');

-- make_bake --
INSERT INTO bake (set_id, worn, size, is_trial) VALUES (%(set_id)s, %(worn)s, %(size)s, %(is_trial)s) RETURNING id;

-- get_bake --
SELECT id, set_id, state, worn, size, is_trial, share, doing, trial, findings, problem, created FROM bake WHERE id = %(bake_id)s;

-- latest_bake --
SELECT id, set_id, state, worn, size, is_trial, share, doing, trial, findings, problem, created
  FROM bake WHERE set_id = %(set_id)s ORDER BY created DESC LIMIT 1;

-- going_bakes --
SELECT id FROM bake WHERE set_id = %(set_id)s AND state IN ('waiting', 'running');

-- is_baking --
SELECT 1 FROM bake b JOIN texture_set s ON s.id = b.set_id
 WHERE s.project_id = %(project_id)s AND b.state IN ('waiting', 'running') LIMIT 1;

-- update_bake --
-- What is given is set, the rest stays.
UPDATE bake
   SET state = coalesce(%(state)s, state), share = coalesce(%(share)s, share), doing = coalesce(%(doing)s, doing),
       trial = coalesce(%(trial)s, trial), findings = coalesce(%(findings)s, findings), problem = coalesce(%(problem)s, problem)
 WHERE id = %(bake_id)s;

-- stop_interrupted --
UPDATE bake SET state = 'failed', problem = 'The server was stopped in the middle. Bake again.'
 WHERE state IN ('waiting', 'running');
