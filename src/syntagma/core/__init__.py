"""The heart of Syntagma, computing only: no printing, no arguments, no terminal, no network, no
clock, no files.
"""
