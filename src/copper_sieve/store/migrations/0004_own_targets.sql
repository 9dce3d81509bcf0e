-- Targets that people made; the shipped ones are files of the program. Deleting is soft, as an old delivery may name one.

CREATE TABLE own_target (
    key text PRIMARY KEY,
    toml text NOT NULL,
    changed timestamptz NOT NULL DEFAULT now(),
    removed boolean NOT NULL DEFAULT false
);
