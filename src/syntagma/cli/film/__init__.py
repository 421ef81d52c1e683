"""Commands on films."""
