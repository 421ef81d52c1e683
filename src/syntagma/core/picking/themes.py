"""Themes: a leaning of picks towards terms with certain tags, read from TOML.
docs/reference/themes.md is the definition.
"""

from collections.abc import Iterable, Mapping, Sequence, Set
from types import MappingProxyType
from typing import Any, NamedTuple, cast

from syntagma.core.diagnostics import REMARK, Finding, Refused, perhaps, way
from syntagma.core.notation.toml import TomlFile
from syntagma.core.vocabulary.terms import Term, Vocabulary, normal, split_list
from syntagma.core.vocabulary.world import BadWorld

KEYS = {"about": str, "when": str, "world": str, "lean": dict, "avoid": dict, "facets": dict}
FACET_KEYS = {
    "prefer": list,
    "exclude": list,
    "only": str,
    "never": str,
    "fill": str,
    "leave": bool,
}
PREFERRED = 2.0  # what a preferred term weighs: as much as a tag leaned on with 2
MOST = 9  # the greatest weight of a tag


class FacetLean(NamedTuple):
    """What a theme says about the slots of one facet. `fill` is in them; `leave` leaves
    them open.
    """

    prefer: tuple[str, ...] = ()
    exclude: tuple[str, ...] = ()
    only: tuple[str, ...] = ()
    never: tuple[str, ...] = ()
    fill: str = ""
    leave: bool = False


class Theme(NamedTuple):
    """A theme: weights of tags leaned on and avoided, and what it says facet by facet."""

    name: str
    about: str = ""
    when: str = ""
    world: str = ""
    lean: Mapping[str, float] = MappingProxyType({})
    avoid: Mapping[str, float] = MappingProxyType({})
    facets: Mapping[str, FacetLean] = MappingProxyType({})


_NOTHING = FacetLean()


class Leaning:
    """Several themes at once: their weights add up."""

    def __init__(self, themes: Sequence[Theme] = ()):
        self.themes = tuple(themes)
        self._weights: dict[str, float] = {}
        for theme in themes:
            for tag, weight in theme.lean.items():
                self._weights[tag] = self._weights.get(tag, 0.0) + weight
            for tag, weight in theme.avoid.items():
                self._weights[tag] = self._weights.get(tag, 0.0) - weight

    @property
    def most(self) -> float:
        """How much the themes lean to what they lean to most."""
        return max(self._weights.values(), default=0.0)

    def of(self, term: Term) -> float:
        """How much the themes lean towards a term; below nothing where they lean away."""
        return self.preferred(term) + self.of_tags(term.tags)

    def preferred(self, term: Term) -> float:
        """How much they lean towards a term by its name."""
        said = [theme.facets.get(term.facet, _NOTHING) for theme in self.themes]
        return sum(PREFERRED for facet in said if normal(term.term) in map(normal, facet.prefer))

    def of_tags(self, tags: Iterable[str]) -> float:
        """How much the themes lean towards tags."""
        return sum(self._weights.get(tag, 0.0) for tag in tags)

    def allows(self, term: Term) -> bool:
        """May a pick take the term?"""
        tags = set(term.tags)
        for theme in self.themes:
            facet = theme.facets.get(term.facet, _NOTHING)
            if any(map(term.is_called, facet.exclude)) or not tags.isdisjoint(facet.never):
                return False
            if (
                facet.only
                and tags.isdisjoint(facet.only)
                and normal(term.term) not in map(normal, facet.prefer)
            ):
                return False
        return True

    def leaves(self, facet: str) -> bool:
        """Do the slots of a facet stay open?"""
        return any(theme.facets.get(facet, _NOTHING).leave for theme in self.themes)

    def fill(self, facet: str) -> str:
        """What the themes put into the open slots of a facet, or ""; the last theme decides."""
        return next(
            (f for theme in reversed(self.themes) if (f := theme.facets.get(facet, _NOTHING).fill)),
            "",
        )


def read_theme(text: str, name: str, source: str = "") -> Theme:
    """Read a theme file. Raises Refused with all its mistakes."""
    file = TomlFile(text, source or f"{name}.toml")
    values = file.good(file.values(), KEYS, "a theme")
    for key in ("lean", "avoid"):
        for tag, weight in values.get(key, {}).items():
            if type(weight) not in (int, float) or not 0 < weight <= MOST:
                file.wrong(
                    tag,
                    f"“{weight}” is not a valid weight",
                    f"write a number up to {MOST}: {tag} = 3",
                    key,
                )
    facets = {}
    for facet, table in values.pop("facets", {}).items():
        if isinstance(table, dict):
            said = file.good(table, FACET_KEYS, "a theme's facet", f"facets.{facet}")
            facets[facet] = FacetLean(**{k: cast(Any, _value(k, v)) for k, v in said.items()})
        else:
            file.wrong(
                facet,
                f"what a theme says of “{facet}” is a table",
                f"write [facets.{facet}] on its own line, with its keys below",
            )
    if file.mistakes:
        raise Refused(file.mistakes)
    return Theme(name, **values, facets=facets)


def _value(key: str, value: object) -> object:
    if isinstance(value, list):
        return tuple(map(str, value))
    return split_list(value) if key in ("only", "never") else value


def check_theme(
    theme: Theme, vocabulary: Vocabulary, tags: Set[str] = frozenset()
) -> list[Finding]:
    """Remarks on tags and terms that nobody has. Reads the whole vocabulary; `tags` are those of
    situations.
    """
    tags = frozenset(tags).union(tag for facet in vocabulary for term in facet for tag in term.tags)
    found = []
    try:
        vocabulary.dimensions.world(theme.world)
    except BadWorld as bad:
        found.append(
            Finding(
                REMARK,
                f"its world can't be read: {bad}",
                bad.remedy,
                theme.name,
                code="no-such-world",
            )
        )
    named = [
        *theme.lean,
        *theme.avoid,
        *(t for f in theme.facets.values() for t in (*f.only, *f.never)),
    ]
    for tag in dict.fromkeys(named):
        if tag not in tags:
            remedy = perhaps(tag, tags, way("tags"))
            found.append(
                Finding(
                    REMARK,
                    f"no term and no situation is tagged “{tag}”",
                    remedy,
                    theme.name,
                    code="no-such-tag",
                )
            )
    for facet, said in theme.facets.items():
        if facet not in vocabulary:
            remedy = perhaps(facet, vocabulary.names, way("facets"))
            found.append(
                Finding(
                    REMARK,
                    f"no facet is called “{facet}”",
                    remedy,
                    theme.name,
                    code="no-such-facet",
                )
            )
            continue
        for name in (*said.prefer, *said.exclude):
            if vocabulary[facet].get(name) is None:
                remedy = perhaps(
                    name, [t.term for t in vocabulary[facet]], way("terms", facet=facet)
                )
                found.append(
                    Finding(
                        REMARK,
                        f"{facet} has no term “{name}”",
                        remedy,
                        theme.name,
                        code="no-such-term",
                    )
                )
    return found
