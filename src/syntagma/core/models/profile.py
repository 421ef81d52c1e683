"""The profile of one generator, read from TOML. A model's habits are data: nothing in the program asks for its name."""

from typing import NamedTuple

from syntagma.core.models.measure import LETTERS, UNITS, Limit
from syntagma.core.near import perhaps
from syntagma.core.places import Refused
from syntagma.core.tomlfile import TomlFile

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
    values = reader.good(reader.values(), KEYS, "a model profile")
    reader.one_of(values, "media", ("image", "video", "both"), "a model")
    reader.one_of(values, "register", REGISTER_NAMES, "a model")
    reader.one_of(values, "negative", NEGATIVE_WAYS, "a model")
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


class _ProfileReader(TomlFile):
    def limit(self, limits: dict, name: str) -> Limit | None:
        """One limit, or None where the profile names none."""
        for other in limits if name == LIMITED[0] else ():
            if other not in LIMITED:
                self.wrong(other, f"there is no limit for “{other}”", f"limits are for {' and '.join(LIMITED)}")
        value = limits.get(name)
        if value is None:
            return None
        rule = value if isinstance(value, dict) else {"most": value}
        for key in rule:
            if key not in LIMIT_KEYS:
                self.wrong(name, f"“{key}” is nothing that a limit has", perhaps(key, LIMIT_KEYS, "it knows most, unit, letters"))
        most, unit, letters = rule.get("most"), rule.get("unit", "characters"), rule.get("letters", LETTERS)
        if type(most) is not int or most < 1:
            self.wrong(name, f"the limit for {name} is no whole number", f'write {name} = {{ most = 900, unit = "characters" }}')
        elif unit not in UNITS:
            self.wrong(name, f"“{unit}” is no unit of a limit", perhaps(str(unit), UNITS, f"the units are {', '.join(UNITS)}"))
        elif type(letters) is not int or letters < 1:
            self.wrong(name, "“letters” is no whole number", "write how many letters one token holds: letters = 6")
        else:
            return Limit(most, unit, letters)
        return None
