"""How the reader of prompts is made: marked prompts, the lexicon of senses, training, and how it is
judged.
"""
