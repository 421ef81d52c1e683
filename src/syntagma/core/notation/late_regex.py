"""Patterns that are compiled when they are first used: a call uses few of the many that its modules
hold.
"""

import re
from typing import cast


class _Late:
    """A regular expression as it was written. What is asked of it is asked of the compiled one,
    which is made on the first occasion.
    """

    def __init__(self, expression: str, flags: int):
        self.expression, self.flags = expression, flags

    def __getattr__(self, name: str) -> object:
        value = getattr(re.compile(self.expression, self.flags), name)  # re keeps what it compiled
        setattr(self, name, value)
        return value


def regex(expression: str, flags: int = 0) -> re.Pattern[str]:
    """A pattern of a module's own, to be used as re.compile's is."""
    return cast("re.Pattern[str]", _Late(expression, flags))
