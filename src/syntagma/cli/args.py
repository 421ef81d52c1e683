"""What the commands' arguments share: the parser, slot=text, --vary."""

import argparse
import re
import sys
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from shlex import quote, split
from typing import Any, NamedTuple, NoReturn

from syntagma.cli import registry
from syntagma.core.diagnostics import Trouble, perhaps


class Verb(NamedTuple):
    """What can be done with a noun, `syntagma NOUN VERB …`: a line that says what it does, its
    arguments, and what runs it.
    """

    about: str
    arguments: "Callable[[Parser], None]"
    run: Callable[..., int]


class Parser(argparse.ArgumentParser):
    """One command's parser. Help opens with one sentence and ends with examples; a wrong call is
    two lines.
    """

    def __init__(
        self,
        name: str,
        about: str,
        verbs: Mapping[str, Verb] | None = None,
        words: Sequence[str] = (),
        beside: Mapping[str, Verb] | None = None,
    ):
        self.verbs, self.words, self.beside = verbs or {}, list(words), beside or {}
        self.likes: tuple[str, ...] = ()
        self.shapes: tuple[str, ...] = ()
        self._given: set[argparse.Action] = set()  # what got a value
        super().__init__(
            prog=f"syntagma {name}",
            description=about[:1].upper() + about[1:] + ".",
            formatter_class=partial(
                argparse.RawDescriptionHelpFormatter, width=80
            ),  # the terminal is asked for its width where help is shown
            allow_abbrev=False,
            exit_on_error=False,
        )
        self.add_argument(
            "-q", "--quiet", action="store_true", help="print only the result and errors"
        )
        self.add_argument(
            "-v", "--verbose", action="store_true", help="print everything, hints and notes too"
        )

    def format_usage(self) -> str:
        """The first lines of the help, as wide as the terminal."""
        self.formatter_class = argparse.RawDescriptionHelpFormatter
        return super().format_usage()

    def format_help(self) -> str:
        """The help, as wide as the terminal."""
        self.formatter_class = argparse.RawDescriptionHelpFormatter
        return super().format_help()

    def add_argument(self, *names, **given):
        """An argument; of an option that several commands share the meaning is the registry's, with
        its short form.
        """
        if len(names) == 1 and names[0].startswith("--"):
            option = names[0]
            given = registry.shared(option, given)
            if "dest" not in given:
                given["dest"] = option.removeprefix("--").replace("-", "_")
            if option in registry.SHORT:
                names = (registry.SHORT[option], option)
        return super().add_argument(*names, **given)

    def json(self, *shapes: str) -> None:
        """--json, and the shapes that what it prints may have (`syntagma help json` shows them)."""
        self.shapes = shapes
        self.add_argument("--json", action="store_true")

    def examples(self, *lines: str) -> None:
        """What the help ends with; the first of them is shown for an incomplete call."""
        self.likes = lines
        verbs = "".join(
            f"  {self.prog} {name:<10} {verb.about}\n" for name, verb in self.verbs.items()
        )
        self.epilog = (
            (f"and:\n{verbs}\n" if verbs else "")
            + "examples:\n"
            + "\n".join(f"  {line}" for line in lines)
        )

    def _print_message(self, message: str, file: Any = None) -> None:
        """Help as it is printed; if it can't be, that is reported, which Python's own
        passes over.
        """
        (file or sys.stderr).write(message)

    def parse_intermixed_args(
        self, args: Sequence[str] | None = None, namespace: argparse.Namespace | None = None
    ) -> argparse.Namespace:  # type: ignore[override]
        """The call as it was typed. A wrong one is reported, with the call that was probably meant,
        and ends with status 2.
        """
        self._given.clear()
        try:
            call, left = self.parse_known_intermixed_args(args, namespace)
        except (
            argparse.ArgumentError
            # whatever the methods below leave over: an option that takes no value was given one
        ) as error:
            if error.argument_name:
                self.wrong(
                    f"{error.argument_name.rpartition('/')[2]} takes no value",
                    "leave out what follows the =",
                )
            self.error()
        if left:
            self._left_over(left[0])
        return call

    def _get_values(self, action: argparse.Action, arg_strings: list[str]) -> Any:
        """What an option was given. Python's own takes --vary=-- for a mark that ends the options,
        and gives a list.
        """
        if arg_strings:
            self._given.add(action)
        if action.option_strings and action.nargs is None and arg_strings == ["--"]:
            return self._get_value(action, "--")
        return super()._get_values(action, arg_strings)

    def _get_value(self, action: argparse.Action, arg_string: str) -> Any:
        """One value as its option reads it."""
        read = self._registry_get("type", action.type, action.type)
        try:
            return read(arg_string)
        except Trouble as wrong:
            self.wrong(f"{_name(action)}: {wrong}", wrong.remedy)
        except ValueError:
            self.wrong(
                f"{_name(action)}: “{arg_string}” is not a number", f"write {_name(action)} 4"
            )

    def _match_argument(self, action: argparse.Action, arg_strings_pattern: str) -> int:
        """How many words an option takes of those that follow it."""
        try:
            return super()._match_argument(action, arg_strings_pattern)
        except argparse.ArgumentError:
            self.wrong(f"{_name(action)} needs a value", self._like())

    def _check_value(self, action: argparse.Action, value: object) -> None:
        """Is a word one of those that may be there?"""
        if action.choices is None or value in action.choices:
            return
        name, choices = _name(action), [str(one) for one in action.choices if one != ""]
        takes = f"not a value of {name}" if name.startswith("-") else f"no {name}"
        listed = " or ".join(filter(None, (", ".join(choices[:-1]), *choices[-1:])))
        remedy = perhaps(str(value), choices, f"write {listed}" if choices else self._explained())
        self.wrong(
            f"“{value}” is {takes}"
            + (
                f"; it takes {listed}"
                if choices and len(choices) < 5 and not remedy.startswith("write")
                else ""
            ),
            remedy,
        )

    def error(self, message: str = "") -> NoReturn:
        """What Python's own calls where arguments are missing."""
        wrong = next(
            (
                word
                for word in self.words
                if word.startswith("--")
                and len(word) > 2
                and word.partition("=")[0] not in self._known()
            ),
            "",
        )
        if wrong:  # what is missing may be missing since the option is wrong
            self._left_over(wrong.partition("=")[0])
        missing = [
            _name(one)
            for one in self._actions
            if one.required
            and one.nargs not in ("*", "?", argparse.SUPPRESS)
            and one not in self._given
        ]
        self.wrong(
            f"{' and '.join(missing)} {'is' if len(missing) == 1 else 'are'} missing", self._like()
        )

    def _left_over(self, word: str) -> NoReturn:
        """A word that nothing takes. Ends the call."""
        option = re.match(r"--[\w-]+", word)
        if option:
            new, known = registry.FORMER.get(option[0], ""), self._known()
            remedy = (
                f"it is now {new}"
                if new in known
                else perhaps(option[0], known, f"`{self.prog} --help` lists them")
            )
            self.wrong(f"unknown option {option[0]}", remedy)
        if self.verbs and self.words:
            self.wrong(
                *_without_verb(self.prog.removeprefix("syntagma "), self.words[0], self.verbs)
            )
        self.wrong(f"“{word}” is one word too many", self._like())

    def wrong(self, message: str, remedy: str) -> NoReturn:
        """Report a wrong call, with the call that was probably meant; ends it with status 2."""
        from syntagma.cli import terminal

        terminal.wrong(message, answer(message, remedy), self.prog)
        raise SystemExit(2)

    def _known(self) -> list[str]:
        return [
            option
            for action in self._actions
            for option in action.option_strings
            if option.startswith("--")
        ]

    def _like(self) -> str:
        return f"for instance: {self.likes[0]}" if self.likes else self._explained()

    def _explained(self) -> str:
        return f"`{self.prog} --help` explains it"


def _name(action: argparse.Action) -> str:
    """How a message calls an argument: an option by its long name."""
    metavar = action.metavar[0] if isinstance(action.metavar, tuple) else action.metavar
    return (
        action.option_strings[-1]
        if action.option_strings
        else (metavar or action.dest).rpartition("/")[2]
    )


def _without_verb(noun: str, word: str, verbs: Mapping[str, Verb]) -> tuple[str, str]:
    """The error message and its remedy for a word that is not one of the noun's verbs."""
    return (
        f"{noun} has no verb “{word}”",
        f"the verbs are {', '.join(verbs)}; `syntagma {noun} --help` explains them",
    )


def no_verb(noun: str, words: Sequence[str], verbs: Mapping[str, Verb]) -> NoReturn:
    """A noun was followed by a word that is not a verb of it, and nothing else that it takes.
    Raises Trouble.
    """
    raise Trouble(*_without_verb(noun, words[0], verbs), 2)


CALLED: list[str] = []  # the words of the call that runs, the command first
_meant: list[Callable[[Sequence[str]], str]] = [lambda words: ""]


def calls_are_mended_by(meant: Callable[[Sequence[str]], str]) -> None:
    """Say what finds the call that was probably meant by the words of a wrong one ("" if it
    can't).
    """
    _meant[:] = [meant]


def answer(message: str, remedy: str) -> str:
    """The remedy with the whole call that was probably meant, as far as that can be determined.
    What the program says a word should be (did you mean “poster”?) comes before what the call looks
    like.
    """
    near = re.fullmatch(r"did you mean “([^”]+)”\?", remedy)
    for wrong in re.findall(r"“([^”]+)”", message) if near else ():
        if (
            wrong in CALLED and near and not re.search(r"\.[a-z]{2,5}$|[;,]", wrong)
        ):  # a file, or several, is not a name that is misspelt
            return (
                f"{remedy}"
                f" {' '.join(map(quote, ['syntagma', *(near[1] if word == wrong else word for word in CALLED)]))}"  # noqa: E501
            )
    call = _meant[0](CALLED)
    if not call or sorted(split(call)[1:]) == sorted(CALLED):
        return remedy  # the same words again are no help
    if near and near[1] in call:
        return f"{remedy} {call}"
    told = (
        ""
        if not remedy
        or remedy.startswith(
            ("did you mean", "for instance", "`syntagma", "write the slot", "the verbs are")
        )
        else f"{remedy}\n  "
    )
    return f"{told}did you mean: {call}"


def fills(words: list[str]) -> dict[str, str]:
    """Read slot=text words. Raises Trouble."""
    given: dict[str, str] = {}
    for word in words:
        slot, equals, text = word.partition("=")
        if not equals or not slot:
            raise Trouble(f"“{word}” fills no slot", 'write the slot first, as in subject="…"', 2)
        if given.get(slot) == text:
            continue  # said again is said once
        if slot in given:
            raise Trouble(
                f"the slot “{slot}” is filled twice", f'for a list write {slot}="one; two"', 2
            )
        if _several(text):
            raise Trouble(f"“{word}” fills more than one slot", "write each slot separately", 2)
        given[slot] = text
    return given


def _several(text: str) -> bool:
    """Does a fill hold another one: subject=ferry,light=dusk?"""
    inner = [match[1] for match in re.finditer(r"(?:^|[\s,;])([A-Za-z][\w-]*)=", text)]
    if not inner and not text.startswith("="):
        return False
    from syntagma.cli.known import KnownNames

    known = KnownNames()
    return text.startswith("=") or any(
        name in known.facets or any(name in known.slots(formula) for formula in known.formulas)
        for name in inner
    )


def within(name: str) -> Callable[[str], float]:
    """What reads a number of a named range (core/ranges.py), as an argument's type."""
    from syntagma.core.notation.ranges import number

    def read(word: str) -> float:
        return number(name, word)

    read.range = name  # type: ignore[attr-defined]
    return read


def checked(name: str, word: str, like: str) -> float:
    """A number of a named range; `like` shows one that is right. Raises OutOfRange."""
    from syntagma.core.notation.ranges import number

    return number(name, word, like)


def part(word: str) -> tuple[int, int]:
    """Read 3/16, the third of sixteen. Raises Trouble."""
    match = re.fullmatch(r"(\d+)/(\d+)", word)
    if not match or not 1 <= int(match[1]) <= int(match[2]):
        raise Trouble(
            f"“{word}” is not a part of the family", "write --part 3/16, from 1/16 to 16/16", 2
        )
    return int(match[1]), int(match[2])


def strengths(words: list[str]) -> tuple[int, list[str]]:
    """Read the strengths of a cover: one for all axes (0 if none is given), those of groups as they
    are written. Raises Trouble.
    """
    plain = [word for word in words if ":" not in word]
    found = [
        int(checked("strength", word, "--strength 3, or --strength 3:light+medium+lens"))
        for word in plain
    ]
    return found[-1] if found else 0, [word for word in words if ":" in word]


def numbers(text: str | None) -> list[int]:
    """Read 3,7,8 as whole numbers from 1. Raises Trouble."""
    return [int(checked("without", word, "--without 3,7,8")) for word in listed(text)]


def listed(text: str | None) -> list[str]:
    """Read A,B as a list; nothing is none."""
    return [part.strip() for part in (text or "").split(",") if part.strip()]


def names(text: str | None) -> list[str | None]:
    """Read A,B; nothing is one that is not named."""
    return [*listed(text)] or [None]


def pairs(words: list[str], option: str, like: str) -> dict[str, str]:
    """Read NAME=VALUE words of an option; `like` is one that is right. Raises Trouble."""
    found: dict[str, str] = {}
    for word in words:
        key, equals, value = word.partition("=")
        if not equals or not key.strip() or not value.strip():
            raise Trouble(f"“{word}” is incomplete", f"write {option} {like}", 2)
        found[key.strip()] = value.strip()
    return found
