"""What the commands' arguments share: the parser, slot=text, --vary."""

import argparse
import re
import sys
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from shlex import quote
from typing import NamedTuple, NoReturn

from syntagma.cli import registry
from syntagma.core.diagnostics.suggestions import nearest, perhaps
from syntagma.storage.trouble import Trouble


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
        self.add_argument("-q", "--quiet", action="store_true", help="say nothing beside what was asked for, but errors")
        self.add_argument("-v", "--verbose", action="store_true", help="say everything there is to say beside it")

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
        """What the help ends with; the first of them stands where a call says too little."""
        self.likes = lines
        verbs = "".join(f"  {self.prog} {name:<10} {verb.about}\n" for name, verb in self.verbs.items())
        self.epilog = (f"and:\n{verbs}\n" if verbs else "") + "examples:\n" + "\n".join(f"  {line}" for line in lines)

    def _print_message(self, message: str, file=None) -> None:
        """Help as it is printed; where it can't be, that is told, which Python's own passes over."""
        (file or sys.stderr).write(message)

    def _get_values(self, action, arg_strings):
        """What an option was given. Python's own takes --vary=-- for a mark that ends the options, and gives a list."""
        if action.option_strings and action.nargs is None and arg_strings == ["--"]:
            return self._get_value(action, "--")
        return super()._get_values(action, arg_strings)

    def _as_parameter(self, option: str) -> str:
        """The call in which an option is a parameter of the generator, as --ratio 2:3 was probably meant, or a slot; "" where it is neither, or nothing follows it."""
        if option[2:] not in PARAMETERS and not _a_slot(option[2:], self.words):
            return ""
        for at, word in enumerate(self.words):
            name, equals, value = word.partition("=")
            if name == option and (equals or self.words[at + 1 : at + 2]):
                said = f"{option[2:]}={value if equals else self.words[at + 1]}"
                slots = any(action.dest == "fills" for action in self._actions)
                how = ["--parameter", said] if option[2:] in PARAMETERS else [said] if slots else ["--set", said]
                return " ".join(map(quote, [*self.prog.split(), *self.words[:at], *how, *self.words[at + (1 if equals else 2) :]]))
        return ""

    def _verb_with(self, option: str) -> str:
        """Another verb of the same noun that has an option; "" where none has. None that decides something is put into anybody's mouth."""
        for name, verb in (self.verbs or self.beside).items():
            if name in ("approve", "remove", "choose", "settle"):
                continue
            parser = Parser(f"{self.prog.split()[1]} {name}", verb.about)
            verb.arguments(parser)
            if any(option in action.option_strings for action in parser._actions):
                return name
        return ""

    def error(self, message: str) -> None:
        known = [o for action in self._actions for o in action.option_strings if o.startswith("--")]
        required = re.match(r"the following arguments are required: (.*)", message)
        wrong = next((word for word in self.words if word.startswith("--") and len(word) > 2 and word.partition("=")[0] not in known), "")
        if required and wrong:  # what is missing may be missing since the option is wrong
            required, message = None, f"unrecognized arguments: {wrong.partition('=')[0]}"
        if required:
            optional = {str(action.metavar) for action in self._actions if action.nargs in ("*", "?")}
            names = [name for name in required[1].split(", ") if name not in optional]
            message = f"{' and '.join(names)} is missing"
        choice = re.match(r"argument (\S+): invalid choice: '?(.*?)'? \(choose from .*\)", message)
        unknown = re.match(r"unrecognized arguments: (--[\w-]+)", message)
        extra = re.match(r"unrecognized arguments: (\S+)", message)
        like = f"for instance: {self.likes[0]}" if self.likes else f"`{self.prog} --help` explains it"
        if unknown:
            message = f"there is no option {unknown[1]}"
            new = registry.FORMER.get(unknown[1], "")
            other = "" if new in known else self._verb_with(unknown[1])
            if new in known:
                remedy = f"it is now {new}: {' '.join(map(quote, [*self.prog.split(), *(re.sub(rf'^{unknown[1]}(?==|$)', new, word) for word in self.words)]))}"
            elif other:
                remedy = f"did you mean: {' '.join(map(quote, [*self.prog.split()[:2], other, *self.words]))}"
            elif "--parameter" in known and (call := self._as_parameter(unknown[1])):
                remedy = f"did you mean: {call}"
            else:
                remedy = perhaps(unknown[1], known, f"`{self.prog} --help` lists them")
        elif extra and self.verbs and self.words[:1] in (["show"], ["list"]):
            message, remedy = f"{self.prog} needs no {self.words[0]}", f"write {' '.join(map(quote, [*self.prog.split(), *self.words[1:]]))}"
        elif extra and self.verbs and self.words:
            meant = nearest(self.words[0], self.verbs)
            message = f"“{self.words[0]}” is nothing that {self.prog} does"
            remedy = f"did you mean: {self.prog} {' '.join(map(quote, [meant, *self.words[1:]]))}" if meant else f"it knows {', '.join(self.verbs)}; `{self.prog} --help` explains them"
        elif extra:
            positional = [action.metavar for action in self._actions if not action.option_strings]
            message, remedy = f"“{extra[1]}” is one word too many", like
            if self.prog == "syntagma shorten" and re.fullmatch(r"\d+[wc]", extra[1]):
                remedy = f"did you mean: {' '.join(map(quote, [*self.prog.split(), *(part for word in self.words for part in (['--to', word] if word == extra[1] else [word]))]))}"
            elif self.prog == "syntagma rewrite" and len(self.words) == 2:
                remedy = f"did you mean: {' '.join(map(quote, [*self.prog.split(), self.words[0], '--formula', self.words[1]]))}"
            elif positional in (["PROMPT"], ["TEXT"]) and not any(word.startswith("-") for word in self.words):  # a prompt without quotation marks
                remedy = f"did you mean: {self.prog} {quote(' '.join(self.words))}"
        elif choice:
            action = next((one for one in self._actions if choice[1] in ("/".join(one.option_strings), one.metavar, one.dest)), None)
            choices = [str(one) for one in (action.choices if action and action.choices else ()) if one != ""]
            takes = f"nothing that {choice[1]} takes" if choice[1].startswith("-") else f"no {choice[1]}"
            message = f"“{choice[2]}” is {takes}"
            remedy = perhaps(choice[2], choices, f"write {' or '.join(filter(None, (', '.join(choices[:-1]), *choices[-1:])))}" if choices else f"`{self.prog} --help` lists them")
        elif required or "expected one argument" in message:
            remedy = like
        else:
            remedy = f"`{self.prog} --help` explains it"
        from syntagma.cli import terminal

        terminal.wrong(message, remedy, self.prog)
        raise SystemExit(2)


def no_verb(noun: str, words: Sequence[str], verbs: Mapping[str, Verb]) -> NoReturn:
    """A noun was followed by a word that is no verb of it, and nothing else that it takes. Raises Trouble, with the call that was probably meant."""
    meant = nearest(words[0], verbs)
    call = " ".join(map(quote, ["syntagma", noun, meant, *words[1:]]))
    raise Trouble(f"“{words[0]}” is nothing that syntagma {noun} does", f"did you mean: {call}" if meant else f"it knows {', '.join(verbs)}", 2)


CALLED: list[str] = []  # the words of the call that runs, the command first; what a mistake is answered with is made of them


def meant(old: Sequence[str], new: Sequence[str]) -> str:
    """The call that runs with some of its words replaced, as it is typed; "" where they are not in it."""
    for at in range(len(CALLED) - len(old) + 1):
        if CALLED[at : at + len(old)] == list(old):
            return " ".join(map(quote, ["syntagma", *CALLED[:at], *new, *CALLED[at + len(old) :]]))
    return ""


def whole_call(message: str, remedy: str) -> str:
    """A remedy that names what was probably meant (did you mean “poster”?) as the whole call with that name in it; else as it is."""
    near = re.fullmatch(r"did you mean “([^”]+)”\?", remedy)
    for wrong in re.findall(r"“([^”]+)”", message) if near else ():
        for at, word in enumerate(CALLED):
            parts = [word] if word == wrong else re.split(r"([=:,;+]\s*)", word)
            if wrong in parts and near:
                said = "".join(near[1] if part == wrong else part for part in parts)
                return f"{remedy} " + " ".join(map(quote, ["syntagma", *CALLED[:at], said, *CALLED[at + 1 :]]))
    return remedy


def bad_fill(message: str, remedy: str, slot: str) -> str:
    """The remedy for a fill that is wrong, as a whole call where that can be said: ratio=2:3 is a parameter, and no slot."""
    word = next((word for word in CALLED if word.startswith(f"{slot}=")), "")
    if slot in PARAMETERS and word:
        return f"did you mean: {meant([word], ['--parameter', word])}"
    return whole_call(message, remedy)


PARAMETERS = ("ratio", "seed", "seconds", "size", "rate", "sound")  # what generators call so, and no slot is called


def _a_slot(name: str, words: Sequence[str]) -> bool:
    """Is that a slot of a formula that the call names, or a facet?"""
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load()
    formulas = [workspace.formula(word)[0] for word in words if word in workspace.formulas()]
    return name in workspace.vocabulary or any(name == rule.name for formula in formulas for rule in formula.slots)


def _no_fill(words: Sequence[str], at: int) -> Trouble:
    """What to say of a word that fills no slot: with the call that was probably meant."""
    word, before, after = words[at], words[at - 1] if at else "", words[at + 1 : at + 3]
    ways: list[tuple[list[str], list[str]]] = []
    if after[:1] == ["="] and len(after) > 1:  # subject = "car ferry"
        ways.append(([word, *after], [f"{word}={after[1]}"]))
    if after and after[0].startswith("=") and len(after[0]) > 1:  # subject ="car ferry"
        ways.append(([word, after[0]], [word + after[0]]))
    if before.endswith("=") and not before.startswith("-"):  # subject= "car ferry"
        ways.append(([before, word], [before + word]))
    elif "=" in before and not before.startswith(("-", "=")):  # subject=car ferry
        ways.append(([before, word], [f"{before} {word}"]))
    if re.fullmatch(r"[a-z][\w-]*:.+", word):  # subject:ferry
        ways.append(([word], [word.replace(":", "=", 1)]))
    if "--vary" in CALLED and re.fullmatch(r"[a-z][\w-]*(:\d+)?", word):  # --vary light medium
        ways.append(([word], ["--vary", word]))
    if CALLED[:1] == ["compose"] and " " in word:  # compose poster "a red fox"
        ways.append(([word], ["--from", word]))
    for old, new in ways:
        if call := meant(old, new):
            return Trouble(f"“{word}” fills no slot", f"did you mean: {call}", 2)
    return Trouble(f"“{word}” fills no slot", (meant([word], [f"subject={word}"]) and f"write the slot first: {meant([word], [f'subject={word}'])}") or f'write the slot first, as in subject="{word}"', 2)


def fills(words: list[str]) -> dict[str, str]:
    """Read slot=text words. Raises Trouble."""
    given: dict[str, str] = {}
    for at, word in enumerate(words):
        slot, equals, text = word.partition("=")
        if not equals or not slot:
            raise _no_fill(words, at)
        if slot in given:
            raise Trouble(f"the slot “{slot}” is filled twice", f'for a list write {slot}="one; two"', 2)
        given[slot] = text
    return given


def within(name: str) -> Callable[[str], float]:
    """What reads a number of a named range (core/ranges.py), as an argument's type."""
    from syntagma.core.notation.ranges import OutOfRange, number

    def read(word: str) -> float:
        try:
            return number(name, word)
        except OutOfRange as wrong:
            raise argparse.ArgumentTypeError(f"{wrong}; {wrong.remedy}") from None

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
        raise Trouble(f"“{word}” is no part", "write --part 3/16, from 1/16 to 16/16", 2)
    return int(match[1]), int(match[2])


def strengths(words: list[str]) -> tuple[int, list[str]]:
    """Read the strengths of a cover: one for all axes (0 where none is given), those of groups as they are written. Raises Trouble."""
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
            raise Trouble(f"“{word}” says too little", f"write {option} {like}", 2)
        found[key.strip()] = value.strip()
    return found
