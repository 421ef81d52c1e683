"""A call taken apart: the command, the verb, options with their values, and the words that stand by themselves; and put together again."""

import argparse
import re
from collections.abc import Sequence
from typing import NoReturn

from syntagma.cli.args import Parser
from syntagma.cli.commands import parser_of
from syntagma.cli.registry import SHORT


class Lost(Exception):
    """What was meant can't be determined."""


class CorrectedCall:
    """A call that is set right. `options` are [name, value] (a value of None: it takes none, or none came), `places` the words that stand by themselves."""

    def __init__(self, head: list[str], parser: Parser, options: list[list], places: list[str]):
        self.head, self.parser, self.options, self.places = head, parser, options, places
        self.known = {option: action for action in parser._actions for option in action.option_strings}

    def words(self) -> list[str]:
        """The call as words again, in the order in which people write one."""
        typed = [part for name, value in self.options for part in ((name,) if value is None else (f"{name}={value}",) if value.startswith("-") and value != "-" else (name, value))]
        return [*self.head, *self.places, *typed]

    def takes(self, option: str) -> bool:
        """Does an option of the command take a value?"""
        action = self.known.get(option)
        return action is not None and action.nargs != 0

    def values(self, *options: str) -> list[str]:
        """The values of some options, in order."""
        return [value for name, value in self.options if name in options and value is not None]

    @property
    def dests(self) -> list[str]:
        """What the words that stand by themselves are for."""
        return [action.dest for action in self.parser._actions if not action.option_strings]

    def check(self, words: Sequence[str]) -> None:
        """Raises Lost if the words do not parse."""
        parser, _, rest = parser_of(words[0], list(words[1:]))
        parser.error = lost  # type: ignore[method-assign]
        try:
            parser.parse_intermixed_args(rest)
        except (argparse.ArgumentError, SystemExit):
            raise Lost from None


def lost(message: str = "") -> NoReturn:
    """What was meant can't be determined: the end of an expression, or what a parser calls in place of an error. Raises Lost."""
    raise Lost


def read(words: Sequence[str]) -> CorrectedCall:
    """Take a call apart, whose command and verb are right; dashes of a text editor are read as those of a keyboard."""
    parser, _, rest = parser_of(words[0], list(words[1:]))
    head = list(words[: len(words) - len(rest)])
    call = CorrectedCall(head, parser, [], [])
    long = {short: option for option, short in SHORT.items()}
    waiting = [word for n, word in enumerate(rest) if word != ">" or not rest[n + 1 : n + 2] or not rest[n + 1].startswith("-")]
    while waiting:
        word = re.sub(r"^[—–]-?(?=\w)", "--", waiting.pop(0))
        if re.match(r"^-[A-Za-z][\w-]+$", word) and f"-{word}" in call.known:
            word = f"-{word}"
        name, equals, value = word.partition("=")
        if re.match(r"^-[A-Za-z]$", word):
            name = long.get(word, "") or next((option for option in getattr(call.known.get(word), "option_strings", ()) if option.startswith("--")), word)
            equals = ""
        elif not (word.startswith("--") and len(word) > 2):
            call.places.append(word)
            continue
        follows = bool(waiting) and not re.match(r"^(--?[A-Za-z]|[—–])", waiting[0])
        if not equals and name in call.known and not call.takes(name):
            call.options.append([name, None])
        elif equals:
            call.options.append([name, value])
        else:
            call.options.append([name, waiting.pop(0) if follows else None])
    return call
