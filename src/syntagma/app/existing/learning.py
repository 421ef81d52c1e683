"""A formula of the person's own out of examples, with its vocabulary and its mount: learned, tried on the examples, and kept."""

import re
from collections.abc import Sequence
from itertools import groupby
from typing import NamedTuple

from syntagma.app.existing.reading import manageable, reader_of
from syntagma.app.workspace.own_files import checked_name, place_for
from syntagma.app.workspace.own_terms import add_rows
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.drafting.fills import BadFills
from syntagma.core.english import countability, split_determiner, split_place, starts_with_preposition
from syntagma.core.fitting.limits import TooLong
from syntagma.core.formula import Formula, read_formula
from syntagma.core.models import PLAIN, Profile
from syntagma.core.models.profile import TextHabits
from syntagma.core.notation.toml_writer import pair, table
from syntagma.core.reading.formulas.learning import LEAST, Learned, learn, learn_one
from syntagma.core.reading.formulas.matching import Match, Matcher
from syntagma.core.reading.formulas.recasting import lowered, own_formula
from syntagma.core.reading.formulas.slot_forms import formed
from syntagma.core.reading.outer_form import LABELLED, NESTED, PROSE, TAGS
from syntagma.core.reading.prompt_pieces import GLUE, PART, PromptPiece, Reading
from syntagma.core.reading.reader import Reader
from syntagma.core.vocabulary.terms import FORMULAS
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.files import write_new
from syntagma.storage.trouble import Trouble

MOST_WORDS = 800  # words and signs of an example
AS_TAGS = Profile(text=TextHabits(register="tags"))


class FormulaTried(NamedTuple):
    """What was learned, tried: what the formula makes of each example, and how many it gives back exactly."""

    learned: Learned
    formula: Formula
    matches: list[Match | None]
    again: list[str]

    @property
    def exact(self) -> int:
        """How many examples the formula gives back exactly, a stop at the end apart."""
        return sum(_same(body, text) for body, text in zip(self.learned.bodies, self.again, strict=True))

    def missed(self) -> list[tuple[str, str]]:
        """The examples that it does not give back, and what it makes of them."""
        return [(body, text) for body, text in zip(self.learned.bodies, self.again, strict=True) if not _same(body, text)]


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
    """Learn a formula from examples and try it on them. Raises Trouble where they are too few, or the name is none."""
    checked_name(name)
    if len(texts) < LEAST:
        number = f"{len(texts)} example{'' if len(texts) == 1 else 's'}"
        raise Trouble(
            f"{number} can't tell what is fixed and what varies", f"give {LEAST} or more, one a line or in one file each", 2
        )
    for number, text in enumerate(texts, 1):
        if (words := len(re.findall(r"\w+|[^\w\s]", text))) > MOST_WORDS:
            raise Trouble(f"example {number} has {words:,} words and signs, and learning takes up to {MOST_WORDS:,}", "cut it, or leave it out")
    reader = reader or reader_of(workspace)
    readings = [reader.read(text) for text in texts]
    found = learn([_as_prose(workspace, reading, reader) for reading in readings], fixed, opened, readings)
    profile = AS_TAGS if all(reading.form == TAGS for reading in readings) else PLAIN
    tried = _tried(workspace, found, name, profile)
    fills = [match.fills if match else None for match in tried.matches]
    again = _tried(workspace, found._replace(columns=formed(found.columns, found.bodies, fills, workspace.vocabulary)), name, profile)
    return again if again.exact >= tried.exact else tried


def learned_from_one(workspace: Workspace, text: str, name: str, reader: Reader | None = None) -> FormulaTried:
    """A formula out of one prompt, tried on it. Raises Trouble where nothing in it is known, or the name is none."""
    checked_name(name)
    reader = reader or reader_of(workspace)
    reading = reader.read(manageable(text, "to be learned from"))
    if not reading.parts():
        raise Trouble("there is nothing in it that could become a slot", "give a prompt of several words", 3)
    found = learn_one(_as_prose(workspace, reading, reader), reading)
    formula = read_formula(found.formula, name)
    writer = Writer(formula, AS_TAGS if reading.form == TAGS else PLAIN, workspace.vocabulary)
    return FormulaTried(found, formula, [], [writer.write(writer.fills(found.said)).text])


def _tried(workspace: Workspace, found: Learned, name: str, profile: Profile) -> FormulaTried:
    """What the learned formula makes of its own examples, in their register."""
    formula = read_formula(found.formula, name)
    writer = Writer(formula, profile, workspace.vocabulary)
    matcher = Matcher(writer)
    matches = [matcher.match(body) for body in found.bodies]
    again = []
    for match in matches:
        try:
            again.append(writer.write(writer.fills(match.fills)).text if match else "")
        except (BadFills, TooLong):
            again.append("")
    return FormulaTried(found, formula, matches, again)


def _as_prose(workspace: Workspace, reading: Reading, reader: Reader) -> Reading:
    """Labelled lines and nested values as the sentence that a formula writes of them, in the same parts."""
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
    """Keep a learned formula, the terms that no vocabulary has, and what stands beside it as a mount; return the files. Raises Trouble
    where a file of that name is there."""
    files = {place_for(workspace, "formulas", name, ".formula", own): tried.learned.formula}
    if tried.learned.negative or tried.learned.parameters:
        files[place_for(workspace, "mounts", name, ".formula", own)] = _mount(tried.learned, name)
    for path, text in files.items():
        write_new(path, text)
    made = list(files)
    for facet, terms in _new_terms(workspace, tried).items():
        rows = [
            {"term": term, "number": "" if (number := countability(term)) == "one" else number, "place": place, FORMULAS: name}
            for term, place in terms.items()
        ]
        made.append(add_rows(workspace, facet, rows, own))
    return [workspace.shown(path) for path in made]


def _new_terms(workspace: Workspace, tried: FormulaTried) -> dict[str, dict[str, str]]:
    """What the examples have in slots with a facet and no vocabulary has: facet → term → how it stands as a place."""
    found: dict[str, dict[str, str]] = {}
    for slot, facet in tried.learned.facets.items():
        for text in tried.learned.read_as(slot) if facet in workspace.vocabulary else ():
            said = lowered(text)
            lead, group = split_place(said) if starts_with_preposition(said) else ("", said)
            determiner, bare = split_determiner(group)
            term = bare if determiner.lower() in ("a", "an", "the") else group
            if not workspace.vocabulary[facet].get(term) and not workspace.vocabulary[facet].get(said) and len(term.split()) <= 12:
                found.setdefault(facet, {})[term] = said if lead else ""
    return found


def _mount(found: Learned, name: str) -> str:
    head = [pair("about", f"What stands beside the examples of {name}"), *table("parameters", found.parameters)]
    negative = f"-  {', '.join(found.negative)}\n" if found.negative else ""
    return "+++\n" + "\n".join(head) + "\n+++\ncontent\n" + negative
