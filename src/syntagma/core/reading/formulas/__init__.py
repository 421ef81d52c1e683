"""Prompts and formulas: read by the formula that wrote them, recast into another, or a formula learned from examples."""
