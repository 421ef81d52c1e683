"""What is wrong, where, and what to do: places in a text, findings of checks, the nearest known name."""
