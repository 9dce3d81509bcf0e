-- list_saved --
-- The one that was changed last comes first.
SELECT name, settings FROM saved_settings ORDER BY changed DESC;

-- keep_saved --
INSERT INTO saved_settings (name, settings) VALUES (%(name)s, %(settings)s)
ON CONFLICT (name) DO UPDATE SET settings = excluded.settings, changed = now();

-- forget_saved --
DELETE FROM saved_settings WHERE name = %(name)s;
