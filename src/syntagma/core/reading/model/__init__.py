"""The reader's model: words, their senses, features, weights and the search for the best reading."""
