"""The vocabulary: terms in facets, what facets are like, how well two terms go together, what a text states already."""
