-- What a source's files are like, by the name a person gave it; and an original's header, so that it need not be unpacked again.

CREATE TABLE source_profile (
    name text PRIMARY KEY,
    profile jsonb NOT NULL,
    changed timestamptz NOT NULL DEFAULT now()
);

ALTER TABLE original ADD COLUMN header jsonb;
