"""`python -m syntagma`."""

from syntagma.cli import main

if __name__ == "__main__":
    raise SystemExit(main())
