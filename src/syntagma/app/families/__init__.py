"""Families: from one prompt to many, by a design; into files, in parts, on other machines."""
