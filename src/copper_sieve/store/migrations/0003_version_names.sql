-- A version that a person wants to find again has a name.

ALTER TABLE recipe_version ADD COLUMN name text CHECK (length(name) BETWEEN 1 AND 80);
