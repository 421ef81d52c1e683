"""Commands on prompts that exist already."""
