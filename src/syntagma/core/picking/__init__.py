"""Picking: terms for open slots that suit each other and the rest; themes, which lean picks.
picker.py draws.
"""
