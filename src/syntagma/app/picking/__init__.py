"""Picks: the situation and the terms that suit what is given, in the words of a person or of the vocabulary."""
