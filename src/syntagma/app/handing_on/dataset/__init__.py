"""Data sets of instruction and prompt: made, reckoned, looked over."""
