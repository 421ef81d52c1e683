"""Situations: somebody with something to do, in a place, under the light that this place has, with
one odd true detail.
"""

from collections.abc import Iterable, Mapping, Sequence, Set
from hashlib import blake2b
from typing import NamedTuple

from syntagma.core.diagnostics import WrongValue
from syntagma.core.english.sentences import first_mention
from syntagma.core.vocabulary.terms import split_list

# ──── Situations: somebody with something to do, in a place, under the light that this place has,
# with one odd true detail. A pick begins with one; it is written, not put together.


DETAIL, FRAMING = (
    "telling-detail",
    "framing",
)  # slots, and columns, of which a situation has several, free of its moments
OF_SITUATIONS = (DETAIL, FRAMING)  # slots that nothing else fills
NOT_FACETS = ("seen", "then", "world", "tags", "leaves", "formulas")  # columns that fill no slot
_SHOWN_BY = {  # what has to be seen → the extents of a shot that show it
    "hands": "hands half figure detail",
    "face": "face half figure",
    "figure": "figure place half",
    "place": "place land figure",
    "detail": "detail hands",
}

_STAYS = (  # what a deed takes for granted that does not say that it carries somebody along
    "body: still seated lying"
)


class Moment(NamedTuple):
    """One moment of a situation, all of which belongs together: words by facet; what comes of it
    (`then`, a deed); what it takes for granted; telling details and framings, of which any will do;
    facets that it leaves open, since it says enough.
    """

    words: Mapping[str, str]
    then: str = ""
    world: str = ""
    details: tuple[str, ...] = ()
    framings: tuple[str, ...] = ()
    leaves: tuple[str, ...] = ()

    @property
    def alone(self) -> str:
        """What comes of it, for a picture that does not show the first deed: "knocking a stuffed
        pike down" for "knocking the pike down".
        """
        return first_mention(self.then, self.words.get("action", ""))

    def says(self, columns: Set[str]) -> bool:
        """Does it fill any of some columns?"""
        if not columns.isdisjoint(self.words):
            return True
        return bool(
            (self.details and DETAIL in columns)
            or (self.framings and FRAMING in columns)
            or (self.then and "action" in columns)
        )


class Situation(NamedTuple):
    """A situation: the facet of the one that it is of, its words, its moments, tags, and formulas
    that it is for.
    """

    facet: str
    lead: str
    moments: tuple[Moment, ...]
    tags: frozenset[str] = frozenset()
    formulas: frozenset[str] = (
        frozenset()
    )  # those that it was written for; any other if there are none
    layer: str = ""

    @property
    def name(self) -> str:
        """What no other situation is called: who, and what they do first."""
        first = self.moments[0].words
        return (
            f"{self.lead}:"
            f" {first.get('action') or first.get('setting') or next(iter(first.values()), '')}"
        )

    def record(self) -> dict[str, object]:
        """The situation as `--json` gives it, blank parts left out."""
        moments = [
            {
                **one.words,
                "then": one.then,
                "world": one.world,
                DETAIL: list(one.details),
                FRAMING: list(one.framings),
            }
            for one in self.moments
        ]
        parts = {
            "of": self.facet,
            "who": self.lead,
            "moments": [{key: said for key, said in one.items() if said} for one in moments],
            "tags": sorted(self.tags),
            "formulas": sorted(self.formulas),
            "layer": self.layer,
        }
        return {key: said for key, said in parts.items() if said}


class BadSituation(WrongValue):
    """A row that makes no situation. The message says what is wrong, `remedy` what to write
    instead.
    """


def situations_of(
    columns: Sequence[str], rows: Iterable[tuple[int, Sequence[str]]], layer: str = ""
) -> tuple[list[Situation], list[tuple[int, BadSituation]]]:
    """The situations of a table: its first column is the facet of the one that they are of, the
    others are facets too, and seen, then, world, tags, leaves, formulas. A row whose first cell is
    blank is another moment of the one above; what it leaves blank is as there. Bad rows come with
    their lines.
    """
    facet, found, wrong = columns[0], [], []
    above: dict[str, str] = {}
    for line, cells in rows:
        row = {
            name: cell.strip()
            for name, cell in zip(columns, cells, strict=False)
            if name and cell.strip()
        }
        if unseen := set(row.get("seen", "").split()) - _SHOWN_BY.keys():
            wrong.append(
                (
                    line,
                    BadSituation(
                        f"“{' '.join(sorted(unseen))}” can't be shown of a person",
                        f"write {', '.join(_SHOWN_BY)}",
                    ),
                )
            )
            continue
        if lead := row.pop(facet, ""):
            above = row
            found.append(
                Situation(
                    facet,
                    lead,
                    (_moment(row),),
                    frozenset(split_list(row.get("tags"))),
                    frozenset(split_list(row.get("formulas"))),
                    layer,
                )
            )
        elif not found:
            wrong.append(
                (
                    line,
                    BadSituation(
                        f"it has no {facet}",
                        "write the lead in the first column; a blank cell adds a moment to the row"
                        " above",
                    ),
                )
            )
        else:
            one, kept = (
                found[-1],
                {
                    name: words
                    for name, words in above.items()
                    if name in ("setting", "world", "wardrobe")
                },
            )
            found[-1] = one._replace(moments=(*one.moments, _moment(kept | row)))
    return found, wrong


def _moment(row: Mapping[str, str]) -> Moment:
    words = {name: text for name, text in row.items() if name not in (*NOT_FACETS, DETAIL, FRAMING)}
    shown = [set(_SHOWN_BY[part].split()) for part in row.get("seen", "").split()]
    seen = (
        f"extent: {' '.join(sorted(set.intersection(*shown)))}"
        if shown and set.intersection(*shown)
        else ""
    )
    world = row.get("world", "")
    body = _STAYS if "action" in words and "body:" not in world else ""
    return Moment(
        words,
        row.get("then", ""),
        "; ".join(filter(None, (world, seen, body))),
        split_list(row.get(DETAIL)),
        split_list(row.get(FRAMING)),
        split_list(row.get("leaves")),
    )


def turn_of(one: Situation, asked: str, early: bool = False) -> int:
    """When a situation has its turn in a call: hashed from what was `asked`, so each formula has
    its own order and nothing comes twice before all have come; one that is to come `early` does in
    the first half.
    """
    return number_of(asked, one.name) >> early


def number_of(*what: object) -> int:
    """A number for anything, always the same and spread evenly."""
    return int.from_bytes(blake2b(" ".join(map(str, what)).encode(), digest_size=6).digest(), "big")


def nth(options: Sequence, turn: int, *what: object):
    """One of several, another with each turn; None of none."""
    return options[(number_of(*what) + turn) % len(options)] if options else None
