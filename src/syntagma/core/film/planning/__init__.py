"""A film planned: seconds, continuity, clips."""
