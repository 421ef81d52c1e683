"""The call that makes a prompt again: formula, fills, looks and model as a person would type them."""

import re
import shlex
from collections.abc import Collection, Mapping, Sequence

from syntagma.app.composing.asked import Ask
from syntagma.core.drafting.fills import Fill
from syntagma.core.formula import SlotRule


def typed(fill: Fill | None) -> str:
    """A fill as it is typed after slot=: the members of a list with ";" between them, their own semicolons escaped."""
    if fill is None:
        return ""
    if isinstance(fill.given, str):
        return fill.given
    return "; ".join(re.sub(r"(?<!\\);", r"\\;", part) for part in fill.given)


def words_of(fills: Mapping[str, str]) -> list[str]:
    """slot=text words, quoted for a shell where they need it."""
    return [f"{slot}={shlex.quote(text) if text else ''}" for slot, text in fills.items()]


def call_of(ask: Ask, rules: Sequence[SlotRule], fills: Sequence[Fill | None], wish: str = "", heard: Collection[str] = ()) -> str:
    """The compose call that gives these fills; what a slot has by default is left unsaid, and so are those `heard` in a `wish`."""
    said: dict[str, str] = {}
    for rule, fill in zip(rules, fills, strict=True):
        text, default = typed(fill), "; ".join(rule.default)
        if text != default and rule.name not in heard:
            said[rule.name] = text
    words = ["syntagma compose", shlex.quote(ask.formula), *words_of(said)]
    words += ["--from", shlex.quote(wish)] if wish else []
    words += ["--look", ",".join(ask.looks)] if ask.looks else []
    words += ["--model", ask.model] if ask.model else []
    words += [f"--parameter {name}={shlex.quote(str(value))}" for name, value in ask.manner.parameters.items()]
    words += [f"--reference {shlex.quote(reference.typed)}" for reference in ask.manner.references]
    words += [f"--stress {name}={weight:g}" for name, weight in ask.manner.stress.items()]
    return " ".join(words)
