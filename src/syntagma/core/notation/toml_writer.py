"""TOML out: the one writer of keys and values, for files that are made with comments round them. The quoting is tomlkit's."""

import re
from collections.abc import Mapping, Sequence

from syntagma.core.notation.late_regex import regex

_BARE = regex(r"[A-Za-z0-9_-]+")
WIDE = 90  # characters of a list that stand on one line


def value(said: object) -> str:
    """A value as TOML has it: text, a number, true or false, a list of them, a table on one line."""
    if isinstance(said, Mapping):
        return "{ " + ", ".join(pair(name, one) for name, one in said.items()) + " }" if said else "{}"
    if isinstance(said, Sequence) and not isinstance(said, str):
        parts = [value(one) for one in said]
        return f"[{', '.join(parts)}]" if len(", ".join(parts)) < WIDE else "[\n" + "".join(f"  {part},\n" for part in parts) + "]"
    if isinstance(said, float) and said == int(said) and abs(said) < 1e15:
        return f"{said:.1f}"
    if isinstance(said, str) and said.isprintable() and '"' not in said and "\\" not in said:
        return f'"{said}"'  # nothing to quote in it
    if type(said) is int:
        return str(said)
    from tomlkit import item

    return item(said).as_string()


def key(name: str) -> str:
    """A key, in quotation marks if it needs them."""
    return name if _BARE.fullmatch(name) else value(name)


def pair(name: str, said: object) -> str:
    """A line: key = value."""
    return f"{key(name)} = {value(said)}"


def table(name: str, said: Mapping[str, object]) -> list[str]:
    """The lines of a table with a blank one before it; none if nothing is in it. `name` may be several keys with dots between, as TOML
    has them."""
    return ["", f"[{name}]", *(pair(one, of) for one, of in said.items())] if said else []


def scalar(text: str) -> object:
    """A number or true or false as itself, everything else as text: what a person types for a parameter."""
    if re.fullmatch(r"-?\d{1,15}", text):
        return int(text)
    if re.fullmatch(r"-?\d{1,15}\.\d{1,15}", text):
        return float(text)
    return {"true": True, "false": False}.get(text, text)
