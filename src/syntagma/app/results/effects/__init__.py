"""Effects of a family that was judged: what is found, what is said and drawn of it, what to send next."""
