"""A business as its owner describes it (NAME.campaign.toml): offers, audiences, seasons, people, places; read and checked."""

from typing import Any

from syntagma.core.diagnostics.places import Mistake, Refused, mistake_at
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.notation.structure import Structure
from syntagma.core.notation.toml_file import TomlFile
from syntagma.core.notation.toml_places import place_in_toml
from syntagma.core.notation.validation import UNKNOWN, Fault, converted, wanted

OFFER_KINDS = ("journey", "thing", "food", "place", "room", "event", "course", "service")
PLACE_KINDS = ("poster", "feed", "web", "cover", "background", "shop", "clip", "screen", "newsletter", "leaflet", "window", "packaging", "giveaway", "print")


class _Part(Structure, keys="kebab"):
    """A table of the file."""


class HowToStep(_Part):
    """One step of how something is done: the question that people ask, and what is seen of the answer."""

    question: str
    who: str = ""
    doing: str = ""
    where: str = ""


class Offer(_Part):
    """Something that is offered: what is seen of it, what that does, where; whether it is new, and why people choose it."""

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
    """Who is to come: what they want, one of them as they are seen, doing what; with children, a deed for a story."""

    name: str
    wants: str = ""
    who: str = ""
    doing: str = ""
    where: str = ""
    children: bool = False
    story: str = ""


class Season(_Part):
    """A season of the business: when it is, its weather, hour and light as vocabulary or own words."""

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
    """Where pictures are shown: its kind, shape, size (in pixels, or on paper), seconds of a clip, and who sees it when."""

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
        raise Refused(mistakes or [Mistake("it has no business in it", 'write name = "…", and [[offer]], [[place]]', source)])
    mistakes += _wrong(business, file, source)
    if mistakes:
        raise Refused(mistakes)
    return business


def _mistake(file: TomlFile, source: str, fault: Fault) -> Mistake:
    key = next((step for step in reversed(fault.path) if isinstance(step, str)), "")
    table = next((step for step in fault.path if isinstance(step, str)), "")
    if fault.what == UNKNOWN:
        of: Any = {"offer": Offer, "audience": Audience, "season": Season, "person": Person, "work": Work, "topic": Topic, "place": Placement, "look": BrandLook, "models": Models}.get(table, Business)
        known = [name.replace("_", "-") for name in of.FIELDS]
        what = "a business" if of is Business or key == table else f"“{table}”"
        message, remedy = f"{what} has no key “{key}”", perhaps(key, known, f"the keys are {', '.join(known)}")
    else:
        message, remedy = f"{fault.where or 'the file'} takes {wanted(fault.what)}", f"correct the value of {key or 'its keys'}"
    return mistake_at(source, file.text, place_in_toml(file.text, fault.path or (key,)), message, remedy)


def _wrong(business: Business, file: TomlFile, source: str) -> list[Mistake]:
    """Kinds that there are not, names that nobody has, the same name twice."""
    found = []

    def wrong(path: tuple[str | int, ...], message: str, remedy: str) -> None:
        found.append(mistake_at(source, file.text, place_in_toml(file.text, path), message, remedy))

    for table, known in (("offer", OFFER_KINDS), ("place", PLACE_KINDS)):
        for i, one in enumerate(getattr(business, table)):
            if one.kind not in known:
                wrong((table, i, "kind"), f"“{one.kind}” is not a kind of {table}", perhaps(one.kind, known, f"write {', '.join(known)}"))
    for i, offer in enumerate(business.offer):
        for key, have in (("season", business.season), ("audience", business.audience)):
            names = [one.name for one in have]
            for name in getattr(offer, key):
                if name not in names:
                    wrong(("offer", i, key), f"no {key} is called “{name}”", perhaps(name, names, f"there are {', '.join(names) or 'none'}"))
    for table in ("offer", "audience", "season", "place"):
        names = [one.name for one in getattr(business, table)]
        for i, name in enumerate(names):
            if name in names[:i]:
                wrong((table, i, "name"), f"two of [[{table}]] are called “{name}”", "give one another name")
    return found
