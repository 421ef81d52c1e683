"""A small TOML file of a person's: its values, and mistakes that name the line of a key."""

import re
import tomllib
from collections.abc import Mapping

from syntagma.core.diagnostics.places import Mistake, Refused, Span, mistake_at, toml_mistake
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.notation.toml_in import read_toml

SAYS = {str: "text in quotes", bool: "true or false", dict: "a table", list: "a list in square brackets", int: "a whole number"}


class TomlFile:
    """The text of a TOML file while it is read. `mistakes` are what was found wrong so far."""

    def __init__(self, text: str, source: str):
        self.text, self.source = text.removeprefix("\ufeff"), source
        self.mistakes: list[Mistake] = []

    def values(self) -> dict:
        """Everything in it. Raises Refused if it is not TOML."""
        try:
            return read_toml(self.text)
        except tomllib.TOMLDecodeError as error:
            raise Refused([toml_mistake(self.source, self.text, 0, len(self.text), str(error))]) from None

    def good(self, values: Mapping, kinds: Mapping[str, type], what: str, table: str = "") -> dict:
        """The values that are of the kind they should be; the others are mistakes, and so are keys that nobody knows."""
        good = {}
        for key, value in values.items():
            if key not in kinds:
                self.wrong(key, f"{what} has no key “{key}”", perhaps(key, kinds, f"the keys are {', '.join(kinds)}"), table)
            elif not isinstance(value, kinds[key]):
                says = SAYS[kinds[key]]
                self.wrong(key, f"“{key}” takes {says}", f"write {says} after {key} =", table)
            else:
                good[key] = value
        return good

    def wrong(self, key: str, message: str, remedy: str, table: str = "") -> None:
        """A mistake at the line where `key` is given, in [table] if one is named."""
        section = re.search(rf"^[ \t]*\[\s*{re.escape(table)}\s*\]", self.text, re.M) if table else None
        spot = re.compile(rf"^[ \t]*\[?[\"']?({re.escape(key)})\b", re.M).search(self.text, section.end() if section else 0)
        at = spot.start(1) if spot else section.start() if section else 0
        self.mistakes.append(mistake_at(self.source, self.text, Span(at, at + len(key)), message, remedy))
