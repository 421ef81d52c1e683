"""Prompts that exist already: read, rewritten, checked, made shorter, put in place of others,
learned from.
"""
