-- list_targets --
SELECT toml FROM own_target WHERE NOT removed;

-- used_keys --
-- Keys that an own target has or had: an old delivery may name one that was removed.
SELECT key FROM own_target;

-- when_changed --
SELECT key, changed FROM own_target WHERE NOT removed;

-- target_of_key --
SELECT toml FROM own_target WHERE key = %(key)s;

-- hold_targets --
-- Whoever writes reads first, and two must not do so at once.
LOCK TABLE own_target IN SHARE ROW EXCLUSIVE MODE;

-- keep_target --
INSERT INTO own_target (key, toml) VALUES (%(key)s, %(toml)s)
ON CONFLICT (key) DO UPDATE SET toml = excluded.toml, changed = now(), removed = false;

-- forget_target --
UPDATE own_target SET removed = true WHERE key = %(key)s;
