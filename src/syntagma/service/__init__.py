"""The client of generation services, and the stand-in for one. docs/reference/services.md is the
page.
"""
