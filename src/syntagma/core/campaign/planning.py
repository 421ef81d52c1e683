"""What serves a business: kinds of piece (data/campaign.toml) met with its offers, audiences, seasons, people and places; each piece with a reason that is made
of what its owner said and nothing else."""

import hashlib
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.core import english
from syntagma.core.campaign.business import Business, Placement
from syntagma.core.notation.toml_in import read_toml

SUBJECTS = ("business", "offer", "season", "audience", "person", "work", "topic", "step")
_FIELD = re.compile(r"\{(\w+)\.([\w-]+)(?:\|([^|}]*)\|([^|}]*))?\}")  # a field, and the verb that it takes as many and as one
FURTHER_PLACE, FURTHER_ONE = 14, 7  # how much less urgent a piece is that is shown somewhere already, or is one more of its kind
MOST = 6  # pieces of one kind at one place


class PieceKind(NamedTuple):
    """A kind of piece. `formula` by the kind of offer ("default" for all others); `fills` (several: the first of which all is known)
    and `why` hold fields of the business."""

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
    """One piece: what kind, for what (by subject), where shown, the formula and fills, why, how urgent, how many pictures. `id` stays while that stays."""

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
    """Read campaign.toml: kinds by name. Raises ValueError, KeyError for one that says too little."""
    found = {}
    for name, said in read_toml(text).get("kind", {}).items():
        formula = said["formula"]
        for at, subject in enumerate(said["per"]):
            if subject not in SUBJECTS or (subject == "step" and "offer" not in said["per"][:at]):
                raise ValueError(f"“{name}” is per “{subject}”: write {', '.join(SUBJECTS)}, with step after offer")
        found[name] = PieceKind(
            name, str(said.get("about", "")), tuple(said["per"]), tuple(said.get("needs", ())), tuple(said["at"]), {"default": formula} if isinstance(formula, str) else dict(formula),
            {slot: (words,) if isinstance(words, str) else tuple(words) for slot, words in said.get("fills", {}).items()}, int(said.get("priority", 50)), int(said.get("count", 2)), tuple(said.get("why", ())), tuple(said.get("vary", ())), int(said.get("most", MOST)),
        )  # fmt: skip
    return found


class PlannedPieces(NamedTuple):
    """The pieces, first things first; and the kinds that were not planned, each with what is missing."""

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
            missing[kind.name] = f"the file does not describe {' or '.join(sorted(lacks)) or ' or '.join(kind.per)}"
        for i, place in enumerate(places):
            some = [_piece(kind, subjects, place) for subjects in found[: kind.most]]
            pieces += [piece._replace(priority=max(1, piece.priority - FURTHER_PLACE * i - FURTHER_ONE * j)) for j, piece in enumerate(some)]
    return PlannedPieces(sorted(pieces, key=lambda piece: -piece.priority), missing)


def _subjects(business: Business, per: Sequence[str]) -> Iterator[dict[str, Any]]:
    """Everything that a kind is made for, one after the other: each offer, each offer in each of its seasons."""
    found: list[dict[str, Any]] = [{"business": business}]
    for subject in per:
        if subject == "business":
            continue
        wider = []
        for known in found:
            offer = known.get("offer")
            if subject == "step":
                wider += [{**known, "step": _Numbered(step, i, len(offer.steps))} for i, step in enumerate(offer.steps, 1)]
                continue
            for one in getattr(business, subject):
                meant = getattr(offer, subject, None) if offer is not None and subject in ("season", "audience") else None
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
    """A field of the business as text; "" if it is not said. {offer.thing} is what is sold as a thing."""
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
        return "; ".join(map(str, value)) if value and isinstance(value[0], str) else "yes" if value else ""
    said = "" if value is None else str(value)
    return said[:1].upper() + said[1:] if name[:1].isupper() else said


def _filled(text: str, subjects: Mapping[str, Any]) -> str:
    """A text with its fields filled in; "" if one of them is not said."""
    values = {match[0]: _value(f"{match[1]}.{match[2]}", subjects) for match in _FIELD.finditer(text)}
    if not all(values.values()):
        return ""

    def said(match: re.Match[str]) -> str:
        words = _as_prose(values[match[0]])
        plain = _value(f"{match[1]}.{match[2].lower()}", subjects)
        verb = match[3] if english.countability(english.split_determiner(plain)[1]) == "many" else match[4]
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
    fills = {slot: said for slot, texts in kind.fills.items() if (said := next(filter(None, (_fill(text, known) for text in texts)), ""))}
    why = " ".join(said for text in kind.why if (said := _filled(text, known)))
    named = {subject: getattr(one, "name", "") or getattr(one, "role", "") or getattr(one, "who", "") for subject, one in subjects.items()}
    name = "\0".join((kind.name, *(f"{subject}={word}" for subject, word in named.items()), place.name))
    return Piece(hashlib.sha256(name.encode()).hexdigest()[:10], kind.name, named, place.name, formula, fills, why, _urgent(kind, subjects), kind.pictures, kind.vary)


def _fill(text: str, subjects: Mapping[str, Any]) -> str:
    values = {match[0]: _value(f"{match[1]}.{match[2]}", subjects) for match in _FIELD.finditer(text)}
    return _FIELD.sub(lambda m: values[m[0]], text) if all(values.values()) else ""


def _urgent(kind: PieceKind, subjects: Mapping[str, Any]) -> int:
    """How urgent a piece is: what is new comes earlier, and in the order of the file."""
    offer, business = subjects.get("offer"), subjects["business"]
    if offer is None:
        return kind.priority
    return kind.priority + (3 if offer.new else 0) - 2 * business.offer.index(offer)
