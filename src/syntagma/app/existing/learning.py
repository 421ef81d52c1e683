"""A formula of the person's own out of examples, with its vocabulary and its look: learned, tried
on the examples, and kept.
"""

import re
from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import NamedTuple

from syntagma.app.reading import manageable, reader_of
from syntagma.app.workspace.own_files import checked_name, place_for
from syntagma.app.workspace.own_terms import add_facets, add_rows
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.drafting.fills import BadFills
from syntagma.core.english import (
    countability,
    split_determiner,
    split_place,
    starts_with_preposition,
)
from syntagma.core.fitting import TooLong
from syntagma.core.formula import Formula, read_formula
from syntagma.core.models import PLAIN, Profile
from syntagma.core.models.profile import TextHabits
from syntagma.core.notation.toml import pair, table
from syntagma.core.reading.formula_learning import LEAST, Learned, learn, learn_one
from syntagma.core.reading.formula_matching import FormulaMatch, Matcher
from syntagma.core.reading.formula_rewriting import lowered, own_formula
from syntagma.core.reading.learned_formula import SlotCandidate, formed
from syntagma.core.reading.lexicon import key_of
from syntagma.core.reading.outer_form import LABELLED, NESTED, PROSE, TAGS
from syntagma.core.reading.prompt_pieces import GLUE, PART, PromptPiece, Reading
from syntagma.core.reading.reader import Reader
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.facets import PLAIN as PLAIN_FACET
from syntagma.core.vocabulary.facets import Traits
from syntagma.core.vocabulary.terms import FORMULAS, Vocabulary, normal, term_of_row
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.files import write_new

MOST_WORDS = 800  # words and signs of an example
LEAST_CHOICES = 3  # so many different ones make a facet of a formula's own
LONGEST_TERM, LONGEST_NAME = 12, 40  # words
OF_SOMEBODY = facets.FacetGroup(
    "of-somebody"
)  # somebody whom the vocabulary knows brings these along
AS_TAGS = Profile(text=TextHabits(register="tags"))


class FormulaTried(NamedTuple):
    """What was learned, tried: what the formula makes of each example, and how many it gives back
    exactly. `rows`: by facet, what the examples have that no vocabulary has.
    """

    learned: Learned
    formula: Formula
    matches: list[FormulaMatch | None]
    again: list[str]
    rows: Mapping[str, list[dict[str, str]]]

    @property
    def exact(self) -> int:
        """How many examples the formula gives back exactly, a stop at the end apart."""
        return sum(
            _same(body, text) for body, text in zip(self.learned.bodies, self.again, strict=True)
        )

    def missed(self) -> list[tuple[str, str]]:
        """The examples that it does not give back, and what it makes of them."""
        return [
            (body, text)
            for body, text in zip(self.learned.bodies, self.again, strict=True)
            if not _same(body, text)
        ]


def _same(one: str, other: str) -> bool:
    return " ".join(one.split()).rstrip(". ") == " ".join(other.split()).rstrip(". ")


def learned(
    workspace: Workspace,
    texts: Sequence[str],
    name: str,
    fixed: Sequence[str] = (),
    opened: Sequence[str] = (),
    reader: Reader | None = None,
) -> FormulaTried:
    """Learn a formula from examples and try it on them. Raises Trouble if they are too few, or the
    name is none.
    """
    checked_name(name)
    if len(texts) < LEAST:
        few = f"{len(texts)} example{'' if len(texts) == 1 else 's'}"
        raise Trouble(
            f"{few} are too few to tell what is fixed and what varies",
            f"give at least {LEAST}, one per line or one per file",
            2,
        )
    for number, text in enumerate(texts, 1):
        if (words := len(re.findall(r"\w+|[^\w\s]", text))) > MOST_WORDS:
            raise Trouble(
                f"example {number} has {words:,} words and signs; learning takes up to"
                f" {MOST_WORDS:,}",
                "cut it, or leave it out",
                1,
            )
    reader = reader or reader_of(workspace)
    readings = [reader.read(text) for text in texts]
    found = learn(
        [_as_prose(workspace, reading, reader) for reading in readings], fixed, opened, readings
    )
    profile = AS_TAGS if all(reading.form == TAGS for reading in readings) else PLAIN
    tried = _tried(workspace, found, name, profile)
    fills = [match.fills if match else None for match in tried.matches]
    again = _tried(
        workspace,
        found._replace(columns=formed(found.columns, found.bodies, fills, workspace.vocabulary)),
        name,
        profile,
    )
    best = again if again.exact >= tried.exact else tried
    columns = _apart(workspace, best.learned, name, reader)
    return (
        best
        if columns == best.learned.columns
        else _tried(workspace, best.learned._replace(columns=columns), name, profile)
    )


def _apart(workspace: Workspace, found: Learned, name: str, reader: Reader) -> list[SlotCandidate]:
    """The columns; one of which the choices are in no vocabulary has them in a facet of the
    formula's own, so what is picked stays of their kind: flowers in vessels are no subjects in
    settings.
    """
    slots = {id(column): slot for slot, column in found.slots()}

    def foreign(column: SlotCandidate) -> bool:
        said = column.said
        if (
            column.facet == "speech"
            or len(said) < LEAST_CHOICES
            or sum(len(text.split()) > LONGEST_TERM for text in said) * 2 > len(said)
        ):
            return False
        terms = (
            workspace.vocabulary[column.facet].terms if column.facet in workspace.vocabulary else ()
        )
        written = [
            set(key_of(f"{term.term} {way}", LONGEST_NAME))
            for term in terms
            for way in (term.phrase, term.place, term.clause)
        ]
        known = sum(
            reader.known_as(text, column.facet) is not None
            or any(len(words) > 1 and words <= one for one in written)
            for text in said
            if terms and (words := set(key_of(text, LONGEST_NAME)))
        )
        return known * 2 < len(said)

    apart = {id(column) for column in found.columns if id(column) in slots and foreign(column)}
    known_who = any(
        workspace.vocabulary.participant(column.facet) and id(column) not in apart
        for column in found.columns
        if column.facet
    )
    return [
        (
            column._replace(apart=f"{name}-{slots[id(column)]}")
            if id(column) in apart and not (known_who and column.facet in OF_SOMEBODY)
            else column
        )
        for column in found.columns
    ]


def learned_from_one(
    workspace: Workspace, text: str, name: str, reader: Reader | None = None
) -> FormulaTried:
    """A formula out of one prompt, tried on it. Raises Trouble if nothing in it is known, or the
    name is none.
    """
    checked_name(name)
    reader = reader or reader_of(workspace)
    reading = reader.read(manageable(text, "to be learned from"))
    if not reading.parts():
        raise Trouble("nothing in it could become a slot", "give a prompt of several words", 1)
    found = learn_one(_as_prose(workspace, reading, reader), reading)
    formula = read_formula(found.formula, name)
    writer = Writer(formula, AS_TAGS if reading.form == TAGS else PLAIN, workspace.vocabulary)
    return FormulaTried(
        found,
        formula,
        [],
        [writer.write(writer.fills(found.said)).text],
        _new_rows(workspace, found),
    )


def _tried(workspace: Workspace, found: Learned, name: str, profile: Profile) -> FormulaTried:
    """What the learned formula makes of its own examples, in their register."""
    formula = read_formula(found.formula, name)
    rows = _new_rows(workspace, found)
    writer = Writer(formula, profile, _with_own(workspace, rows))
    matcher = Matcher(writer)
    read = {body: matcher.match(body) for body in dict.fromkeys(found.bodies)}
    matches = [read[body] for body in found.bodies]
    again = []
    for match in matches:
        try:
            again.append(writer.write(writer.fills(match.fills)).text if match else "")
        except (BadFills, TooLong):
            again.append("")
    return FormulaTried(found, formula, matches, again, rows)


def _as_prose(workspace: Workspace, reading: Reading, reader: Reader) -> Reading:
    """Labelled lines and nested values as the sentence that a formula writes of them, in the same
    parts.
    """
    if reading.form not in (LABELLED, NESTED) or not reading.parts():
        return reading
    formula, fills = own_formula(reading, preposition=reader.knowledge.preposition)
    writer = Writer(formula, PLAIN, workspace.vocabulary)
    slots = {rule.name: piece for rule, piece in zip(formula.slots, reading.parts(), strict=True)}
    pieces, at = [], 0
    for slot, group in groupby(writer.pieces(writer.fills(fills)), key=lambda piece: piece.slot):
        said = "".join(piece.text for piece in group)
        own = slots.get(slot)
        kind, stop = (PART, at + len(said)) if own else (GLUE, at + len(said))
        facet = (own.facet, own.sure, own.why, own.term) if own else ()
        pieces.append(PromptPiece(at, stop, kind, said, *facet))
        at = stop
    return Reading("".join(piece.text for piece in pieces), PROSE, tuple(pieces))


def save(workspace: Workspace, tried: FormulaTried, name: str, own: bool = False) -> list[str]:
    """Keep a learned formula, the terms that no vocabulary has, and what goes with it as a look;
    return the files. Raises Trouble where a file of that name is there.
    """
    files = {place_for(workspace, "formulas", name, ".formula", own): tried.learned.formula}
    if tried.learned.negative or tried.learned.parameters:
        files[place_for(workspace, "looks", name, ".formula", own)] = _look(tried.learned, name)
    for path, text in files.items():
        write_new(path, text)
    made = list(files)
    apart = {column.apart: column.facet for _, column in tried.learned.slots() if column.apart}
    for facet, rows in tried.rows.items():
        made.append(
            add_rows(
                workspace,
                facet,
                [row if facet in apart else row | {FORMULAS: name} for row in rows],
                own,
            )
        )
    alike = {
        facet: traits
        for facet, base in apart.items()
        if (traits := _told(workspace.vocabulary.traits.get(base, PLAIN_FACET)))
    }
    if alike:
        made.append(add_facets(workspace, alike, own))
    return [workspace.shown(path) for path in made]


def _with_own(workspace: Workspace, new: Mapping[str, list[dict[str, str]]]) -> Vocabulary:
    """The vocabulary as it will be when the formula is kept."""
    shipped = workspace.vocabulary
    own = {
        facet: [
            *(shipped[facet] if facet in shipped else ()),
            *(term_of_row(facet, row) for row in rows),
        ]
        for facet, rows in new.items()
    }
    return Vocabulary(
        (*shipped.names, *own),
        lambda name: own[name] if name in own else shipped[name],
        lambda: shipped.traits,
        lambda: shipped.dimensions,
    )


def _new_rows(workspace: Workspace, learned_: Learned) -> dict[str, list[dict[str, str]]]:
    """What the examples have in slots with a facet and no vocabulary has: by facet its rows, each
    with its form as a place.
    """
    found: dict[str, dict[str, str]] = {}
    for slot, column in learned_.slots():
        facet = column.apart or column.facet
        terms = workspace.vocabulary[facet].terms if facet in workspace.vocabulary else ()
        known = {
            _bare(way)
            for term in terms
            for way in (term.term, term.phrase, term.place, term.clause, *term.aka)
            if way
        }
        inside = {
            text for i, text in enumerate(column.texts) if text and not learned_.begins(column, i)
        }  # what has a capital there is a name
        for text in learned_.read_as(slot) if column.apart or facet in workspace.vocabulary else ():
            said = " ".join((text if text in inside else lowered(text)).split())
            if not said.isprintable():
                continue  # it can be no row of a vocabulary
            lead, group = split_place(said) if starts_with_preposition(said) else ("", said)
            determiner, bare = split_determiner(group)
            taken = (
                ("a", "an") if column.apart and not lead else ("a", "an", "the")
            )  # "the wheel humming" is that wheel
            term = bare if determiner.lower() in taken else group
            if not {_bare(term), _bare(said)} & known and len(term.split()) <= LONGEST_TERM:
                found.setdefault(facet, {})[term] = said if lead else ""
    return {
        facet: [
            {
                "term": term,
                "number": "" if (number := countability(term)) == "one" else number,
                "place": place,
            }
            for term, place in terms.items()
        ]
        for facet, terms in found.items()
    }


def _bare(words: str) -> str:
    """Words as they are compared: small, without an article."""
    return normal(split_determiner(words)[1])


def _told(traits: Traits) -> dict[str, object]:
    """What facets.toml has to say of a facet whose terms are as those of another."""
    said = {"participant": traits.participant, "noun": traits.noun, "holds": list(traits.holds)}
    return {key: value for key, value in said.items() if value}


def _look(found: Learned, name: str) -> str:
    head = [
        pair("about", f"Parameters and negative text of the examples of {name}"),
        *table("parameters", found.parameters),
    ]
    negative = f"-  {', '.join(found.negative)}\n" if found.negative else ""
    return "+++\n" + "\n".join(head) + "\n+++\ncontent\n" + negative
