-- What a project does by itself: take newer files of linked folders, deliver again what changed.

ALTER TABLE project ADD COLUMN takes_newer boolean NOT NULL DEFAULT false;
ALTER TABLE project ADD COLUMN delivers_changes boolean NOT NULL DEFAULT false;
