"""Batches: rows that are looked over, approved, sent and collected; what they cost, what may be done with them."""
