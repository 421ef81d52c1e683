"""What facets are like: traits that are data (facets.toml), so a facet of a person's own has them too."""

import re
from typing import NamedTuple

from syntagma.core.diagnostics import Refused
from syntagma.core.notation.toml import TomlFile

# Where a good writer says what: the standing order of a picture, then of what moves and sounds.
HOMES = ("kind", "shot", "subject", "action", "setting", "weather", "light", "colour", "camera", "composition", "mood", "making", "lettering", "effect", "sound")


class Traits(NamedTuple):
    """The traits of one facet. `noun` completes a bare term if it is alone; `holds` are words that say as much."""

    noun: str = ""
    holds: tuple[str, ...] = ()
    participant: bool = False  # its terms are what a picture is of
    kin: tuple[str, ...] = ()  # facets whose words people use for its own
    ask: str = ""  # what a form asks
    home: str = ""  # one of HOMES: where a guest of it is in a formula that has no slot for it
    said: str = ""  # how a guest of it is led to where no table of joins has its noun: "in the style of [{}]"
    stuff: bool = False  # only stuff wants it (oiled oak), and no thing of free text does (a slate table)

    def completed(self, bare: str, fuller: str = "") -> str:
        """A bare term with the noun that it wants if it is alone: by itself, in its fuller form, or after it."""
        if not self.noun or self.says(bare, self.noun):
            return bare
        return fuller if fuller and self.says(fuller, self.noun) else f"{bare} {self.noun}"

    def says(self, words: str, noun: str) -> bool:
        """Do words say a noun, or one of those that say as much?"""
        return any(re.search(rf"\b{re.escape(word)}\b", words, re.I) for word in (noun, *self.holds))


PLAIN = Traits()


def read_facets(text: str, source: str) -> dict[str, Traits]:
    """Read facets.toml: a table for each facet. Raises Refused with all its mistakes."""
    file = TomlFile(text, source)
    found: dict[str, Traits] = {}
    for facet, table in file.values().items():
        if not isinstance(table, dict):
            file.wrong(facet, f"“{facet}” is a table of traits", f"write [{facet}] on its own line, with its keys below")
            continue
        good = file.good(table, {"noun": str, "holds": list, "participant": bool, "kin": list, "ask": str, "home": str, "said": str}, "a facet", facet)
        holds, kin = (tuple(map(str, good.get(key, ()))) for key in ("holds", "kin"))
        found[facet] = Traits(good.get("noun", "").strip(), holds, good.get("participant", False), kin=kin, ask=good.get("ask", "").strip(), home=good.get("home", "").strip(), said=good.get("said", "").strip())
        if found[facet].said.count("{}") != ("said" in table):
            file.wrong(f"{facet}.said", f"“{found[facet].said}” does not show where the words go", 'write {} once, in the notation of formulas: "with [a {}]"')
        if found[facet].home and found[facet].home not in HOMES:
            file.wrong(f"{facet}.home", f"“{found[facet].home}” is not a home", f"homes are {', '.join(HOMES)}")
    if file.mistakes:
        raise Refused(file.mistakes)
    return found
