"""What the terminal's commands share, and those of them that need no set."""
