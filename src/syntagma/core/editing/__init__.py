"""A person's own words: a text, and edits on it. What no edit touches stays as it was, character
for character.
"""
