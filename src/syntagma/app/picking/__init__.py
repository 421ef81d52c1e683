"""Picks: the situation and the terms that suit what stands, in the words of a person or of the vocabulary."""
