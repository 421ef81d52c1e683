"""Batches: sheets that are looked over, sent and collected."""
