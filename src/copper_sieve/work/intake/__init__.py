"""From files to a set: what each file is, and which belong together."""
