"""What is there, by name, for a call that is set right: read once, when it is asked for."""

import os
import re
from collections.abc import Iterable, Sequence
from functools import cached_property
from pathlib import Path

from syntagma.core.diagnostics import nearest
from syntagma.core.english.word_lists import NUMBERS as SMALL
from syntagma.core.vocabulary import facets

NUMBERS = {word: str(n) for n, word in enumerate(SMALL)} | {
    "a": "1",
    "dozen": "12",
    "twenty": "20",
    "hundred": "100",
}


def like(word: str, names: Iterable[str]) -> str:
    """The name that a word means: the same but for case, hyphens, the plural or an ending; one that
    begins with it or has it as a part; else the nearest. "" for none.
    """
    names = list(names)
    plain = {_plain(name): name for name in reversed(names)}
    for said in (word, word.removesuffix("s"), word.partition(".")[0]):
        if found := plain.get(_plain(said)):
            return found
    begin = [name for name in names if len(word) > 2 and _plain(name).startswith(_plain(word))]
    parts = [name for name in names if len(word) > 2 and word.lower() in name.lower().split("-")]
    for few in (begin, parts):
        if len(few) == 1:
            return few[0]
    return nearest(word.lower(), names) or (begin or parts or [""])[0]


def _plain(name: str) -> str:
    return name.lower().replace("-", "").replace("_", "").replace(" ", "")


def number_in(word: str) -> str:
    """A number that a word says in digits or letters; "" for none."""
    low = word.strip().lower()
    if low in NUMBERS:
        return NUMBERS[low]
    match = re.match(r"[+-]?\d+(?:\.\d+)?(?=(%|[a-z]{0,2}$|$))", low)
    return f"{float(match[0]) / (100 if match[1] == '%' else 1):g}" if match else ""


class KnownNames:
    """The names of the workspace and of the folder."""

    @cached_property
    def workspace(self):
        from syntagma.app.workspace.workspace import Workspace

        return Workspace.load()

    @cached_property
    def formulas(self) -> list[str]:
        return list(self.workspace.formulas())

    def slots(self, formula: str) -> list[str]:
        """The slots of a formula by name; none of one that can't be read."""
        return (
            [rule.name for rule in self.workspace.formula(formula)[0].slots]
            if formula in self.workspace.formulas()
            else []
        )

    def slot(self, word: str, formula: str, near: bool = True) -> str:
        """The slot of a formula that a word names: by its own name or its facet's, or nearly; ""
        for none.
        """
        if formula not in self.workspace.formulas():
            return ""
        rules = self.workspace.formula(formula)[0].slots
        labelled = facets.facet_of_label(word.lower())
        exact = next(
            (
                rule.name
                for rule in rules
                if _plain(word) in (_plain(rule.name), _plain(rule.facet))
                or (rule.facet and rule.facet == labelled)
            ),
            "",
        )
        return exact or (like(word, [rule.name for rule in rules]) if near else "")

    @cached_property
    def facets(self) -> list[str]:
        return list(self.workspace.vocabulary.names)

    @cached_property
    def sheets(self) -> list[str]:
        from syntagma.app.batches.sheets import opened
        from syntagma.core.diagnostics import Trouble

        try:
            with opened(self.workspace, read_only=True) as ledger:
                return list(ledger.sheets())
        except Trouble:
            return []

    @cached_property
    def campaigns(self) -> list[str]:
        from syntagma.app.handing_on.campaigns import campaigns_in

        return campaigns_in(self.workspace.folder) if self.workspace.folder else []

    def names(self, what: str) -> list[str]:
        """The names of a kind: formulas, looks, themes, models, facets, sheets, campaigns."""
        found = getattr(self, what, None)
        return list(found if found is not None else getattr(self.workspace, what)())

    def file(self, word: str, endings: Sequence[str] = ()) -> str:
        """The file that a word means: itself if it is there, else the nearest in its folder. "" for
        none.
        """
        path = Path(word)
        if path.is_file() or word == "-":
            return word
        try:
            there = [
                name
                for name in os.listdir(path.parent)
                if not endings or name.lower().endswith(tuple(endings))
            ]
        except OSError:
            return ""
        begun = [name for name in there if name.rpartition(".")[0] == path.name]
        found = begun[0] if begun else nearest(path.name, there)
        return str(path.parent / found) if found else ""
