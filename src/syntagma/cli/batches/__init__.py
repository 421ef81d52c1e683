"""Commands on batches: sheets, sending, collecting, services."""
