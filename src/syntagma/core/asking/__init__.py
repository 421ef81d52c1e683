"""How people ask for what a prompt answers: instructions in many manners, out of the choices of a prompt."""
