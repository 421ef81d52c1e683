"""Trouble that a person can fix: one line that says what is wrong, one that says what to type instead."""


class Trouble(Exception):
    """`status` is the exit status of a command that meets it: 1 where something that was given holds errors, or nothing matched; 2 for a wrong call; 3 for trouble
    outside (a file that is not there or can't be written, the network, the budget, a package that is not installed)."""

    def __init__(self, message: str, remedy: str = "", status: int = 3):
        super().__init__(message)
        self.remedy, self.status = remedy, status


class NoFile(Trouble):
    """A file that was named does not exist; its name may be mistyped."""

    def __init__(self, name: object):
        super().__init__(f"{name} does not exist", "check its name, and that you are in the right folder")
