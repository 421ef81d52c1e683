"""Notations that files come in: JSON and TOML into values, where a key is, the ranges that values
may have.
"""
