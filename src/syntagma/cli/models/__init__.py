"""Commands on models."""
