"""Batches: sheets that people check, send and collect."""
