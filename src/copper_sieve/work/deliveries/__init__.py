"""From a set and a target to files on disk: the plan, the writing, the thread that does it, the note that goes along."""
