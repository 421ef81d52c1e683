"""Prose taken apart: where a part begins, and to which facet it belongs."""
