"""Syntagma: prompts for image and video generators, built from formulas and vocabularies."""

__version__ = "0.1.0"
