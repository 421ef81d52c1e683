"""What is handed on to others: briefs, and the pages that templates lay out."""
