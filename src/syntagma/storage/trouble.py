"""Trouble that a person can mend: one line that says what is wrong, one that says what to type instead."""


class Trouble(Exception):
    """`status` is the exit status of a command that meets it: 2 for a wrong call, 3 for unreadable or refused input."""

    def __init__(self, message: str, remedy: str = "", status: int = 3):
        super().__init__(message)
        self.remedy, self.status = remedy, status
