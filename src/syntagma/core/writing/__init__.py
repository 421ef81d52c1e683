"""From fills to prompts: a formula and a model compiled once, one prompt or a family of them."""
