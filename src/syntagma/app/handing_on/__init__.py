"""Results in this bundle to others: briefs, and the pages that templates lay out."""
