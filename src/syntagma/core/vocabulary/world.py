"""What a picture takes for granted: dimensions (world.toml), what a term says of them, and whether
all that is in a picture agrees.

A picture agrees when on every dimension all that is in it leaves a value in common. Pairs are not
enough: dusk or night, night or dawn, dawn or dusk leave none.
"""

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from typing import NamedTuple

from syntagma.core.diagnostics import Refused, WrongValue, perhaps
from syntagma.core.notation.toml import TomlFile

SCOPES = ("picture", "participant", "shot")
LEAD, OTHER, CLAIM = (
    "lead",
    "other",
    "claim",
)  # the one that the picture is of; others that are in it; what is said of them


class BadWorld(WrongValue):
    """A world that can't be read. The message says what is wrong, `remedy` what to write
    instead.
    """


class Dimension(NamedTuple):
    """One thing that a picture takes for granted: its values, each with the words that tell it;
    `within` the wider value of one; `tags` those that a value gives, blanks between them.
    """

    name: str
    about: str
    values: Mapping[str, str]
    within: Mapping[str, str] = {}
    scope: str = "picture"
    several: bool = False
    tags: Mapping[str, str] = {}

    def tags_of(self, mask: int) -> frozenset[str]:
        """The tags that all values of a mask give."""
        given = [
            set(self.tags.get(value, "").split())
            for i, value in enumerate(self.values)
            if mask >> i & 1
        ]
        return frozenset(set.intersection(*given)) if given else frozenset()

    @property
    def every(self) -> int:
        """All its values, as bits."""
        return (1 << len(self.values)) - 1

    def mask(self, names: Iterable[str]) -> int:
        """The values `names` as bits, those that are cases of one of them too. Raises KeyError for
        a name that is not a value.
        """
        bits, order = 0, list(self.values)
        for name in names:
            if name not in self.values:
                raise KeyError(name)
            cases = [value for value in order if value == name or self.within.get(value) == name]
            bits |= sum(1 << order.index(value) for value in cases)
        return bits

    def told(self, mask: int) -> str:
        """The values of a mask in words; a narrower value is not listed beside its broader one."""
        held = [value for i, value in enumerate(self.values) if mask >> i & 1]
        told = [self.values[value] for value in held if self.within.get(value) not in held]
        if len(told) * 2 > len(self.values) + 1:
            left = [words for i, words in enumerate(self.values.values()) if not mask >> i & 1]
            return f"anything but {_or(left)}"
        return _or(told)


class World(NamedTuple):
    """What one thing takes for granted: (dimension, the values that it goes with as bits); and the
    dimensions that it says outright.
    """

    masks: tuple[tuple[int, int], ...] = ()
    says: frozenset[int] = frozenset()


NOTHING = World()


class Seat(NamedTuple):
    """Where a thing is in a prompt: its slot, its facet, the shot that it belongs to (None for
    all), whether it is the one that the picture is of (LEAD), another (OTHER), or says something of
    it (CLAIM); `world` is what the words round the slot take for granted.
    """

    slot: str
    facet: str
    part: int | None = None
    role: str = CLAIM
    world: str = ""


class Thing(NamedTuple):
    """What is in a picture: where, by what name, and what it takes for granted."""

    seat: Seat
    name: str
    world: World


class Disagreement(NamedTuple):
    """The least number of things that leave nothing in common on one dimension; the slot of the
    last, and why, in words.
    """

    things: tuple[Thing, ...]
    why: str

    @property
    def slot(self) -> str:
        return self.things[-1].seat.slot


class Dimensions:
    """The dimensions there are, in their order. Worlds are read with them, and only once each."""

    def __init__(
        self, dimensions: Iterable[Dimension] = (), deeds: Callable[[], Mapping[str, str]] = dict
    ):
        self.all, self._read_deeds = tuple(dimensions), deeds
        self._worlds: dict[str, World] = {"": NOTHING}

    def world(self, text: str) -> World:
        """Read "hour: night dusk; sky: not rain; hour!: dawn". Raises BadWorld."""
        if text not in self._worlds:
            self._worlds[text] = self._read(text)
        return self._worlds[text]

    @cached_property
    def deeds(self) -> Mapping[str, str]:
        """What first words take for granted, read when it is first asked for."""
        return self._read_deeds()

    def of_deed(self, text: str) -> World:
        """What a deed takes for granted, by its first word ("walking home"); nothing if no table
        names it.
        """
        return self.world(self.deeds.get(text.split(" ", 1)[0], self.deeds.get("", "")))

    def only(self, world: World, names: Sequence[str]) -> World:
        """What a world says on some dimensions."""
        return World(tuple((i, mask) for i, mask in world.masks if self.all[i].name in names))

    def at_odds(self, one: World, other: World, name: str) -> bool:
        """Do two worlds leave nothing in common on a dimension?"""
        first, second = (dict(self.only(world, (name,)).masks) for world in (one, other))
        return any(not mask & second.get(i, -1) for i, mask in first.items())

    def without(self, text: str, names: Collection[str]) -> str:
        """The text of a world without what it says on some dimensions."""
        return "; ".join(
            part.strip()
            for part in text.split(";")
            if part.partition(":")[0].strip(" !") not in names
        )

    def tags(self, world: World) -> frozenset[str]:
        """The tags that a world gives: night, the sea, winter."""
        return frozenset[str]().union(*(self.all[i].tags_of(mask) for i, mask in world.masks))

    def _read(self, text: str) -> World:
        masks: dict[int, int] = {}
        says = set()
        names = [dimension.name for dimension in self.all]
        for part in filter(None, map(str.strip, text.split(";"))):
            name, colon, rest = (word.strip() for word in part.partition(":"))
            outright, name = name.endswith("!"), name.removesuffix("!").strip()
            if not colon or name not in names:
                raise BadWorld(
                    f"“{name or part}” is not a dimension",
                    perhaps(name, names, f"they are {', '.join(names)}"),
                )
            i = names.index(name)
            words, dimension = rest.split(), self.all[i]
            without, words = words[:1] == ["not"], [word for word in words if word != "not"]
            try:
                mask = dimension.mask(words)
            except KeyError as wrong:
                value = wrong.args[0]
                raise BadWorld(
                    f"{name} can't be “{value}”",
                    perhaps(value, dimension.values, f"it is one of {', '.join(dimension.values)}"),
                ) from None
            mask = dimension.every & ~mask if without else mask
            if not mask:
                raise BadWorld(
                    f"“{part}” leaves {name} no value",
                    f"write {name}: and at least one of {', '.join(dimension.values)}",
                )
            masks[i] = masks.get(i, dimension.every) & mask
            if outright:
                says.add(i)
        return World(tuple(masks.items()), frozenset(says))

    def disagreements(self, things: Sequence[Thing]) -> list[Disagreement]:
        """The smallest sets of things that disagree, one at most for each dimension and those whom
        it is asked of.
        """
        found = []
        for dimension, members in self.groups(things):
            if bad := _smallest(members):
                told = [f"“{thing.name}” assumes {dimension.told(mask)}" for thing, mask in bad]
                found.append(Disagreement(tuple(thing for thing, _ in bad), "; ".join(told)))
        return list(
            {disagreement.things: disagreement for disagreement in reversed(found)}.values()
        )[::-1]

    def groups(
        self, things: Sequence[Thing]
    ) -> Iterator[tuple[Dimension, list[tuple[Thing, int]]]]:
        """What has to agree: a dimension, and the things that speak of it, with their values."""
        for i, dimension in enumerate(self.all):
            speaking = [
                (thing, mask) for thing in things for at, mask in thing.world.masks if at == i
            ]
            for whose in self.contexts(i, [thing for thing, _ in speaking]):
                yield dimension, [(thing, mask) for thing, mask in speaking if whose(thing.seat)]

    def contexts(self, i: int, things: Sequence[Thing]) -> list[Callable[[Seat], bool]]:
        """Whose a dimension is among things: for each of those that it is asked of, whether what
        sits in a seat speaks of it.
        """
        dimension = self.all[i]
        seats = list(
            dict.fromkeys(
                thing.seat for thing in things if any(at == i for at, _ in thing.world.masks)
            )
        )
        if dimension.several or not seats:
            return []
        if dimension.scope == "picture":
            return [lambda seat: True]
        if dimension.scope == "shot":
            parts: list[int | None] = [
                *sorted({seat.part for seat in seats if seat.part is not None})
            ]
            return [lambda seat, part=part: seat.part in (None, part) for part in parts or [None]]
        claims = [seat for seat in seats if seat.role == CLAIM]
        moments = (
            [seat for seat in claims if any(not _beside(seat, other) for other in claims)]
            or claims[:1]
            or [Seat("", "")]
        )
        return [
            lambda seat, deed=deed: (
                seat.role == LEAD or (seat.role == CLAIM and _beside(seat, deed))
            )
            for deed in moments
        ]


class State:
    """What is in a picture so far, on every dimension: asked of each thing that may be added."""

    def __init__(self, dimensions: Dimensions):
        self.dimensions = dimensions
        self._picture = [d.every for d in dimensions.all]
        self._shots: dict[int | None, list[int]] = {}
        self._lead = [d.every for d in dimensions.all]
        self._claims: list[tuple[Seat, dict[int, int]]] = []
        self._spoken: set[int] = set()  # dimensions of which anything speaks
        self.said: set[int] = set()

    def copy(self) -> "State":
        """The same state, to go on from by itself."""
        other = State(self.dimensions)
        other._picture, other._lead, other._claims = (
            self._picture[:],
            self._lead[:],
            self._claims[:],
        )
        other._shots, other._spoken, other.said = (
            {part: masks[:] for part, masks in self._shots.items()},
            set(self._spoken),
            set(self.said),
        )
        return other

    def allows(self, seat: Seat, world: World) -> bool:
        """Does a thing leave something in common with everything there?"""
        for i, mask in world.masks:
            if i not in self._spoken:
                continue
            dimension = self.dimensions.all[i]
            if dimension.several:
                continue
            if dimension.scope == "picture":
                if not self._picture[i] & mask:
                    return False
            elif dimension.scope == "shot":
                seen = [
                    self._shots[part]
                    for part in self._shots
                    if part is None or seat.part in (None, part)
                ]
                if any(not masks[i] & mask for masks in seen):
                    return False
            elif seat.role == LEAD:
                if not self._lead[i] & mask or any(
                    not mask & self._common(i, claimed) for claimed, _ in self._claims
                ):
                    return False
            elif seat.role == CLAIM and not mask & self._common(i, seat):
                return False
        return True

    def _common(self, i: int, moment: Seat) -> int:
        """What the one that the picture is of, and all that is said of one moment of it, leave on a
        dimension.
        """
        common = self._lead[i]
        for seat, claims in self._claims:
            if _beside(seat, moment):
                common &= claims.get(i, -1)
        return common

    def add(self, seat: Seat, world: World) -> None:
        """Let a thing stand."""
        claims: dict[int, int] = {}
        for i, mask in world.masks:
            self._spoken.add(i)
            scope = self.dimensions.all[i].scope
            if scope == "picture":
                self._picture[i] &= mask
            elif scope == "shot":
                self._shots.setdefault(seat.part, [d.every for d in self.dimensions.all])[i] &= mask
            elif seat.role == LEAD:
                self._lead[i] &= mask
            else:
                claims[i] = mask
        if claims and seat.role == CLAIM:
            self._claims.append((seat, claims))
        self.said |= world.says


def _beside(one: Seat, other: Seat) -> bool:
    """Do two claims speak of one moment? Two deeds in slots of their own are two moments."""
    return one.facet != other.facet or one.slot == other.slot


def _smallest(members: Sequence[tuple[Thing, int]]) -> list[tuple[Thing, int]]:
    """As few members as possible that have nothing in common; none if all agree."""
    common = -1
    for _, mask in members:
        common &= mask
    if common:
        return []
    kept = list(members)
    for member in reversed(members):  # report the first, if possible
        left = -1
        for other in kept:
            left &= -1 if other is member else other[1]
        if not left:
            kept.remove(member)
    return kept


def _or(words: Sequence[str]) -> str:
    return (
        words[0]
        if len(words) == 1
        else f"{', '.join(words[:-1])} or {words[-1]}"
        if words
        else "nothing"
    )


KEYS = {"about": str, "values": dict, "within": dict, "scope": str, "several": bool, "tags": dict}


def read_deeds(text: str, source: str) -> dict[str, str]:
    """Read deeds.toml: worlds, each with the first words of deeds that take it for granted; "" for
    all others. Raises Refused.
    """
    values = TomlFile(text, source).values()
    return {verb: world for world, verbs in values.items() for verb in str(verbs).split() or [""]}


def read_dimensions(
    text: str, source: str, deeds: Callable[[], Mapping[str, str]] = dict
) -> Dimensions:
    """Read world.toml: a table for each dimension. Raises Refused with all its mistakes."""
    file = TomlFile(text, source)
    found = []
    for name, table in file.values().items():
        if not isinstance(table, dict):
            file.wrong(
                name, f"“{name}” is a table", f"write [{name}] on its own line, with its keys below"
            )
            continue
        good = file.good(table, KEYS, "a dimension", name)
        values = {str(value): str(words) for value, words in good.get("values", {}).items()}
        if not values:
            file.wrong(
                name,
                f"the dimension “{name}” has no values",
                f"write [{name}.values], and a value with its words on each line below",
            )
        if good.get("scope", SCOPES[0]) not in SCOPES:
            file.wrong(
                "scope",
                f"“{good['scope']}” is not a scope",
                f"write one of {', '.join(SCOPES)}",
                name,
            )
        named = [
            *((one, "within") for pair in good.get("within", {}).items() for one in pair),
            *((one, "tags") for one in good.get("tags", {})),
        ]
        for one, key in named:
            if one not in values:
                file.wrong(
                    str(one),
                    f"“{one}” is not a value of {name}",
                    perhaps(str(one), values, f"they are {', '.join(values)}"),
                    f"{name}.{key}",
                )
        found.append(
            Dimension(
                name,
                good.get("about", ""),
                values,
                good.get("within", {}),
                good.get("scope", SCOPES[0]),
                good.get("several", False),
                good.get("tags", {}),
            )
        )
    if file.mistakes:
        raise Refused(file.mistakes)
    return Dimensions(found, deeds)
