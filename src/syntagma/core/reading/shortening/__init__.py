"""Finished prompts made shorter: what carries least goes first, and what stays is a sentence still."""
