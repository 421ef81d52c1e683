"""References: a picture, an address or a handle that represents a character, a style, a frame; and
those who are known by several of them at once.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, NamedTuple

from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, Refused, perhaps
from syntagma.core.models.patterns import written
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.toml import TomlFile

if TYPE_CHECKING:
    from syntagma.core.models.profile import ReferenceRole

_STRENGTH = regex(r"\*(\d+(?:\.\d+)?)$")


class Reference(NamedTuple):
    """One reference: its role, what represents it, of what kind (path, address or handle), how
    strongly it counts.
    """

    role: str
    value: str
    kind: str
    strength: float | None = None
    who: str = ""  # the name under which it is known

    @property
    def typed(self) -> str:
        """The reference as a person types it."""
        return f"{self.role}={self.value}" + (
            f"*{self.strength:g}" if self.strength is not None else ""
        )

    def record(self) -> dict[str, object]:
        """The reference as records hold it."""
        return {k: v for k, v in self._asdict().items() if v not in ("", None)}


class Consent(NamedTuple):
    """What a real person has agreed to: picture, voice; on which models (none named: on any); until
    when (a date, ISO 8601); the file that says so.
    """

    to: tuple[str, ...] = ()
    on: tuple[str, ...] = ()
    until: str = ""
    file: str = ""


class KnownReference(NamedTuple):
    """Someone or something that is known by words, picture, address and handles (by model; "" for
    any). `short` is how they are called once they were described, `wears` the part of the words
    that is clothes, `say` how the name is said; a `real` person has consent, or has not.
    """

    name: str
    words: str
    role: str = "character"
    picture: str = ""
    address: str = ""
    handles: Mapping[str, str] = {}
    short: str = ""
    wears: str = ""
    say: str = ""
    real: bool = False
    consent: Consent | None = None

    def by(self, kind: str, model: str) -> str:
        """What represents it in one kind, on a model; "" if nothing does."""
        return {
            "path": self.picture,
            "address": self.address,
            "handle": self.handles.get(model, self.handles.get("", "")),
        }[kind]

    def refused(self, wanted: Sequence[str], model: str, today: str) -> str:
        """Why someone real may not be shown or heard (`wanted`: picture, voice) on a model on a day
        (ISO 8601); "" if they agreed, or are made up.
        """
        consent = self.consent
        if not self.real:
            return ""
        if not consent or not consent.file:
            return (
                f"{self.name} is a real person, and known.toml names no document with their consent"
            )
        if missing := [what for what in wanted if what not in consent.to]:
            return f"{self.name} has not agreed to {' and '.join(missing)} ({consent.file})"
        if consent.on and model and model not in consent.on:
            return (
                f"{self.name} has agreed to {', '.join(consent.on)}, but not to {model}"
                f" ({consent.file})"
            )
        if consent.until and consent.until < today:
            return f"the consent of {self.name} ended on {consent.until} ({consent.file})"
        return ""


def read_known(text: str, source: str) -> dict[str, KnownReference]:
    """Read known.toml: a table for everyone, with words, and picture, address, handle (one, or one
    for each model); short, wears, say, person and consent, where a film needs them. Raises Refused.
    """
    file = TomlFile(text, source)
    known: dict[str, KnownReference] = {}
    for name, value in file.values().items():
        if not isinstance(value, dict) or not isinstance(value.get("words"), str):
            file.wrong(name, f"{name} has no words", f'write [{name}] with words = "…" below it')
            continue
        handle = value.pop("handle", "")
        handles = handle if isinstance(handle, dict) else {"": str(handle)} if handle else {}
        consent = _consent(file, name, value.pop("consent", None))
        kind = value.pop("person", "invented")
        if kind not in PERSONS:
            file.wrong(
                "person",
                f"“{kind}” is not a value of person for {name}",
                'write person = "invented" or person = "real"',
                name,
            )
        one = file.good(
            value,
            dict.fromkeys(("words", "role", "picture", "address", "short", "wears", "say"), str),
            name,
            name,
        )
        if one.get("wears") and one["wears"] not in one.get("words", ""):
            file.wrong(
                "wears",
                f"“{one['wears']}” is not part of the words of {name}",
                "write the clothes exactly as they are in words",
                name,
            )
        known[name] = KnownReference(
            name, handles=handles, real=kind == "real", consent=consent, **one
        )
    if file.mistakes:
        raise Refused(file.mistakes)
    return known


PERSONS = ("invented", "real")


def _consent(file: TomlFile, name: str, given: object) -> Consent | None:
    """What a table of consent says: { for = ["picture", "voice"], on = ["whimbrel-motion"], until =
    2027-03-01, file = "…" }.
    """
    if not isinstance(given, dict):
        if given is not None:
            file.wrong(
                "consent",
                f"the consent of {name} is a table",
                'write consent = { for = ["picture"], until = 2027-03-01, file = "…" }',
                name,
            )
        return None
    table = {**given, "until": str(given.get("until", ""))}
    one = file.good(
        table, {"for": list, "on": list, "until": str, "file": str}, f"the consent of {name}", name
    )
    if wrong := [word for word in one.get("for", ()) if word not in ("picture", "voice")]:
        file.wrong(
            "consent",
            f"nobody can consent to “{wrong[0]}”",
            'write for = ["picture", "voice"]',
            name,
        )
    if one.get("until") and not re.fullmatch(r"\d{4}-\d\d-\d\d", one["until"]):
        file.wrong("consent", f"“{one['until']}” is not a date", "write until = 2027-03-01", name)
    return Consent(
        tuple(one.get("for", ())),
        tuple(map(str, one.get("on", ()))),
        one.get("until", ""),
        one.get("file", ""),
    )


def reference_of(word: str) -> Reference | None:
    """Read role=value, with *0.6 after it for its strength; None if it says too little."""
    role, equals, value = word.partition("=")
    strength = _STRENGTH.search(value)
    value = value[: strength.start()] if strength else value
    if not role or not equals or not value:
        return None
    return Reference(role.strip(), value, kind_of(value), float(strength[1]) if strength else None)


def kind_of(value: str) -> str:
    """path, address or handle, by its look."""
    return (
        "handle"
        if value.startswith("@")
        else "address"
        if re.match(r"^[a-z][a-z0-9+.-]*://", value)
        else "path"
    )


def reference_for(known: KnownReference, profile: Profile) -> Reference | None:
    """The reference with which a model takes someone known, in the kind that it prefers; None if it
    takes words only.
    """
    rule = profile.reference.get(known.role)
    for kind in rule.kinds if rule else ():
        if value := known.by(kind, profile.name):
            return Reference(known.role, value, kind, None, known.name)
    return None


def taken(profile: Profile, wished: Iterable[Reference]) -> tuple[list[Reference], list[Finding]]:
    """Those of the references that a model takes, strengths settled, and the findings on the
    others.
    """
    kept: list[Reference] = []
    found: list[Finding] = []
    counts: dict[str, int] = {}
    for one in dict.fromkeys(wished):
        rule = profile.reference.get(one.role)
        if rule is None:
            roles = list(profile.reference)
            remedy = perhaps(
                one.role,
                roles,
                f"it takes {', '.join(roles)}" if roles else "describe in words what it shows",
            )
            found.append(
                Finding(
                    WARNING,
                    f"{profile.name or 'no model'} takes no reference for {one.role}: {one.value}"
                    " is left out",
                    remedy,
                    one.role,
                    code="no-reference",
                )
            )
        elif one.kind not in rule.kinds:
            message = (
                f"{profile.name} takes {' or '.join(rule.kinds)} for {one.role}, but {one.value} is"
                f" a {one.kind}"
            )
            found.append(
                Finding(
                    ERROR, message, f"give one as {rule.kinds[0]}", one.role, code="reference-kind"
                )
            )
        elif counts.get(one.role, 0) == rule.most:
            message = (
                f"{profile.name} takes {rule.most} for {one.role}: {one.value} is one too many"
            )
            found.append(
                Finding(ERROR, message, "leave one out", one.role, code="references-too-many")
            )
        elif rule.at == "place" and not one.who:
            message = f"on {profile.name} a {one.role} replaces words"
            found.append(
                Finding(
                    WARNING,
                    message,
                    f"give it in a slot: subject={one.value}",
                    one.role,
                    code="handle-in-place",
                )
            )
        else:
            counts[one.role] = counts.get(one.role, 0) + 1
            kept.append(_strong(one, rule, profile, found))
    return kept, found


def _strong(
    one: Reference, rule: ReferenceRole, profile: Profile, found: list[Finding]
) -> Reference:
    if rule.strength is None:
        if one.strength is not None:
            found.append(
                Finding(
                    REMARK,
                    f"{profile.name} has no strength for {one.role}",
                    f"leave *{one.strength:g} off",
                    one.role,
                    code="no-strength",
                )
            )
        return one._replace(strength=None)
    strength = rule.strength.default if one.strength is None else one.strength
    if strength is None:
        return one
    low, high = rule.strength.range
    if not low <= strength <= high:
        near = min(max(strength, low), high)
        message = (
            f"the strength {strength:g} of {one.role} is outside {low:g} to {high:g}: using"
            f" {near:g} instead"
        )
        found.append(
            Finding(WARNING, message, f"write *{near:g}", one.role, code="reference-strength")
        )
        strength = near
    return one._replace(strength=strength)


def written_reference(one: Reference, profile: Profile) -> str:
    """A reference as it is in the text."""
    rule = profile.reference[one.role]
    strength = ""
    if rule.strength and rule.strength.write and one.strength is not None:
        strength = written(rule.strength.write, {"strength": f"{one.strength:g}"})
    return written(rule.write, {"value": one.value, "strength": strength, "role": one.role})


def standing(references: Sequence[Reference], profile: Profile, at: str) -> str:
    """The references that stand at one place of the text (front, after), one after the other."""
    return " ".join(
        written_reference(r, profile) for r in references if profile.reference[r.role].at == at
    )
