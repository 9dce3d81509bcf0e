-- A project that is not needed for now: it keeps all that is in it, and is listed apart.

ALTER TABLE project ADD COLUMN put_away timestamptz;
