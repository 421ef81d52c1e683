"""A campaign: a business as its owner describes it, and the pieces planned for it."""

import hashlib
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.core import english
from syntagma.core.diagnostics import Mistake, Refused, mistake_at, perhaps
from syntagma.core.notation.structure import Structure
from syntagma.core.notation.toml import TomlFile, place_in_toml, read_toml
from syntagma.core.notation.validation import MISSING, UNKNOWN, Fault, converted

# ──── A business as its owner describes it (NAME.campaign.toml): offers, audiences, seasons,
# people, places; read and checked.


OFFER_KINDS = ("journey", "thing", "food", "place", "room", "event", "course", "service")
PLACE_KINDS = (
    "poster",
    "feed",
    "web",
    "cover",
    "background",
    "shop",
    "clip",
    "screen",
    "newsletter",
    "leaflet",
    "window",
    "packaging",
    "giveaway",
    "print",
)


class _Part(Structure, keys="kebab"):
    """A table of the file."""


class HowToStep(_Part):
    """One step of how something is done: the question that people ask, and what is seen of the
    answer.
    """

    question: str
    who: str = ""
    doing: str = ""
    where: str = ""


class Offer(_Part):
    """Something that is offered: what is seen of it, what that does, where; whether it is new, and
    why people choose it.
    """

    name: str
    what: str
    kind: str = "thing"
    doing: str = ""
    where: str = ""
    claim: str = ""
    new: bool = False
    since: str = ""
    because: str = ""
    instead: str = ""
    instead_seen: str = ""
    detail: str = ""
    season: list[str] = []
    audience: list[str] = []
    steps: list[HowToStep] = []


class Audience(_Part):
    """Who is to come: what they want, one of them as they are seen, doing what; with children, a
    deed for a story.
    """

    name: str
    wants: str = ""
    who: str = ""
    doing: str = ""
    where: str = ""
    children: bool = False
    story: str = ""


class Season(_Part):
    """A season of the business: when it is, its weather, hour and light as vocabulary or
    own words.
    """

    name: str
    when: str = ""
    weather: str = ""
    hour: str = ""
    light: str = ""


class Person(_Part):
    """Somebody whom customers meet: what is seen of them, and what they say."""

    role: str
    words: str = ""
    wears: str = ""
    meets: str = ""
    says: str = ""
    where: str = ""


class Work(_Part):
    """Work that nobody sees, and why it matters."""

    who: str
    doing: str = ""
    where: str = ""
    why: str = ""


class Topic(_Part):
    """Something that the business has to say, and the thing that could stand for it."""

    name: str
    seen: str = ""


class Placement(_Part):
    """Where pictures are shown: its kind, shape, size (in pixels, or on paper), seconds of a clip,
    and who sees it when.
    """

    name: str
    kind: str
    ratio: str = ""
    size: str = ""
    seconds: int | None = None
    seen: str = ""


class BrandLook(_Part):
    """The look of everything: looks, themes, and fills for slots of a facet."""

    looks: list[str] = []
    themes: list[str] = []
    fills: dict[str, str] = {}


class Models(_Part):
    """The generators: for stills, for clips."""

    still: str = ""
    clip: str = ""


class Business(_Part):
    """A business."""

    name: str
    does: str = ""
    site: str = ""
    sign: str = ""
    mascot: str = ""
    things: str = ""
    changes: str = ""
    stirs: str = ""
    avoid: list[str] = []
    budget: float | None = None
    look: BrandLook = BrandLook()
    models: Models = Models()
    offer: list[Offer] = []
    audience: list[Audience] = []
    season: list[Season] = []
    person: list[Person] = []
    work: list[Work] = []
    topic: list[Topic] = []
    place: list[Placement] = []


def read_business(text: str, source: str) -> Business:
    """Read a business file. Raises Refused with all its mistakes."""
    file = TomlFile(text, source)
    business, faults = converted(file.values(), Business)
    mistakes = [_mistake(file, source, fault) for fault in faults]
    if business is None:
        raise Refused(
            mistakes
            or [
                Mistake(
                    "it has no business in it", 'write name = "…", and [[offer]], [[place]]', source
                )
            ]
        )
    mistakes += _wrong(business, file, source)
    if mistakes:
        raise Refused(mistakes)
    return business


def _mistake(file: TomlFile, source: str, fault: Fault) -> Mistake:
    key = next((step for step in reversed(fault.path) if isinstance(step, str)), "")
    table = next((step for step in fault.path if isinstance(step, str)), "")
    if fault.code == UNKNOWN:
        what = "a business" if key == table else f"“{table}”"
        message, remedy = (
            f"{what} has no key “{key}”",
            perhaps(key, fault.options, f"the keys are {', '.join(fault.options)}"),
        )
    elif fault.code == MISSING:
        message, remedy = (
            f"{fault.where or 'the file'} lacks “{fault.expected}”",
            f"write {fault.expected} = … there",
        )
    else:
        message, remedy = (
            f"{fault.where or 'the file'} takes {fault.expected}",
            f"correct the value of {key or 'its keys'}",
        )
    return mistake_at(
        source, file.text, place_in_toml(file.text, fault.path or (key,)), message, remedy
    )


def _wrong(business: Business, file: TomlFile, source: str) -> list[Mistake]:
    """Kinds that there are not, names that nobody has, the same name twice."""
    found = []

    def wrong(path: tuple[str | int, ...], message: str, remedy: str) -> None:
        found.append(mistake_at(source, file.text, place_in_toml(file.text, path), message, remedy))

    for table, known in (("offer", OFFER_KINDS), ("place", PLACE_KINDS)):
        for i, one in enumerate(getattr(business, table)):
            if one.kind not in known:
                wrong(
                    (table, i, "kind"),
                    f"“{one.kind}” is not a kind of {table}",
                    perhaps(one.kind, known, f"write {', '.join(known)}"),
                )
    for i, offer in enumerate(business.offer):
        for key, have in (("season", business.season), ("audience", business.audience)):
            names = [one.name for one in have]
            for name in getattr(offer, key):
                if name not in names:
                    wrong(
                        ("offer", i, key),
                        f"no {key} is called “{name}”",
                        perhaps(name, names, f"there are {', '.join(names) or 'none'}"),
                    )
    for table in ("offer", "audience", "season", "place"):
        names = [one.name for one in getattr(business, table)]
        for i, name in enumerate(names):
            if name in names[:i]:
                wrong(
                    (table, i, "name"),
                    f"two of [[{table}]] are called “{name}”",
                    "give one another name",
                )
    return found


# ──── What serves a business: kinds of piece (data/campaign.toml) met with its offers, audiences,
# seasons, people and places; each piece with a reason that is made of what its owner said and
# nothing else.


SUBJECTS = ("business", "offer", "season", "audience", "person", "work", "topic", "step")
_FIELD = re.compile(
    r"\{(\w+)\.([\w-]+)(?:\|([^|}]*)\|([^|}]*))?\}"
)  # a field, and the verb that it takes as many and as one
FURTHER_PLACE, FURTHER_ONE = (
    14,
    7,
)  # how much less urgent a piece is that is shown somewhere already, or is one more of its kind
MOST = 6  # pieces of one kind at one place


class PieceKind(NamedTuple):
    """A kind of piece. `formula` by the kind of offer ("default" for all others); `fills` (several:
    the first of which all is known) and `why` hold fields of the business.
    """

    name: str
    about: str
    per: tuple[str, ...]
    needs: tuple[str, ...]
    at: tuple[str, ...]
    formula: Mapping[str, str]
    fills: Mapping[str, tuple[str, ...]]
    priority: int
    pictures: int
    why: tuple[str, ...]
    vary: tuple[str, ...]
    most: int


class Piece(NamedTuple):
    """One piece: what kind, for what (by subject), where shown, the formula and fills, why, how
    urgent, how many pictures. `id` stays while that stays.
    """

    id: str
    kind: str
    subjects: Mapping[str, str]
    place: str
    formula: str
    fills: Mapping[str, str]
    why: str
    priority: int
    pictures: int
    vary: tuple[str, ...]

    @property
    def title(self) -> str:
        """What a person calls it: launch, night crossings."""
        named = [name for subject, name in self.subjects.items() if subject != "business"]
        return ": ".join(filter(None, (self.kind.replace("-", " "), ", ".join(named))))


def read_kinds(text: str) -> dict[str, PieceKind]:
    """Read campaign.toml: kinds by name. Raises ValueError, KeyError for one that says too
    little.
    """
    found = {}
    for name, said in read_toml(text).get("kind", {}).items():
        formula = said["formula"]
        for at, subject in enumerate(said["per"]):
            if subject not in SUBJECTS or (subject == "step" and "offer" not in said["per"][:at]):
                raise ValueError(
                    f"“{name}” is per “{subject}”: write {', '.join(SUBJECTS)}, with step after"
                    " offer"
                )
        found[name] = PieceKind(
            name,
            str(said.get("about", "")),
            tuple(said["per"]),
            tuple(said.get("needs", ())),
            tuple(said["at"]),
            {"default": formula} if isinstance(formula, str) else dict(formula),
            {
                slot: (words,) if isinstance(words, str) else tuple(words)
                for slot, words in said.get("fills", {}).items()
            },
            int(said.get("priority", 50)),
            int(said.get("count", 2)),
            tuple(said.get("why", ())),
            tuple(said.get("vary", ())),
            int(said.get("most", MOST)),
        )
    return found


class PlannedPieces(NamedTuple):
    """The pieces, first things first; and the kinds that were not planned, each with what is
    missing.
    """

    pieces: list[Piece]
    missing: dict[str, str]


def planned(business: Business, kinds: Mapping[str, PieceKind]) -> PlannedPieces:
    """Plan all pieces that serve a business."""
    pieces: list[Piece] = []
    missing: dict[str, str] = {}
    for kind in kinds.values():
        places = [place for place in business.place if place.kind in kind.at]
        if not places:
            missing[kind.name] = f"no place of this kind: {', '.join(kind.at)}"
            continue
        found, lacks = [], set()
        for subjects in _subjects(business, kind.per):
            if lack := [need for need in kind.needs if not _value(need, subjects)]:
                lacks.update(lack)
                continue
            found.append(subjects)
        if not found:
            missing[kind.name] = (
                f"the file does not describe {' or '.join(sorted(lacks)) or ' or '.join(kind.per)}"
            )
        for i, place in enumerate(places):
            some = [_piece(kind, subjects, place) for subjects in found[: kind.most]]
            pieces += [
                piece._replace(
                    priority=max(1, piece.priority - FURTHER_PLACE * i - FURTHER_ONE * j)
                )
                for j, piece in enumerate(some)
            ]
    return PlannedPieces(sorted(pieces, key=lambda piece: -piece.priority), missing)


def _subjects(business: Business, per: Sequence[str]) -> Iterator[dict[str, Any]]:
    """Everything that a kind is made for, one after the other: each offer, each offer in each of
    its seasons.
    """
    found: list[dict[str, Any]] = [{"business": business}]
    for subject in per:
        if subject == "business":
            continue
        wider = []
        for known in found:
            offer = known.get("offer")
            if subject == "step":
                assert offer is not None, "steps are those of an offer"
                wider += [
                    {**known, "step": _Numbered(step, i, len(offer.steps))}
                    for i, step in enumerate(offer.steps, 1)
                ]
                continue
            for one in getattr(business, subject):
                meant = (
                    getattr(offer, subject, None)
                    if offer is not None and subject in ("season", "audience")
                    else None
                )
                if meant is None or one.name in meant or (subject == "audience" and not meant):
                    wider.append({**known, subject: one})
        found = wider
    return iter(found)


class _Numbered:
    """A step, with which one it is."""

    def __init__(self, step: Any, number: int, of: int):
        self.step, self.number, self.of, self.name = step, str(number), str(of), step.question

    def __getattr__(self, name: str) -> Any:
        return getattr(self.step, name)


def _value(path: str, subjects: Mapping[str, Any]) -> str:
    """A field of the business as text; "" if it is not said. {offer.thing} is what is sold as a
    thing.
    """
    subject, _, name = path.partition(".")
    of = subjects.get(subject)
    if of is None:
        return ""
    if subject == "offer" and name == "thing":
        return of.name if of.kind in ("thing", "food") else ""
    value = getattr(of, name.replace("-", "_").lower(), "")
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, list):
        return (
            "; ".join(map(str, value))
            if value and isinstance(value[0], str)
            else "yes"
            if value
            else ""
        )
    said = "" if value is None else str(value)
    return said[:1].upper() + said[1:] if name[:1].isupper() else said


def _filled(text: str, subjects: Mapping[str, Any]) -> str:
    """A text with its fields filled in; "" if one of them is not said."""
    values = {
        match[0]: _value(f"{match[1]}.{match[2]}", subjects) for match in _FIELD.finditer(text)
    }
    if not all(values.values()):
        return ""

    def said(match: re.Match[str]) -> str:
        words = _as_prose(values[match[0]])
        plain = _value(f"{match[1]}.{match[2].lower()}", subjects)
        verb = (
            match[3]
            if english.countability(english.split_determiner(plain)[1]) == "many"
            else match[4]
        )
        return f"{words} {verb}" if verb else words

    return _FIELD.sub(said, text)


def _as_prose(said: str) -> str:
    """A list as a sentence has it: rope; brass → rope and brass."""
    parts = [part.strip() for part in said.split(";") if part.strip()]
    return said if len(parts) < 2 else f"{', '.join(parts[:-1])} and {parts[-1]}"


def _piece(kind: PieceKind, subjects: Mapping[str, Any], place: Placement) -> Piece:
    known = {**subjects, "place": place}
    offer = subjects.get("offer")
    formula = kind.formula.get(offer.kind if offer is not None else "", kind.formula["default"])
    fills = {
        slot: said
        for slot, texts in kind.fills.items()
        if (said := next(filter(None, (_fill(text, known) for text in texts)), ""))
    }
    why = " ".join(said for text in kind.why if (said := _filled(text, known)))
    named = {
        subject: getattr(one, "name", "") or getattr(one, "role", "") or getattr(one, "who", "")
        for subject, one in subjects.items()
    }
    name = "\0".join(
        (kind.name, *(f"{subject}={word}" for subject, word in named.items()), place.name)
    )
    return Piece(
        hashlib.sha256(name.encode()).hexdigest()[:10],
        kind.name,
        named,
        place.name,
        formula,
        fills,
        why,
        _urgent(kind, subjects),
        kind.pictures,
        kind.vary,
    )


def _fill(text: str, subjects: Mapping[str, Any]) -> str:
    values = {
        match[0]: _value(f"{match[1]}.{match[2]}", subjects) for match in _FIELD.finditer(text)
    }
    return _FIELD.sub(lambda m: values[m[0]], text) if all(values.values()) else ""


def _urgent(kind: PieceKind, subjects: Mapping[str, Any]) -> int:
    """How urgent a piece is: what is new comes earlier, and in the order of the file."""
    offer, business = subjects.get("offer"), subjects["business"]
    if offer is None:
        return kind.priority
    return kind.priority + (3 if offer.new else 0) - 2 * business.offer.index(offer)
