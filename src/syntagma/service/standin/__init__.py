"""The stand-in: a whole generation service on this machine, with books, credit, refusals, expiring addresses, and faults on demand."""
