"""Notations that files come in: JSON and TOML into values, where a key stands, the ranges that values may have."""
