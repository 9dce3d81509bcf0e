"""What is done to the pictures of a set before anything is made of them: all its maps alike."""
