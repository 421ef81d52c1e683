"""Prompts and formulas: read by the formula that wrote them, rewritten into another, or a formula learned from examples."""
