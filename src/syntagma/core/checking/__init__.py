"""Findings on a prompt before it is paid for: of a draft, or of finished text, whoever wrote it."""
