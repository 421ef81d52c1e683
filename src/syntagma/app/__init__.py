"""The library behind the command line: load a `Workspace`, then compose or expand."""
