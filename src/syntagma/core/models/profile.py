"""The profile of one generator, read from TOML. A model's habits are data: nothing in the program asks for its name."""

import re
import tomllib
from typing import NamedTuple

from syntagma.core.models.measure import LETTERS, UNITS, Limit
from syntagma.core.near import perhaps
from syntagma.core.places import Mistake, Refused, Span, mistake_at, toml_mistake

KEYS = {
    "about": str, "media": str, "register": str, "separator": str, "final_stop": bool, "negative": str, "limits": dict,
}  # fmt: skip
LIMIT_KEYS = ("most", "unit", "letters")
LIMITED = ("text", "negative")
REGISTER_NAMES = ("prose", "tags")
NEGATIVE_WAYS = ("field", "none")


class Profile(NamedTuple):
    """What one generator takes. `negative`: "field" where it has one of its own, "none" where it takes no such text;
    `final_stop`: True to close the text with one, False to leave it off, None to leave it as the formula has it."""

    name: str
    about: str = ""
    media: str = ""
    register: str = "prose"
    separator: str = ""
    final_stop: bool | None = None
    negative: str = "field"
    text_limit: Limit | None = None
    negative_limit: Limit | None = None


PLAIN = Profile("")  # no generator in particular: prose without a limit


def read_profile(text: str, name: str, source: str = "") -> Profile:
    """Read a profile file. Raises Refused with all its mistakes."""
    reader = _ProfileReader(text, source or f"{name}.toml")
    values = reader.values()
    limits = values.get("limits", {})
    profile = Profile(
        name,
        about=values.get("about", ""),
        media="" if values.get("media") == "both" else values.get("media", ""),
        register=values.get("register", "prose"),
        separator=values.get("separator", ""),
        final_stop=values.get("final_stop"),
        negative=values.get("negative", "field"),
        text_limit=reader.limit(limits, "text"),
        negative_limit=reader.limit(limits, "negative"),
    )
    if reader.mistakes:
        raise Refused(reader.mistakes)
    return profile


class _ProfileReader:
    def __init__(self, text: str, source: str):
        self.text, self.source = text.removeprefix("\ufeff"), source
        self.mistakes: list[Mistake] = []

    def values(self) -> dict:
        """The values at the top of the file, of the kinds that they should be."""
        try:
            values = tomllib.loads(self.text.replace("\r\n", "\n"))
        except tomllib.TOMLDecodeError as error:
            raise Refused([toml_mistake(self.source, self.text, 0, len(self.text), str(error))]) from None
        good = {}
        for key, value in values.items():
            if key not in KEYS:
                self._wrong(key, f"“{key}” is nothing that a model profile has", perhaps(key, KEYS, f"it knows {', '.join(KEYS)}"))
            elif not isinstance(value, KEYS[key]):
                kind = {str: "text in quotes", bool: "true or false", dict: "a table"}[KEYS[key]]
                self._wrong(key, f"“{key}” takes {kind}", f"write {kind} behind {key} =")
            else:
                good[key] = value
        self._one_of(good, "media", ("image", "video", "both"))
        self._one_of(good, "register", REGISTER_NAMES)
        self._one_of(good, "negative", NEGATIVE_WAYS)
        return good

    def _one_of(self, values: dict, key: str, allowed: tuple[str, ...]) -> None:
        if key in values and values[key] not in allowed:
            remedy = perhaps(values[key], allowed, f"write {' or '.join(allowed)}")
            self._wrong(key, f"“{values[key]}” is no {key} of a model", remedy)
            del values[key]

    def limit(self, limits: dict, name: str) -> Limit | None:
        """One limit, or None where the profile names none."""
        for other in limits if name == LIMITED[0] else ():
            if other not in LIMITED:
                self._wrong(other, f"there is no limit for “{other}”", f"limits are for {' and '.join(LIMITED)}")
        value = limits.get(name)
        if value is None:
            return None
        rule = value if isinstance(value, dict) else {"most": value}
        for key in rule:
            if key not in LIMIT_KEYS:
                self._wrong(name, f"“{key}” is nothing that a limit has", perhaps(key, LIMIT_KEYS, "it knows most, unit, letters"))
        most, unit, letters = rule.get("most"), rule.get("unit", "characters"), rule.get("letters", LETTERS)
        if type(most) is not int or most < 1:
            self._wrong(name, f"the limit for {name} is no whole number", f'write {name} = {{ most = 900, unit = "characters" }}')
        elif unit not in UNITS:
            self._wrong(name, f"“{unit}” is no unit of a limit", perhaps(str(unit), UNITS, f"the units are {', '.join(UNITS)}"))
        elif type(letters) is not int or letters < 1:
            self._wrong(name, "“letters” is no whole number", "write how many letters one token holds: letters = 6")
        else:
            return Limit(most, unit, letters)
        return None

    def _wrong(self, key: str, message: str, remedy: str) -> None:
        spot = re.search(rf"^[ \t]*\[?[\"']?({re.escape(key)})\b", self.text, re.M)
        at = spot.start(1) if spot else 0
        self.mistakes.append(mistake_at(self.source, self.text, Span(at, at + len(key)), message, remedy))
