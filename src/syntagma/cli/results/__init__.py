"""Commands on results: the library, duplicates, judging, effects."""
