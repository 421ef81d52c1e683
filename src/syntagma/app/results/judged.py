"""A family as it was judged: its prompts with their choices, its results, and what everybody said
of them.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.batches.sheets import Sheet, opened
from syntagma.app.prompt_files import prompts_of_file
from syntagma.app.reading import reader_of
from syntagma.app.results.adding import Keeper, library_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.diagnostics import Refused, Trouble, perhaps
from syntagma.core.judging.observed import Factors, FamilyPrompt, JudgedTake, factors_of
from syntagma.core.judging.pairs import PairAnswer
from syntagma.core.judging.phrases import Verdict
from syntagma.core.records import Record
from syntagma.core.sheets import CANCELLED, EXPIRED, FAILED, REFUSED, TakeId
from syntagma.storage.ledger import LEDGER
from syntagma.storage.library import Judgement, Kept, Library, LibraryQuery

# ──── Prompts that no design made: the parts that the reader finds in them are their choices.


SURE = 0.4
NONE, OTHER = "(none)", "(other)"
LEAST = 2  # prompts that a choice needs to be one
SPARE = 5  # prompts that are left beside the numbers to find


def choices_by_parts(workspace: Workspace, texts: Sequence[str]) -> list[dict[str, str]]:
    """For each text its choice on each axis: the first part of a facet (two that are one term are
    one, in the words of the first). A part that no other text has counts as `OTHER`, a text without
    one as `NONE`. Of the facets those are axes that part the texts most evenly, as many as so many
    texts can tell.
    """
    reader, said = reader_of(workspace), list[dict[str, str]]()
    first: dict[tuple[str, str], str] = {}  # how the first text that has a part says it
    for text in texts:
        found: dict[str, str] = {}
        for piece in reader.read(text).parts():
            if piece.sure >= SURE and piece.facet in workspace.vocabulary.names:
                words = english.split_determiner(piece.words)[1].lower()
                found.setdefault(
                    piece.facet,
                    first.setdefault(
                        (piece.facet, piece.term.term if piece.term else words), words
                    ),
                )
        said.append(found)
    axes: list[tuple[int, int, str, dict[str, int]]] = []
    for facet in sorted({facet for one in said for facet in one}):
        counts = Counter(one.get(facet, NONE) for one in said)
        levels = Counter(
            words if number >= LEAST else OTHER
            for words, number in counts.items()
            for _ in range(number)
        )
        if len(levels) > 1 and min(levels.values()) >= LEAST:
            axes.append((-min(levels.values()), len(levels), facet, counts))
    chosen: dict[str, dict[str, int]] = {}
    left = max(1, len(texts) - SPARE)
    for _, levels_, facet, said_so in sorted(axes, key=lambda axis: axis[:3]):
        if levels_ - 1 <= left:
            chosen[facet] = said_so
            left -= levels_ - 1
    return [
        {facet: _level(one.get(facet, NONE), counts) for facet, counts in chosen.items()}
        for one in said
    ]


def _level(words: str, counts: Mapping[str, int]) -> str:
    return words if counts[words] >= LEAST else OTHER


# ──── A family as it was judged: its prompts with their choices, its results, and what everybody
# said of them.


OUTCOMES = ("rating", "approved", "wins", "money")
DRAWS = ("seed",)  # axes whose levels are draws of one prompt
MOST_CHOICES = 0.5  # of the prompts: a slot with more different fills is not an axis
EVERYTHING = "everything"
BLANK = "(blank)"  # a choice that is nothing
OWNER = "(you)"  # who rates results by themselves, with syntagma library rate


class Judged(NamedTuple):
    """A family: its prompts, the kept results with the prompt of each, takes that were refused for
    their content (by prompt), how many never came (failed, lost, expired, cancelled), what was
    said, and the rules that chose its prompts. Where no design made them, the parts that the reader
    finds are the choices.
    """

    name: str
    prompts: tuple[FamilyPrompt, ...]
    kept: tuple[Kept, ...]
    prompt_of: Mapping[int, str]
    refused: Mapping[str, int]
    judgements: tuple[Judgement, ...]
    missing: int = 0
    rules: tuple[str, ...] = ()
    by_parts: bool = False  # no design made them: their parts are their choices

    @property
    def judges(self) -> list[str]:
        """Everybody who judged."""
        return sorted(
            {one.judge for one in self.judgements}
            | {OWNER for one in self.kept if one.rating is not None}
        )


def choices_of(records: Sequence[Record]) -> list[dict[str, str]]:
    """The choice on each axis, for each record of a family: from its design if it has one, else
    from the slots whose fills differ.
    """
    base: dict[str, str] = {}
    own: list[dict[str, str]] = []
    for record in records:
        found = {}
        for axis, (first, here) in record.design.changes.items() if record.design else ():
            base.setdefault(axis, _said(first))
            found[axis] = _said(here)
        own.append(found)
    if not base:
        own, base = _by_fills(records), {}
    models = [str(record.get("model", "") or "") for record in records]
    if len(set(models)) > 1:
        own = [{**one, "model": model} for one, model in zip(own, models, strict=True)]
    names = [
        name
        for name in dict.fromkeys([*base, *(name for one in own for name in one)])
        if name not in DRAWS
    ]
    fills = next((list(record.fills) for record in records if record.fills is not None), [])
    names.sort(key=lambda name: fills.index(name) if name in fills else len(fills))
    return [{name: one.get(name, base.get(name, "")) for name in names} for one in own]


def _by_fills(records: Sequence[Record]) -> list[dict[str, str]]:
    """What differs between fills, where few different ones are shared by many."""
    fills = [record.fills or {} for record in records]
    names = list(dict.fromkeys(name for one in fills for name in one))
    axes = []
    for name in names:
        different = {_said(one.get(name, "")) for one in fills}
        if 1 < len(different) <= max(2, MOST_CHOICES * len(records)):
            axes.append(name)
    return [{name: _said(one.get(name, "")) for name in axes} for one in fills]


def _said(value: object) -> str:
    text = "; ".join(map(str, value)) if isinstance(value, list) else str(value)
    return text or BLANK


def family_of_records(records: Sequence[Record]) -> list[FamilyPrompt]:
    """The prompts of a family, draws of one prompt taken together."""
    found: dict[str, FamilyPrompt] = {}
    for number, choices in enumerate(choices_of(records)):
        name = " · ".join(f"{axis}={choice}" for axis, choice in choices.items()) or str(number)
        found.setdefault(name, FamilyPrompt(name, choices))
    return list(found.values())


def factors_of_file(path: Path) -> tuple[Factors, int]:
    """The axes of a family that is in a file, and how many results each of its prompts is to have.
    Raises Trouble, Refused.
    """
    read = list(prompts_of_file(path, records=True))
    if wrong := [one.mistake for one in read if one.mistake]:
        raise Refused(wrong)
    records = [one.record.changed(text=one.text) for one in read]
    return factors_of(family_of_records(records)), max(
        (draws_of(record) for record in records), default=1
    )


def draws_of(record: Record) -> int:
    """How many results per prompt is to have, as its family asks."""
    return max(1, (record.design.takes if record.design else None) or 1)


def judged(workspace: Workspace, library: Library, name: str) -> Judged:
    """A sheet, or what has a label, with what was said of it. Results of a sheet that are done and
    not kept yet are kept first. Raises Trouble.
    """
    sheet_records: dict[str, Record] = {}
    refused_rows: dict[str, int] = {}
    missing = 0
    known_sheets: list[str] = []
    kept: list[Kept] = []
    if (library.root / LEDGER).is_file():
        with opened(workspace, read_only=True) as ledger:
            known_sheets = list(ledger.sheets())
            if ledger.has(name):
                sheet = Sheet(workspace, ledger, name)
                for row in sheet.rows.values():
                    if sheet.takes.get(row.id) or row.status != "removed":
                        sheet_records[row.id] = row.record.changed(text=row.text, model=row.model)
                    for take in sheet.takes.get(row.id, ()):
                        if take.state == REFUSED:
                            refused_rows[row.id] = refused_rows.get(row.id, 0) + 1
                        missing += take.state in (FAILED, EXPIRED, CANCELLED)
    if sheet_records:
        Keeper(workspace, library).keep_sheet(name)
        kept = _found(library, LibraryQuery(sheet=name))
    else:
        kept = _found(library, LibraryQuery() if name == EVERYTHING else LibraryQuery(label=name))
    if not kept and not sheet_records:
        raise Trouble(
            f"no sheet and no label is called “{name}”",
            perhaps(
                name,
                known_sheets,
                f"name a sheet (syntagma sheet), a label of the library, or {EVERYTHING}",
            ),
            2,
        )
    names: list[str] = []
    prompts: dict[str, FamilyPrompt] = {}
    rows = list(sheet_records) or [str(one.id) for one in kept]
    records = (
        [sheet_records[row] for row in rows] if sheet_records else [one.record for one in kept]
    )
    every = choices_of(records)
    if by_parts := not any(every):
        texts = (
            [str(record.get("text", "")) for record in records]
            if sheet_records
            else [one.text for one in kept]
        )
        every = choices_by_parts(workspace, texts)
    for number, (name_of_row, choices) in enumerate(zip(rows, every, strict=True)):
        prompt = (
            texts[number]
            if by_parts
            else " · ".join(f"{axis}={choice}" for axis, choice in choices.items()) or name_of_row
        )
        names.append(prompt)
        prompts.setdefault(prompt, FamilyPrompt(prompt, choices))
    by_row = dict(zip(rows, names, strict=True))
    prompt_of = {
        one.id: by_row.get(TakeId.read(one.take).row if sheet_records else str(one.id), "")
        for one in kept
    }
    refused: dict[str, int] = {}
    for name_of_row, count in refused_rows.items():
        refused[by_row[name_of_row]] = refused.get(by_row[name_of_row], 0) + count
    known = {one.id for one in kept}
    said = [
        one
        for one in library.judgements()
        if one.kept in known and (not one.other or one.other in known)
    ]
    return Judged(
        name,
        tuple(prompts.values()),
        tuple(one for one in kept if prompt_of[one.id]),
        prompt_of,
        refused,
        tuple(said),
        missing,
        _rules(records),
        by_parts and any(every),
    )


def _rules(records: Sequence[Mapping[str, Any]]) -> tuple[str, ...]:
    """The rules that made a family, as they were written."""
    designs = [record["design"] for record in records if isinstance(record.get("design"), dict)]
    found = [
        rule
        for design in designs
        if isinstance(design.get("rules"), list)
        for rule in design["rules"]
    ]
    return tuple(dict.fromkeys(rule for rule in found if isinstance(rule, str)))


def _found(library: Library, wanted: LibraryQuery) -> list[Kept]:
    return list(reversed(library.find(wanted)))


def ratings_of(family: Judged, kind: str = "rating") -> dict[int, dict[str, float]]:
    """What each judge gave each result; the last word counts. Marks that stand with the results
    themselves are the owner's, a judge like the others.
    """
    found: dict[int, dict[str, float]] = {
        one.id: {OWNER: one.rating}
        for one in family.kept
        if kind == "rating" and one.rating is not None
    }
    for one in family.judgements:
        if one.kind == kind:
            found.setdefault(one.kept, {})[one.judge] = float(one.value)
    return found


def answers_of(
    family: Judged, judges: Sequence[str] | None = None
) -> tuple[list[PairAnswer], list[int]]:
    """The pairs that were laid side by side (of these judges, None: all), by the place of each
    result in the list that comes with them. Where neither was any good, that is a tie.
    """
    ids = [one.id for one in family.kept]
    place = {number: i for i, number in enumerate(ids)}
    won = {"left": 1.0, "right": 0.0, "tie": 0.5, "neither": 0.5}
    said = [
        one
        for one in family.judgements
        if one.kind == "pair"
        and one.kept in place
        and one.other in place
        and (judges is None or one.judge in judges)
    ]
    return [
        PairAnswer(place[one.kept], place[one.other], won[one.value], one.judge) for one in said
    ], ids


def takes_of(family: Judged, outcome: str) -> list[JudgedTake]:
    """The results as the outcome has them: ratings, or approved or not, with money. Those that were
    refused are takes too; those that never came are none.
    """
    values = ratings_of(family, "rating" if outcome == "rating" else "approve")
    takes = [
        JudgedTake(family.prompt_of[one.id], values.get(one.id, {}), cost=one.cost)
        for one in family.kept
    ]
    return [
        *takes,
        *(
            JudgedTake(prompt, refused=True)
            for prompt, count in family.refused.items()
            for _ in range(count)
        ),
    ]


def verdicts_of(family: Judged) -> list[Verdict]:
    """What was said of phrases, with where each is in its prompt."""
    by_id = {one.id: one for one in family.kept}
    ratings = {
        number: sum(own.values()) / len(own) for number, own in ratings_of(family).items() if own
    }
    found = []
    for one in family.judgements:
        if one.kind == "phrase" and (kept := by_id.get(one.kept)):
            at = kept.text.lower().find(one.phrase.lower())
            place = at / max(1, len(kept.text)) if at >= 0 else float("nan")
            found.append(
                Verdict(
                    one.slot,
                    one.phrase,
                    one.value,
                    place,
                    len(one.phrase.split()),
                    ratings.get(one.kept, float("nan")),
                    family.prompt_of.get(one.kept, ""),
                )
            )
    return found


def phrases_of(kept: Kept) -> list[tuple[str, str]]:
    """(Slot, words) of each choice in a prompt, in the order of its text; those that differ from
    its words too.
    """
    found = [(slot, _said(fill)) for slot, fill in (kept.record.fills or {}).items() if fill]
    return sorted(
        found, key=lambda one: kept.text.lower().find(one[1].lower()) % (len(kept.text) + 1)
    )


def asked_of(kept: Kept) -> list[tuple[str, str]]:
    """The phrases of which a judge is asked: those whose words are in the text; what is kept out of
    a picture is not.
    """
    text = kept.text.lower()
    return [
        (slot, words)
        for slot, words in phrases_of(kept)
        if any(word in text for word in words.lower().replace("-", " ").split() if len(word) > 2)
    ]


def with_library(workspace: Workspace) -> AbstractContextManager[Library]:
    """The library, made if there is none yet: what is done may have to be kept first."""
    return library_of(workspace, read_only=False)
