-- The targets that a project usually delivers to, and deliveries that go on in a folder that was there before them.

ALTER TABLE project ADD COLUMN usual text[] NOT NULL DEFAULT '{}';
ALTER TABLE delivery ADD COLUMN is_again boolean NOT NULL DEFAULT false;
