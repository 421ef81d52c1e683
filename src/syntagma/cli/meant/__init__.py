"""The call that was probably meant. A wrong call is gone through word by word and set right by what
the program knows: its commands and options, formulas and their slots, the names of what is there,
files, numbers. What comes of it is shown only where it parses.
"""

from collections.abc import Sequence
from shlex import quote

from syntagma.cli.known import KnownNames
from syntagma.cli.meant.calls import CorrectedCall, Lost, command_mended, read
from syntagma.cli.meant.options import options_mended
from syntagma.cli.meant.places import places_mended

ROUNDS = 4  # a command, then a verb, then another command that has the option


def meant(words: Sequence[str]) -> str:
    """The call that was probably meant by the words of a wrong one, as it is typed; "" if that
    can't be determined.
    """
    from syntagma.core.diagnostics import Refused, Trouble

    try:
        found = mended(words, KnownNames())
    except (Lost, Trouble, Refused, OSError, ValueError):
        return ""
    return (
        " ".join(map(quote, ["syntagma", *found])) if found and found != _short(list(words)) else ""
    )


def mended(words: Sequence[str], known: KnownNames) -> list[str]:
    """The words set right. Raises Lost if that can't be done."""
    words = command_mended(list(words), known)
    for _ in range(ROUNDS):
        if words[0] == "help":
            return words
        call = read(words)
        again = options_mended(call, known) or places_mended(call, known)
        if not again:
            return _shortest(call)
        words = command_mended(again, known)
    raise Lost


def _shortest(call: CorrectedCall) -> list[str]:
    """The words of a call that parses; a wish without its option. Raises Lost if it does
    not parse.
    """
    words = call.words()
    call.check(words)
    return _short(words)


def _short(words: list[str]) -> list[str]:
    """The words of a call as they are typed: a wish is one word."""
    if words[:2] == ["compose", "--from"] and " " in words[2]:
        return words[2:]
    return words
