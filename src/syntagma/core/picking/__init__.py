"""Picking: terms for open slots that suit each other and what stands; themes, which lean picks. picker.py draws."""
