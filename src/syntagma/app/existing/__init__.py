"""Prompts that exist already: read, recast, checked, made shorter, put in place of others, learned from."""
