"""A shot list: its columns, its shots, what is spoken in them; and a script, which is another form of it."""
