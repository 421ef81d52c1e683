"""The vocabulary: terms in facets, the facets, how well two terms go together, what a text states
already.
"""
