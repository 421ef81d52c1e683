"""Open formats, in and out: text, CSV, JSON, JSON Lines, Markdown."""
