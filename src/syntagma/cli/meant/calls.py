"""A call taken apart and set right: its command, its verb, its options."""

import re
from collections.abc import Sequence
from typing import NoReturn

from syntagma.cli.args import Parser
from syntagma.cli.commands import COMMANDS, OLD, module_of, parser_of
from syntagma.cli.known import KnownNames, like
from syntagma.cli.meant import words as say
from syntagma.cli.registry import SHORT
from syntagma.core.diagnostics import SyntagmaError

# ──── A call taken apart: the command, the verb, options with their values, and the words that
# stand by themselves; and put together again.


class Lost(SyntagmaError):
    """What was meant can't be determined."""


class CorrectedCall:
    """A call that is set right. `options` are [name, value] (a value of None: it takes none, or
    none came), `places` the words that stand by themselves.
    """

    def __init__(self, head: list[str], parser: Parser, options: list[list], places: list[str]):
        self.head, self.parser, self.options, self.places = head, parser, options, places
        self.known = {
            option: action for action in parser._actions for option in action.option_strings
        }

    def words(self) -> list[str]:
        """The call as words again, in the order in which people write one."""
        typed = [
            part
            for name, value in self.options
            for part in (
                (name,)
                if value is None
                else (
                    (f"{name}={value}",)
                    if value.startswith("-") and value != "-"
                    else (name, value)
                )
            )
        ]
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
        parser.wrong = lost  # type: ignore[method-assign]
        try:
            parser.parse_intermixed_args(rest)
        except SystemExit:
            raise Lost from None


def lost(message: str = "", remedy: str = "") -> NoReturn:
    """What was meant can't be determined: the end of an expression, or what a parser calls in place
    of an error. Raises Lost.
    """
    raise Lost


def read(words: Sequence[str]) -> CorrectedCall:
    """Take a call apart, whose command and verb are right; dashes of a text editor are read as
    those of a keyboard.
    """
    parser, _, rest = parser_of(words[0], list(words[1:]))
    head = list(words[: len(words) - len(rest)])
    call = CorrectedCall(head, parser, [], [])
    long = {short: option for option, short in SHORT.items()}
    waiting = [
        word
        for n, word in enumerate(rest)
        if word != ">" or not rest[n + 1 : n + 2] or not rest[n + 1].startswith("-")
    ]
    while waiting:
        word = re.sub(r"^[—–]-?(?=\w)", "--", waiting.pop(0))
        if re.match(r"^-[A-Za-z][\w-]+$", word) and f"-{word}" in call.known:
            word = f"-{word}"
        name, equals, value = word.partition("=")
        if re.match(r"^-[A-Za-z]$", word):
            name = long.get(word, "") or next(
                (
                    option
                    for option in getattr(call.known.get(word), "option_strings", ())
                    if option.startswith("--")
                ),
                word,
            )
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


# ──── The command and the verb of a call that is set right.


def command_mended(words: list[str], known: KnownNames) -> list[str]:
    """The words with a command that there is, and a verb where the noun has such. Raises Lost."""
    if not words:
        raise Lost
    if words[0] in ("help", "--help", "-h"):
        if not words[1:] or words[1] in COMMANDS:
            raise Lost
        return ["help", like(words[1], COMMANDS) or lost()]
    name = words[0]
    if " " in name.strip() and name not in COMMANDS:
        return ["compose", "--from", *words]
    for n in (2, 1):
        if (old := " ".join(words[:n])) in OLD and len(words) >= n:
            words = [*OLD[old].split(), *words[n:]]
            break
    name = words[0]
    if name not in COMMANDS:
        words = _another(words, known)
    return _verb(words)


def _another(words: list[str], known: KnownNames) -> list[str]:
    """Words whose first is not a command: a wish, or a command by another name."""
    name, rest = words[0], words[1:]
    plain = [word for word in rest if not word.startswith("-")]
    if name in say.WISH:
        if plain[:1] and (plain[0] in known.formulas or "=" in plain[-1]):
            return ["compose", *rest]
        return _wish(rest)
    if name in say.COMMANDS:
        return [*say.COMMANDS[name].split(), *rest]
    near = name[:-1] if name.endswith("s") and name[:-1] in COMMANDS else like(name, COMMANDS)
    if near and not (
        len(plain) > 1
        and plain == rest
        and "=" not in " ".join(rest)
        and near not in (name[:-1], name + "s")
        and _prose(words)
    ):
        return [near, *rest]
    if plain and _prose(words):
        return _wish(words)
    return [near, *rest] if near else lost()


def _prose(words: Sequence[str]) -> bool:
    """Do the words before the options read like a sentence?"""
    small = frozenset("a an the in on at of with and under over by near to from".split())
    first = [word for word in words if not word.startswith("-")]
    return bool(small & {word.lower() for word in first}) and not any("=" in word for word in first)


def _wish(words: Sequence[str]) -> list[str]:
    """The words up to the first option as a wish."""
    end = next((n for n, word in enumerate(words) if word.startswith("-")), len(words))
    text = " ".join(words[:end]).strip()
    return ["compose", "--from", text, *words[end:]] if text else lost()


def _verb(words: list[str]) -> list[str]:
    """The words with a verb that their noun has: mistyped, or by another name."""
    verbs = getattr(module_of(words[0]), "VERBS", {})
    if not verbs or len(words) < 2 or words[1] in verbs or words[1].startswith("-"):
        return words
    word = words[1].lower()
    other = say.VERBS.get(word)
    if other is not None and (not other or other in verbs):
        return [words[0], *([other] if other else []), *words[2:]]
    for said in (say.VERBS[near] for near in [like(word, say.VERBS)] if near and len(word) > 3):
        if said and said in verbs and len(words) > 2:
            near = like(word, verbs)
            return [words[0], near or said, *words[2:]]
    near = like(word, verbs) if len(words) > 2 else ""
    return (
        [words[0], near, *words[2:]]
        if near and near != word and (near not in say.DECIDING or near[:2] == word[:2])
        else words
    )
