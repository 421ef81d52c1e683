"""Models described: cards, a profile of a person's own, a profile tried."""
