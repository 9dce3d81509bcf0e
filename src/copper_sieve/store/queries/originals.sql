-- keep_original --
-- Nothing where the file is kept already.
INSERT INTO original (sha256, name, size_bytes, header) VALUES (%(sha256)s, %(name)s, %(size_bytes)s, %(header)s)
ON CONFLICT DO NOTHING RETURNING sha256;

-- keep_chunk --
INSERT INTO original_chunk (sha256, number, content) VALUES (%(sha256)s, %(number)s, %(content)s);

-- original_headers --
SELECT sha256, header FROM original WHERE sha256 = ANY(%(sha256s)s);

-- original_chunks --
SELECT content FROM original_chunk WHERE sha256 = %(sha256)s ORDER BY number;

-- sweep_originals --
-- Files that no recipe names and that are older than a day: pictures, the meshes that sets are worn by, where a bake missed, and
-- the last trial of each set.
DELETE FROM original WHERE created < now() - interval '1 day' AND NOT EXISTS (
    SELECT 1 FROM recipe_version v
     WHERE v.recipe @? ('$.sources.** ? (@.sha256 == "' || original.sha256 || '" || @.missed_map == "' || original.sha256 || '"'
           || ' || @.missed_in_tiles.* == "' || original.sha256 || '")')::jsonpath
        OR v.recipe @? ('$.worn.**.sha256 ? (@ == "' || original.sha256 || '")')::jsonpath)
   AND NOT EXISTS (
    SELECT 1 FROM bake b WHERE b.trial @> jsonb_build_array(jsonb_build_object('sha256', original.sha256)));
