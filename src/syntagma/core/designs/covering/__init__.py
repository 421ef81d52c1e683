"""Covering arrays: by algebra, and by search on a fixed number of rows."""
