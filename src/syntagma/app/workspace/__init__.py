"""The workspace: what is that apply in it, what is on its shelves, what a person adds to it."""
