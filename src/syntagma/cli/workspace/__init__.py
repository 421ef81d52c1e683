"""Commands on the workspace: what is there, and what is your own."""
