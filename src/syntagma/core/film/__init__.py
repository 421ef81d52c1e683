"""A film: from a shot list or a script to prompts that cut together. docs/film.md is the page."""
