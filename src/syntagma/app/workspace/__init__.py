"""The workspace: what is in force in it, what is on its shelves, what a person adds to it."""
