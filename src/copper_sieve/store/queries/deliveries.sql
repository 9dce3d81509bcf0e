-- make_delivery --
INSERT INTO delivery (project_id, state, folder, plan, sent, heads, is_again)
VALUES (%(project_id)s, 'waiting', %(folder)s, %(plan)s, %(sent)s, %(heads)s, %(is_again)s) RETURNING id;

-- hold_folders --
-- Until the transaction ends nobody else may choose a folder.
LOCK TABLE delivery IN SHARE ROW EXCLUSIVE MODE;

-- used_folders --
SELECT folder FROM delivery WHERE starts_with(folder, %(beginning)s);

-- get_delivery --
SELECT id, project_id, state, folder, sent, heads, done_units, total_units, rows, problem, created, is_again
  FROM delivery WHERE id = %(delivery_id)s;

-- whole_delivery --
SELECT id, project_id, state, folder, sent, heads, done_units, total_units, rows, problem, created, is_again, plan, manifest
  FROM delivery WHERE id = %(delivery_id)s;

-- job_of --
SELECT plan->%(at)s::int AS job FROM delivery WHERE id = %(delivery_id)s;

-- list_deliveries --
-- The newest first; of those that came to their end in one folder only the last.
SELECT * FROM (
    SELECT DISTINCT ON (CASE state WHEN 'done' THEN folder ELSE id::text END)
           id, project_id, state, folder, sent, heads, done_units, total_units, problem, created, is_again
      FROM delivery WHERE project_id = %(project_id)s
     ORDER BY CASE state WHEN 'done' THEN folder ELSE id::text END, created DESC
) newest ORDER BY created DESC LIMIT %(most)s;

-- list_lying --
-- What lies in each folder of a project's deliveries: of every set and target the delivery that wrote it last, the newest first;
-- and of a target of somebody's own the table then and now. A plan is large, and read for these alone.
SELECT lying.*, own.toml AS table_now, CASE WHEN own.key IS NOT NULL THEN d.plan->lying.at->>'target' END AS table_then
  FROM (
    SELECT DISTINCT ON (d.folder, one->>'set', one->>'target') d.id, d.folder, one AS sent, d.heads, d.created, nth::int - 1 AS at
      FROM delivery d CROSS JOIN jsonb_array_elements(d.sent) WITH ORDINALITY AS sent (one, nth)
     WHERE d.project_id = %(project_id)s AND d.state = 'done'
     ORDER BY d.folder, one->>'set', one->>'target', d.created DESC
  ) lying
  JOIN delivery d ON d.id = lying.id
  LEFT JOIN own_target own ON own.key = lying.sent->>'target' AND NOT own.removed
 ORDER BY lying.created DESC;

-- is_delivering --
SELECT 1 FROM delivery WHERE project_id = %(project_id)s AND state IN ('waiting', 'running') LIMIT 1;

-- last_delivery --
SELECT id, state, heads FROM delivery WHERE project_id = %(project_id)s ORDER BY created DESC LIMIT 1;

-- forget_overtaken --
-- Of these deliveries those that the last one into their folder did again whole.
DELETE FROM delivery d USING delivery last
 WHERE d.id = ANY(%(ids)s) AND last.id = %(last)s AND d.id <> last.id
   AND d.state = 'done' AND last.state = 'done' AND d.folder = last.folder AND d.sent = last.sent;

-- done_manifests --
-- What lies in the folders of a project's deliveries, the newest first; also what those left whole that did not finish.
SELECT folder, manifest FROM (
    SELECT DISTINCT ON (folder) folder, manifest, created
      FROM delivery WHERE project_id = %(project_id)s AND manifest IS NOT NULL ORDER BY folder, created DESC
) newest ORDER BY created DESC LIMIT %(most)s;

-- folder_manifest --
-- What the last delivery into a folder left there.
SELECT manifest FROM delivery WHERE folder = %(folder)s AND manifest IS NOT NULL ORDER BY created DESC LIMIT 1;

-- update_delivery --
-- What is given is set, the rest stays.
UPDATE delivery
   SET state = coalesce(%(state)s, state), done_units = coalesce(%(done_units)s, done_units),
       total_units = coalesce(%(total_units)s, total_units), rows = coalesce(%(rows)s, rows),
       manifest = coalesce(%(manifest)s, manifest), problem = coalesce(%(problem)s, problem)
 WHERE id = %(delivery_id)s;

-- stop_interrupted --
-- Folders of those that were new; what was there before one that went on in it stays.
WITH stopped AS (
    UPDATE delivery SET state = 'failed', problem = 'The server was stopped in the middle. Deliver again.'
     WHERE state IN ('waiting', 'running') RETURNING folder, is_again
)
SELECT folder FROM stopped WHERE NOT is_again;
