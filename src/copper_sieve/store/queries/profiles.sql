-- list_profiles --
-- The one that was changed last comes first.
SELECT profile FROM source_profile ORDER BY changed DESC;

-- profile_named --
SELECT profile FROM source_profile WHERE name = %(name)s;

-- keep_profile --
INSERT INTO source_profile (name, profile) VALUES (%(name)s, %(profile)s)
ON CONFLICT (name) DO UPDATE SET profile = excluded.profile, changed = now();

-- forget_profile --
DELETE FROM source_profile WHERE name = %(name)s;
