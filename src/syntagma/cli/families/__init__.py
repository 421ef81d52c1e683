"""The command that writes families."""
