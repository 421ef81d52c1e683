"""Commands that hand something on to others."""
