"""Completion in the shell: commands, formulas, models, facets, slots, and the terms that a slot
takes.

Asked for by argcomplete (docs/reference/vocabulary.md says how to switch it on); the program does
nothing else in such a call.
"""

import argparse
import os
from collections.abc import Mapping
from types import ModuleType
from typing import Any, NoReturn

from syntagma.cli.args import Parser
from syntagma.core.diagnostics import Refused, Trouble
from syntagma.core.formula import Formula


class _Command(Parser):
    """A command's parser as a branch of the whole; nothing is said of a call that is unfinished."""

    def wrong(self, message: str, remedy: str) -> NoReturn:
        raise SystemExit(2)

    def __init__(self, prog: str, **rest: object):
        super().__init__(prog.split()[-1], "")


def complete(commands: Mapping[str, ModuleType]) -> None:
    """Answer a shell that asks what could come next, and leave."""
    import argcomplete

    whole = argparse.ArgumentParser(prog="syntagma")
    branches = whole.add_subparsers(dest="command", parser_class=_Command)
    typed = os.environ.get("COMP_LINE", "").split()[1:3]
    for name, command in commands.items():
        parser, verbs = branches.add_parser(name), getattr(command, "VERBS", {})
        if typed[:1] == [name] and len(typed) > 1 and typed[1] in verbs:
            parser, own = (
                parser.add_subparsers(dest="verb", parser_class=_Command).add_parser(typed[1]),
                f"{name} {typed[1]}",
            )
            verbs[typed[1]].arguments(parser)
            verbs = {}
        else:
            own = name
            command.arguments(parser)
        for action in parser._actions:
            completer = COMPLETERS.get((own, action.dest)) or COMPLETERS.get(("", action.dest))
            if verbs and not action.option_strings:
                completer, verbs = _with_verbs(verbs, completer), {}
            if completer:
                action.completer = completer  # type: ignore[attr-defined]  # where argcomplete looks for it
    argcomplete.autocomplete(whole, default_completer=argcomplete.FilesCompleter())


def _with_verbs(verbs: Any, completer: Any):
    """Completes the verbs of a noun, and what its first word may be besides."""

    def complete(prefix: str, **rest: object) -> list[str]:
        return [
            *(verb for verb in verbs if verb.startswith(prefix)),
            *(completer(prefix, **rest) if completer else ()),
        ]

    return complete


def _workspace():
    from syntagma.app.workspace.workspace import Workspace

    return Workspace.load()


def _formulas(prefix: str, **_: object) -> list[str]:
    return list(_workspace().formulas())


def _listed(room: str):
    """Completes the last name of A,B from a room of the world."""

    def complete(prefix: str, **_: object) -> list[str]:
        before, comma = (
            prefix[: prefix.rfind(",") + 1].removesuffix(","),
            ("," if "," in prefix else ""),
        )
        return [before + comma + name for name in getattr(_workspace(), room)()]

    return complete


def _facets(prefix: str, **_: object) -> list[str]:
    return list(_workspace().vocabulary.names)


def _all_terms(prefix: str, **_: object) -> list[str]:
    return [term.term for facet in _workspace().vocabulary for term in facet]


def _fills(prefix: str, parsed_args: argparse.Namespace, **_: object) -> list[str]:
    """Slots of the formula that was named, then the terms that the slot takes, favourites first."""
    workspace = _workspace()
    try:
        formula: Formula = workspace.formula(getattr(parsed_args, "formula", None) or "")[0]
    except (Trouble, Refused):
        return []
    slot, equals = prefix.partition("=")[:2]
    if not equals:
        return [f"{rule.name}=" for rule in formula.slots]
    rule = next((rule for rule in formula.slots if rule.name == slot), None)
    if rule is None or rule.facet not in workspace.vocabulary:
        return []
    return [f"{slot}={term.term}" for term in workspace.vocabulary[rule.facet]]


# by command and argument; "" means every command
COMPLETERS = {
    ("", "formula"): _formulas,
    ("formula", "name"): _formulas,
    ("formula check", "name"): _formulas,
    ("formula new", "like"): _formulas,
    ("look", "name"): _listed("looks"),
    ("look new", "like"): _listed("looks"),
    ("theme", "name"): _listed("themes"),
    ("theme new", "like"): _listed("themes"),
    ("model", "name"): _listed("models"),
    ("model try", "name"): _listed("models"),
    ("model new", "base"): _listed("models"),
    ("", "model"): _listed("models"),
    ("", "look"): _listed("looks"),
    ("", "theme"): _listed("themes"),
    ("", "facet"): _facets,
    ("", "fills"): _fills,
    ("", "vary"): _fills,
    ("term star", "terms"): _all_terms,
    ("term unstar", "terms"): _all_terms,
    ("term note", "term"): _all_terms,
    ("term remove", "term"): _all_terms,
}
