"""Handing results on to others: briefs, forms, packs, bundles, data sets, campaigns."""
