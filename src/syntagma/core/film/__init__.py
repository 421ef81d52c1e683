"""A film: from a shot list or a script to prompts that cut together. docs/reference/films.md is the
page.
"""
