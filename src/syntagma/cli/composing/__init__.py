"""Commands that write a prompt."""
