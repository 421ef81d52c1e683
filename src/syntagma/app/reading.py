"""Prompts of anybody's read with all vocabularies that apply; a person's own words, and the scenes
of a story.
"""

import csv
import os
import re
import tomllib
from collections.abc import Iterable, Iterator
from functools import cache, lru_cache

from syntagma.app.prompt_files import Source, prompts_of_file, prompts_of_pipe
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.rights import care
from syntagma.core.diagnostics import Refused, Trouble
from syntagma.core.editing.cleaning import Cleaner
from syntagma.core.editing.frame_words import Frames
from syntagma.core.editing.leading import KindWords, PictureKind, kinds_of
from syntagma.core.editing.placing import Joins, Tables
from syntagma.core.reading.lexicon import Lexicon
from syntagma.core.reading.prompt_pieces import (
    LEFT,
    NEGATIVE,
    PARAMETER,
    PART,
    REFERENCE,
    PromptPiece,
    Reading,
)
from syntagma.core.reading.reader import Reader
from syntagma.core.reading.scenes import StoryScene, scenes
from syntagma.core.reading.weights import PartsModel, Scorer
from syntagma.core.reading.words import Senses, WordKnowledge
from syntagma.core.vocabulary.terms import SHIPPED as LAYER
from syntagma.core.vocabulary.terms import Facet, Term, normal
from syntagma.storage.files import read_text
from syntagma.storage.folders import SHIPPED

# ──── What ships of how people write: what surrounds their wishes, mistyped words, how kinds lead,
# what joins a guest.


LONGEST_WISH = 6_000  # letters of a wish


@cache
def cleaner() -> Cleaner:
    """What cleans wishes, by the tables that ship."""
    with open(SHIPPED / "spelling.csv", encoding="utf-8", newline="") as file:
        spelling = {row["typed"]: row["meant"] for row in csv.DictReader(file)}
    return Cleaner(own_words(), spelling, frames())


@cache
def frames() -> Frames:
    """What finds the words round a wish."""
    return Frames(
        Scorer.from_bytes(FRAMES_FILE.read_bytes()),
        frozenset(FRAME_WORDS.read_text("utf-8").split()),
    )


@cache
def tables() -> Tables:
    """The tables for putting somebody's own text into a formula."""
    return Tables(own_words()["leads"], Joins((SHIPPED / "joins.toml").read_text("utf-8")))


@cache
def own_words() -> dict:
    """The tables of what people write round their wishes."""
    return tomllib.loads((SHIPPED / "own-words.toml").read_text("utf-8"))


# ──── Other people's prompts read: which ones are meant, what reads them, what was read as a
# record, and as scenes.


DATA = SHIPPED / "reader"
KINDS_FILE, FRAMES_FILE, FRAME_WORDS = DATA / "kinds.bin", DATA / "frames.bin", DATA / "frames.txt"
_FILE_NAME = re.compile(r"[\w./~-]*[\w-]{2,}\.[A-Za-z]\w{1,4}")  # crossings.tx is not a prompt
ENDINGS = (".txt", ".csv", ".xlsx", ".json", ".jsonl", ".md", ".prompt")


def sources_of(what: str, column: str = "", piped: Iterable[bytes] = ()) -> Iterator[Source]:
    """The prompts that a person means: a file's, those on a pipe (-), or the words themselves.
    Raises Trouble.
    """
    if what == "-":
        yield from prompts_of_pipe(piped, column)
    elif names_file(what):
        yield from prompts_of_file(what, column)
    elif what.strip():
        yield Source(1, what)
    else:
        raise Trouble(
            "there is nothing to read",
            "write the prompt in quotes, name a file, or - for standard input",
            2,
        )


def names_file(what: str) -> bool:
    """Do the words mean a file? They end as files do, or are one word that is there."""
    if "\n" in what or "\0" in what or len(what) >= 250:
        return False
    return (
        what.lower().endswith(ENDINGS)
        or bool(_FILE_NAME.fullmatch(what))
        or (" " not in what and os.path.lexists(what) and not os.path.isdir(what))
    )


def one_of(what: str, column: str = "", piped: Iterable[bytes] = ()) -> str:
    """The one prompt that a person means; the first of several. Raises Trouble or Refused."""
    first = next(iter(sources_of(what, column, piped)), None)
    if first is None:
        raise Trouble(f"{what} holds no prompt", "name a file with a prompt in it", 2)
    if first.mistake:
        raise Refused([first.mistake])
    return first.text


LONGEST, MOST_PARTS = 20_000, 400  # characters and parts of a prompt that is more than read


def manageable(text: str, what: str, most: int = LONGEST) -> str:
    """The text. Raises Trouble if it is not a prompt by its length, or one that is not written."""
    if refused := care(text):
        raise Trouble(refused.message, refused.remedy, 2)
    if len(text) > most:
        raise Trouble(
            f"the prompt has {len(text):,} characters, too many {what}",
            f"cut it to {most:,}, or just read it: syntagma read",
            1,
        )
    return text


def in_few_parts(reading: Reading, what: str) -> Reading:
    """The reading. Raises Trouble if it has more parts than a prompt has."""
    if len(reading.parts()) > MOST_PARTS:
        raise Trouble(
            f"the prompt has {len(reading.parts())} parts, too many {what}",
            f"cut it to {MOST_PARTS}",
            1,
        )
    return reading


def reader_of(workspace: Workspace, model: str | None = None) -> Reader:
    """A reader that knows all vocabularies that apply; with a model named, its patterns before all
    others.
    """
    return Reader(
        knowledge_of(workspace),
        _model(),
        workspace.readable_models(model),
        workspace.vocabulary.kin,
    )


def knowledge_of(workspace: Workspace) -> WordKnowledge:
    """What the vocabularies that apply and the lexicons that ship say of words. Plain terms of ours
    that are never picked are not in it, but those that have picked ones below them: the weights
    were not learned with them.
    """
    return _knowledge(
        tuple(
            (facet.name, terms) for facet in workspace.vocabulary if (terms := _learned_with(facet))
        )
    )


def _learned_with(facet: Facet) -> tuple[Term, ...]:
    wider = {normal(term.broader) for term in facet if term.broader and term.picked != "no"}
    return tuple(
        term
        for term in facet
        if term.picked != "no" or term.layer != LAYER or normal(term.term) in wider
    )


@lru_cache(maxsize=2)
def _knowledge(vocabulary: tuple[tuple[str, tuple[Term, ...]], ...]) -> WordKnowledge:
    return WordKnowledge(
        Lexicon(dict(vocabulary)), _senses(), (DATA / "trade.txt").read_text("utf-8")
    )


@cache
def _senses() -> Senses:
    return Senses((DATA / "senses.txt").read_bytes())


@cache
def _model() -> PartsModel:
    return PartsModel.from_bytes((DATA / "weights.bin").read_bytes())


@cache
def _kinds() -> Scorer:
    return Scorer.from_bytes(KINDS_FILE.read_bytes())


@cache
def kind_words() -> KindWords:
    """The words that name a kind of picture by themselves."""
    return KindWords((DATA / "kinds.txt").read_text("utf-8"))


def kinds(text: str, reading: Reading) -> list[PictureKind]:
    """The kinds of picture that a text may ask for, the likeliest first. `reading`: of the text, or
    of what is left of it when it is cleaned.
    """
    return kinds_of(text, reading, kind_words(), _kinds())


def record_of(reading: Reading) -> dict[str, object]:
    """A reading as `--json` gives it; the keys are those of docs/reference/reading.md."""
    record: dict[str, object] = {
        "text": reading.text,
        "form": reading.form,
        "kind": kinds(reading.text[: reading.read_to], reading)[0].name,
        "pieces": [_piece_record(p) for p in reading.pieces],
    }
    if parameters := {p.name: p.value for p in reading.of(PARAMETER)}:
        record["parameters"] = parameters
    if references := [p.value for p in reading.of(REFERENCE)]:
        record["references"] = references
    if negatives := [p.text.strip() for p in reading.of(NEGATIVE)]:
        record["negative"] = ", ".join(negatives)
    if quality := [p.text for p in reading.parts() if p.facet == LEFT]:
        record["quality"] = quality
    if reading.read_to < len(reading.text):
        record["read_to"] = reading.read_to
    if reading.broken:
        record["broken"] = reading.broken
    return record


def _piece_record(piece: PromptPiece) -> dict[str, object]:
    said: dict[str, object] = {
        "kind": piece.kind,
        "text": piece.text,
        "start": piece.start,
        "stop": piece.stop,
    }
    if piece.kind == PART:
        said |= {"facet": piece.facet, "sure": piece.sure, "why": piece.why}
    for key, value in (("term", piece.term), ("near", piece.near)):
        if value:
            said[key] = value.term
    if piece.plain:
        said["words"] = piece.plain
    if piece.stress != 1.0:
        said["stress"] = piece.stress
    if piece.name:
        said["name"] = piece.name
    if piece.value:
        said["value"] = piece.value
    return said


# ──── A wish, a story or a page in scenes, each of which can become a prompt.


def scenes_of(workspace: Workspace, what: str, piped: str = "") -> list[StoryScene]:
    """The scenes of a wish: words, a file of them, or what came on a pipe (-). Raises Trouble."""
    if what == "-":
        text = piped
    elif what.lower().endswith((".txt", ".md")) and " " not in what:
        text = read_text(what, "a text")
    else:
        text = what
    if not text.strip():
        raise Trouble(
            "nothing in it could become a prompt",
            'write your wish: --from "a harbour pilot on a wet quay"',
            2,
        )
    if not re.search(r"[.!?]\s+\S|\n", text.strip()):
        return [StoryScene(text, (text,), (text,))]
    return scenes(text, reader_of(workspace))
