"""The client of generation services, and the stand-in for one. docs/services.md is the page."""
