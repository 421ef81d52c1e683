"""How people ask for prompts: instructions in many manners, out of the choices of a prompt."""
