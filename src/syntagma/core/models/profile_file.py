"""A profile file read: TOML, its base below it, every key validated, each mistake at its line."""

import re
from collections.abc import Callable, Mapping
from typing import Any, Literal, get_args, get_origin, get_type_hints

from syntagma.core.diagnostics.places import Mistake, Refused, mistake_at
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.diagnostics.ways import way
from syntagma.core.models.consistency import disagreements
from syntagma.core.models.profile import Menu, Parameter, Profile, ReferenceRole
from syntagma.core.notation.structure import Structure, changed, plain
from syntagma.core.notation.toml_file import TomlFile
from syntagma.core.notation.toml_places import place_in_toml
from syntagma.core.notation.validation import UNKNOWN, Path, converted, wanted

NAMED = {"parameter": Parameter, "menu": Menu, "reference": ReferenceRole}  # tables of tables, each under a name of its own
HIDDEN = ("name", "counters")  # fields that no file has

Base = Callable[[str], "Profile"]


def read_profile(
    text: str, name: str, source: str = "", base: Base | None = None, counter: Callable[[str], Any] | None = None
) -> Profile:
    """Read a profile file. `base` gives the profile of a name that this one builds on; `counter` what counts the tokens of a
    tokenizer file. Raises Refused with all its mistakes."""
    return _ProfileReader(text, name, source or f"{name}.toml", base, counter).read()


class _ProfileReader:
    def __init__(self, text: str, name: str, source: str, base: Base | None, counter: Callable | None):
        self.file = TomlFile(text, source)
        self.name, self.base, self.counter = name, base, counter
        self.mistakes: list[Mistake] = []

    def read(self) -> Profile:
        own = self.file.values()
        for key in HIDDEN:
            if key in own:
                self.wrong((key,), f"a profile has no key “{key}”", "a profile's name comes from its file")
                del own[key]
        values = _merged(self._below(own), own)
        profile = self._valid(values)
        if profile is not None:
            for path, message, remedy in disagreements(profile):
                self.wrong(path, message, remedy)
            counters = self._counters(profile)
        if self.mistakes:
            raise Refused(sorted(self.mistakes, key=lambda m: (m.line, m.column)))
        return changed(profile, name=self.name, counters=counters)

    def wrong(self, path: Path, message: str, remedy: str) -> None:
        span = place_in_toml(self.file.text, path)
        self.mistakes.append(mistake_at(self.file.source, self.file.text, span, message, remedy))

    def _below(self, own: dict) -> dict:
        """The values of the profile that this one builds on."""
        name, without = own.get("base"), own.get("without", [])
        if not isinstance(name, str) or not name:
            if without:
                self.wrong(("without",), "“without” removes keys of a base, but this profile has none", 'write base = "…" too')
            return {}
        try:
            if self.base is None or name == self.name:
                raise LookupError
            below = plain(self.base(name))
        except LookupError:
            self.wrong(("base",), f"no model can serve as the base “{name}”: it does not exist, builds on this one, or builds on too many others", way("models"))
            return {}
        for key in (*HIDDEN, "base", "without"):
            below.pop(key, None)
        for dotted in without if isinstance(without, list) else ():
            *path, last = str(dotted).split(".", 1)
            table = below.get(path[0]) if path else below
            if not isinstance(table, dict) or last not in table:
                self.wrong(("without",), f"{name} has no “{dotted}” to remove", "write the key as in the base: parameter.seed")
            else:
                del table[last]
        return below

    def _valid(self, values: dict) -> Profile | None:
        """The values as a profile, each mistake noted and taken out."""
        named: dict[str, dict] = {}
        for key, kind in NAMED.items():
            table = values.pop(key, {})
            if not isinstance(table, dict):
                self.wrong((key,), f"“{key}” is a table of tables", f"write [{key}.NAME] on its own line, with its keys below")
                continue
            named[key] = {
                name: found for name, one in table.items() if (found := self._convert(one, kind, (key, name))) is not None
            }
        profile = self._convert(values, Profile, ())
        return profile and changed(profile, **named)

    def _convert(self, value: Any, kind: type, at: Path):
        made, faults = converted(value, kind)
        for fault in faults:
            self._told((*at, *fault.path), fault.what, kind, fault.path)
        return made

    def _told(self, path: Path, what: str, kind: type, inside: Path) -> None:
        key = next((step for step in reversed(path) if isinstance(step, str) and step != "…"), "")
        options = _options(kind, inside)
        if what == UNKNOWN:
            known = _fields(kind, inside[:-1])
            self.wrong(
                path, f"{_place(path[:-1])} has no key “{key}”", perhaps(key, known, f"the keys are {', '.join(known)}")
            )
        elif missing := re.search(r"missing required field `(.*)`", what):
            self.wrong(path, f"{_place(path)} lacks “{missing[1]}”", f"write {missing[1]} = … there")
        elif options:
            given = re.search(r"Invalid enum value '?(.*?)'?$", what)
            said = f"“{given[1]}”" if given else "that"
            remedy = perhaps(given[1] if given else "", options, f"write {', '.join(options[:-1])} or {options[-1]}")
            self.wrong(path, f"“{key}” can't be {said}", remedy)
        else:
            self.wrong(path, f"“{key}” takes {wanted(what)}", f"correct the value of {key} =")

    def _counters(self, profile: Profile) -> dict[str, Any]:
        """What counts the tokens of each limit that names a tokenizer file."""
        counters: dict[str, Any] = {}
        for name in ("text", "negative", "whole", "request"):
            size = getattr(profile.limits, name)
            file = getattr(size, "tokenizer", "")
            if file and file not in counters:
                try:
                    counters[file] = self.counter(file) if self.counter else None
                except (LookupError, ValueError) as error:
                    self.wrong(
                        ("limits", name, "tokenizer"), f"{file} can't be used: {error}", "name a tokenizer.json beside the profile"
                    )
        return counters


def _merged(below: Mapping, own: Mapping) -> dict:
    """`own` over `below`: tables are merged, everything else is replaced."""
    both = dict(below)
    for key, value in own.items():
        both[key] = _merged(below[key], value) if isinstance(value, dict) and isinstance(below.get(key), dict) else value
    return both


def _type_at(kind: Any, path: Path) -> Any:
    """The type of what is at `path` in a value of `kind`."""
    for step in path:
        kind = next((k for k in _parts(kind) if isinstance(k, type) and issubclass(k, Structure)), kind)
        if isinstance(kind, type) and issubclass(kind, Structure):
            kind = get_type_hints(kind).get(step)
        else:
            kind = next(iter(a for a in get_args(kind) if a is not Ellipsis), None)
        if kind is None:
            return None
    return kind


def _parts(kind: Any) -> tuple:
    return get_args(kind) if get_origin(kind) is not None or "|" in str(kind) else (kind,)


def _fields(kind: Any, path: Path) -> list[str]:
    found = next(
        (k for k in (_type_at(kind, path), *_parts(_type_at(kind, path))) if isinstance(k, type) and issubclass(k, Structure)),
        None,
    )
    return [name for name in (found.FIELDS if found else ()) if name not in HIDDEN]


def _options(kind: Any, path: Path) -> list[str]:
    found = _type_at(kind, path)
    return list(get_args(found)) if get_origin(found) is Literal else []


def _place(path: Path) -> str:
    return f"[{'.'.join(str(p) for p in path if p != '…')}]" if path else "a profile"
