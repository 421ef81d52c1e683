"""What the commands' arguments share: the parser, slot=text, --vary."""

import argparse
import re
import sys
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from shlex import quote, split
from typing import NamedTuple, NoReturn

from syntagma.cli import registry
from syntagma.core.diagnostics import Trouble, perhaps


class Verb(NamedTuple):
    """What can be done with a noun, `syntagma NOUN VERB …`: a line that says what it does, its arguments, and what runs it."""

    about: str
    arguments: "Callable[[Parser], None]"
    run: Callable[..., int]


class Parser(argparse.ArgumentParser):
    """One command's parser. Help opens with one sentence and ends with examples; a wrong call is two lines."""

    def __init__(self, name: str, about: str, verbs: Mapping[str, Verb] | None = None, words: Sequence[str] = (), beside: Mapping[str, Verb] | None = None):
        self.verbs, self.words, self.beside = verbs or {}, list(words), beside or {}
        self.likes: tuple[str, ...] = ()
        self.shapes: tuple[str, ...] = ()
        super().__init__(
            prog=f"syntagma {name}",
            description=about[:1].upper() + about[1:] + ".",
            formatter_class=partial(argparse.RawDescriptionHelpFormatter, width=80),  # the terminal is asked for its width where help is shown
            allow_abbrev=False,
        )
        self.add_argument("-q", "--quiet", action="store_true", help="print only the result and errors")
        self.add_argument("-v", "--verbose", action="store_true", help="print everything, hints and notes too")

    def format_usage(self) -> str:
        """The first lines of the help, as wide as the terminal."""
        self.formatter_class = argparse.RawDescriptionHelpFormatter
        return super().format_usage()

    def format_help(self) -> str:
        """The help, as wide as the terminal."""
        self.formatter_class = argparse.RawDescriptionHelpFormatter
        return super().format_help()

    def add_argument(self, *names, **given):
        """An argument; of an option that several commands share the meaning is the registry's, with its short form."""
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
        verbs = "".join(f"  {self.prog} {name:<10} {verb.about}\n" for name, verb in self.verbs.items())
        self.epilog = (f"and:\n{verbs}\n" if verbs else "") + "examples:\n" + "\n".join(f"  {line}" for line in lines)

    def _print_message(self, message: str, file=None) -> None:
        """Help as it is printed; if it can't be, that is reported, which Python's own passes over."""
        (file or sys.stderr).write(message)

    def _get_values(self, action, arg_strings):
        """What an option was given. Python's own takes --vary=-- for a mark that ends the options, and gives a list."""
        if action.option_strings and action.nargs is None and arg_strings == ["--"]:
            return self._get_value(action, "--")
        return super()._get_values(action, arg_strings)

    def error(self, message: str) -> NoReturn:
        known = [o for action in self._actions for o in action.option_strings if o.startswith("--")]
        like = f"for instance: {self.likes[0]}" if self.likes else f"`{self.prog} --help` explains it"
        required = re.match(r"the following arguments are required: (.*)", message)
        wrong = next((word for word in self.words if word.startswith("--") and len(word) > 2 and word.partition("=")[0] not in known), "")
        if required and wrong:  # what is missing may be missing since the option is wrong
            required, message = None, f"unrecognized arguments: {wrong.partition('=')[0]}"
        choice = re.match(r"argument (\S+): invalid choice: '?(.*?)'? \(choose from .*\)", message)
        unknown = re.match(r"unrecognized arguments: (--[\w-]+)", message)
        extra = re.match(r"unrecognized arguments: (\S+)", message)
        number = re.match(r"argument (?:\S+/)?(\S+): (“.*); (write .*)", message)
        remedy = f"`{self.prog} --help` explains it"
        if required:
            optional = {str(action.metavar) for action in self._actions if action.nargs in ("*", "?")}
            names = [name.rpartition("/")[2] for name in required[1].split(", ") if name not in optional]
            message, remedy = f"{' and '.join(names)} {'is' if len(names) == 1 else 'are'} missing", like
        elif unknown:
            message = f"unknown option {unknown[1]}"
            new = registry.FORMER.get(unknown[1], "")
            remedy = f"it is now {new}" if new in known else perhaps(unknown[1], known, f"`{self.prog} --help` lists them")
        elif extra and self.verbs and self.words:
            message, remedy = f"{self.prog.removeprefix('syntagma ')} has no verb “{self.words[0]}”", f"the verbs are {', '.join(self.verbs)}; `{self.prog} --help` explains them"
        elif extra:
            message, remedy = f"“{extra[1]}” is one word too many", like
        elif choice:
            action = next((one for one in self._actions if choice[1] in ("/".join(one.option_strings), one.metavar, one.dest)), None)
            choices = [str(one) for one in (action.choices if action and action.choices else ()) if one != ""]
            takes = f"not a value of {choice[1]}" if choice[1].startswith("-") else f"no {choice[1]}"
            listed = " or ".join(filter(None, (", ".join(choices[:-1]), *choices[-1:])))
            remedy = perhaps(choice[2], choices, f"write {listed}" if choices else f"`{self.prog} --help` lists them")
            message = f"“{choice[2]}” is {takes}" + (f"; it takes {listed}" if choices and len(choices) < 5 and not remedy.startswith("write") else "")
        elif number:
            message, remedy = f"{number[1]}: {number[2]}", number[3]
        elif "expected one argument" in message:
            message, remedy = f"{message.split()[1].rstrip(':').rpartition('/')[2]} needs a value", like
        from syntagma.cli import terminal

        terminal.wrong(message, answer(message, remedy), self.prog)
        raise SystemExit(2)


def no_verb(noun: str, words: Sequence[str], verbs: Mapping[str, Verb]) -> NoReturn:
    """A noun was followed by a word that is not a verb of it, and nothing else that it takes. Raises Trouble."""
    raise Trouble(f"{noun} has no verb “{words[0]}”", f"the verbs are {', '.join(verbs)}; `syntagma {noun} --help` explains them", 2)


CALLED: list[str] = []  # the words of the call that runs, the command first
_meant: list[Callable[[Sequence[str]], str]] = [lambda words: ""]


def calls_are_mended_by(meant: Callable[[Sequence[str]], str]) -> None:
    """Say what finds the call that was probably meant by the words of a wrong one ("" if it can't)."""
    _meant[:] = [meant]


def answer(message: str, remedy: str) -> str:
    """The remedy with the whole call that was probably meant, as far as that can be determined. What the program says a word should be (did you mean “poster”?) comes before what the call looks like."""
    near = re.fullmatch(r"did you mean “([^”]+)”\?", remedy)
    for wrong in re.findall(r"“([^”]+)”", message) if near else ():
        if wrong in CALLED and near and not re.search(r"\.[a-z]{2,5}$|[;,]", wrong):  # a file, or several, is not a name that is misspelt
            return f"{remedy} {' '.join(map(quote, ['syntagma', *(near[1] if word == wrong else word for word in CALLED)]))}"
    call = _meant[0](CALLED)
    if not call or sorted(split(call)[1:]) == sorted(CALLED):
        return remedy  # the same words again are no help
    if near and near[1] in call:
        return f"{remedy} {call}"
    told = "" if not remedy or remedy.startswith(("did you mean", "for instance", "`syntagma", "write the slot", "the verbs are")) else f"{remedy}\n  "
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
            raise Trouble(f"the slot “{slot}” is filled twice", f'for a list write {slot}="one; two"', 2)
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
    return text.startswith("=") or any(name in known.facets or any(name in known.slots(formula) for formula in known.formulas) for name in inner)


def within(name: str) -> Callable[[str], float]:
    """What reads a number of a named range (core/ranges.py), as an argument's type."""
    from syntagma.core.notation.ranges import OutOfRange, number

    def read(word: str) -> float:
        try:
            return number(name, word)
        except OutOfRange as wrong:
            raise argparse.ArgumentTypeError(f"{wrong}; {wrong.remedy}") from None

    read.range = name  # type: ignore[attr-defined]
    return read


def checked(name: str, word: str, like: str) -> float:
    """A number of a named range. Raises Trouble, which shows one that is right."""
    from syntagma.core.notation.ranges import OutOfRange, number

    try:
        return number(name, word)
    except OutOfRange as wrong:
        raise Trouble(str(wrong), f"{wrong.remedy}: {like}", 2) from None


def part(word: str) -> tuple[int, int]:
    """Read 3/16, the third of sixteen. Raises Trouble."""
    match = re.fullmatch(r"(\d+)/(\d+)", word)
    if not match or not 1 <= int(match[1]) <= int(match[2]):
        raise Trouble(f"“{word}” is not a part of the family", "write --part 3/16, from 1/16 to 16/16", 2)
    return int(match[1]), int(match[2])


def strengths(words: list[str]) -> tuple[int, list[str]]:
    """Read the strengths of a cover: one for all axes (0 if none is given), those of groups as they are written. Raises Trouble."""
    plain = [word for word in words if ":" not in word]
    found = [int(checked("strength", word, "--strength 3, or --strength 3:light+medium+lens")) for word in plain]
    return found[-1] if found else 0, [word for word in words if ":" in word]


def numbers(text: str | None) -> list[int]:
    """Read 3,7,8 as whole numbers from 1. Raises Trouble."""
    return [int(checked("without", word, "--without 3,7,8")) for word in listed(text)]


def listed(text: str | None) -> list[str]:
    """Read A,B as a list; nothing is none."""
    return [part.strip() for part in (text or "").split(",") if part.strip()]


def names(text: str | None) -> list[str | None]:
    """Read A,B; nothing is one that is not named."""
    return listed(text) or [None]


def pairs(words: list[str], option: str, like: str) -> dict[str, str]:
    """Read NAME=VALUE words of an option; `like` is one that is right. Raises Trouble."""
    found: dict[str, str] = {}
    for word in words:
        key, equals, value = word.partition("=")
        if not equals or not key.strip() or not value.strip():
            raise Trouble(f"“{word}” is incomplete", f"write {option} {like}", 2)
        found[key.strip()] = value.strip()
    return found
