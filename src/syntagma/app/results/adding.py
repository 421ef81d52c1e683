"""Keeping results with the prompts that made them: files by hand, and all of a sheet that
is done.
"""

import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.batches.sheets import Sheet, opened
from syntagma.app.prompt_files import prompts_of_file
from syntagma.app.reading import reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Refused, Trouble
from syntagma.core.reading.reader import Reader
from syntagma.core.records import Record
from syntagma.core.sheets import DONE, SheetRow, TakeId
from syntagma.formats.metadata.pictures import BadPicture, bare, said, signed
from syntagma.formats.metadata.xmp import Properties
from syntagma.storage.files import make_folder, read_bytes
from syntagma.storage.ledger import LEDGER, Ledger
from syntagma.storage.library import Kept, Library

PICTURES = (".png", ".jpg", ".jpeg", ".webp", ".gif")
CLIPS = (".mp4", ".webm", ".mov", ".mkv")
SOUNDS = (".mp3", ".ogg", ".wav", ".m4a")
ENDINGS = (*PICTURES, *CLIPS, *SOUNDS)
MOST = 256 << 20  # bytes of a picture that is read whole


class Remarks(NamedTuple):
    """What a person says of what is kept: a rating, labels, a note, where it is from."""

    rating: float | None = None
    labels: tuple[str, ...] = ()
    note: str = ""
    source: str = ""

    @property
    def values(self) -> dict[str, Any]:
        return {"rating": self.rating, "note": self.note, "source": self.source}


NONE = Remarks()


class One(NamedTuple):
    """One file that was kept: its number in the library, whether it is new, the file."""

    number: int
    new: bool
    path: str


@contextmanager
def library_of(workspace: Workspace, read_only: bool = True) -> Iterator[Library]:
    """The workspace's library, while it is used. Raises Trouble if this is not a workspace."""
    if workspace.folder is None:
        raise Trouble(
            "a library belongs to a workspace, and this folder is not one",
            "make one: syntagma start DIR, and work there",
            2,
        )
    with Library(workspace.folder, read_only).whole() as library:
        yield library


class Keeper:
    """Keeps files in a library."""

    def __init__(self, workspace: Workspace, library: Library):
        self.workspace, self.library = workspace, library
        self._facets: dict[str, dict[str, str]] = {}
        self._reader: Reader | None = None

    def keep(self, path: Path, record: Record, remarks: Remarks = NONE, **known: Any) -> One:
        """Keep one file with the record of its prompt. Raises Trouble."""
        if path.suffix.lower() not in ENDINGS:
            raise Trouble(
                f"{path} is not a picture, a clip or a sound", f"keep {', '.join(ENDINGS[:4])} …", 2
            )
        text = str(record.get("text", ""))
        values = {
            "text": text,
            "negative": record.negative,
            "model": record.model,
            "formula": record.formula,
            "record": dict(record),
            **{key: value for key, value in known.items() if value not in (None, "")},
            **{key: value for key, value in remarks.values.items() if value not in (None, "")},
        }
        number, new = self.library.keep(path, values, remarks.labels, list(self.terms_of(record)))
        return One(number, new, str(path))

    def terms_of(self, record: Record) -> Iterator[tuple[str, str]]:
        """(Facet, term) of each fill of a record; of a prompt that has none, what the reader finds
        in its words.
        """
        if record.fills:
            facets = self._facets_of(record.formula)
            for slot, given in record.fills.items():
                facet = facets.get(slot, slot)
                for text in given if isinstance(given, list) else re.split(r"(?<!\\);", given):
                    if text.strip():
                        term = (
                            self.workspace.vocabulary[facet].get(text.strip())
                            if facet and facet in self.workspace.vocabulary
                            else None
                        )
                        yield facet, term.term if term else text.strip()
            return
        text = record.text
        if text.strip() and len(text) < 6000:
            if self._reader is None:
                self._reader = reader_of(self.workspace)
            for piece in self._reader.read(text).pieces:
                if piece.kind == "part" and piece.term:
                    yield piece.term.facet, piece.term.term

    def _facets_of(self, formula: str) -> dict[str, str]:
        if formula not in self._facets:
            try:
                self._facets[formula] = (
                    {
                        rule.name: rule.facet
                        for rule in self.workspace.formula(formula)[0].slots
                        if rule.facet
                    }
                    if formula
                    else {}
                )
            except (
                Trouble,
                Refused,
            ):  # a formula that is not there any more: its slots are called as their facets
                self._facets[formula] = {}
        return self._facets[formula]

    def has_sheet(self, name: str) -> bool:
        """Is there a sheet of this name?"""
        if not (self.workspace.folder and (self.workspace.folder / LEDGER).is_file()):
            return False
        with opened(self.workspace, read_only=True) as ledger:
            return ledger.has(name)

    def keep_sheet(self, name: str, remarks: Remarks = NONE) -> tuple[list[One], list[str]]:
        """Keep all of a sheet that is done; return what was kept, and which results are gone.
        Raises Trouble.
        """
        with opened(self.workspace, read_only=True) as ledger:
            sheet = Sheet(self.workspace, ledger, name)
            done, gone = [], []
            for row in sheet.rows.values():
                for take in sheet.takes.get(row.id, ()):
                    if take.state != DONE:
                        continue
                    for number, file in enumerate(filter(None, take.file.split("; "))):
                        path = (self.workspace.folder or Path()) / file
                        if not path.is_file():
                            gone.append(file)
                            continue
                        known = {
                            "cost": take.charged,
                            "currency": row.currency,
                            "made": _ended(ledger, name, take.id),
                            "use": self.use_of(row.model),
                        }
                        one = self.keep(
                            path,
                            record_of_row(row),
                            remarks,
                            sheet=name,
                            take=f"{take.id}+{number}" if number else take.id,
                            **known,
                        )
                        done.append(one)
        return done, gone

    def use_of(self, model: str) -> str:
        """What a model's terms of use are, as its profile has them."""
        if model not in self.workspace.models():
            return ""
        terms = self.workspace.model(model).terms
        read = f", read {terms.read}" if terms.read else ""
        return f"commercial use: {terms.commercial}; training: {terms.training}{read}"


def record_of_row(row: SheetRow) -> Record:
    """The record of a sheet's row as it was sent."""
    made = {
        **row.record,
        "text": row.text,
        "model": row.model,
        "row": {**row.record.row, "id": row.id},
    }
    if row.record.get("text") not in (None, row.text):
        made["edited"] = True  # by hand, so the fills do not say all of it
    if row.negative:
        made["negative"] = row.negative
    if row.parameters:
        made["parameters"] = dict(row.parameters)
    if row.request:
        made["request"] = dict(row.request)
    return Record(made)


def _ended(ledger: Ledger, sheet: str, take: str) -> str:
    attempts = ledger.attempts(sheet, take)
    return next(
        (
            one["ended"] or one["began"]
            for one in reversed(attempts)
            if one["state"] not in ("unsent",)
        ),
        "",
    )


def prompt_named(workspace: Workspace, what: str) -> Record:
    """The record that a person means: a row of a sheet by its id, a record of the workspace's files
    by its id, a file with one prompt, or the words themselves. Raises Trouble.
    """
    folder = workspace.folder or Path()
    if re.fullmatch(r"r[0-9a-f]{9}(-\d+)?(\.\d+)?", what) and (folder / "ledger.sqlite").is_file():
        with opened(workspace, read_only=True) as ledger:
            for sheet in ledger.sheets():
                if row := ledger.row(sheet, TakeId.read(what).row or what):
                    return record_of_row(row)
        raise Trouble(f"no sheet has the row {what}", "syntagma sheet lists the sheets", 2)
    if re.fullmatch(r"[0-9a-f]{16}", what):
        for path in sorted(folder.glob("*.jsonl")):
            for one in prompts_of_file(path, records=True):
                if not one.mistake and one.record.get("id") == what:
                    return one.record.changed(text=one.text)
        raise Trouble(
            f"no file of prompts here has the id {what}",
            "name the file, or give the prompt in quotes",
            2,
        )
    if "\n" not in what and len(what) < 250 and Path(what).is_file():
        found = list(prompts_of_file(what, records=True))
        if wrong := [one.mistake for one in found if one.mistake]:
            raise Refused(wrong)
        if len(found) != 1:
            raise Trouble(
                f"{what} has {len(found)} prompts", "choose one by its id (--prompt ID)", 2
            )
        return found[0].record.changed(text=found[0].text)
    if not what.strip():
        raise Trouble("the prompt is blank", 'write --prompt "…"', 2)
    return Record({"text": what})


def said_in(path: Path) -> str:
    """The prompt that a picture says it was made by; "" if it says none."""
    if path.suffix.lower() not in PICTURES:
        return ""
    try:
        return said(read_bytes(path, "a picture", MOST)).prompt
    except BadPicture:
        return ""


def copied(
    library: Library,
    kept: Kept,
    folder: Path,
    credit: str = "",
    writer: str = "",
    without: bool = False,
) -> tuple[Path, bool]:
    """Write a copy of a kept picture that says what it was made by (or, `without`, nothing of that)
    into a folder; return its path, and whether a signed provenance is not in it any more. Raises
    Trouble.
    """
    source = library.file_of(kept)
    data = read_bytes(source, "a kept picture", MOST)
    prompt = kept.text + (f"\nNegative: {kept.negative}" if kept.negative else "")
    try:
        was_signed = said(data).signed
        made = (
            bare(signed(data, Properties(credit=credit)) if credit else data)
            if without
            else signed(
                data,
                Properties(
                    kept.note or kept.text, prompt, writer, kept.model, credit=credit or kept.use
                ),
            )
        )
    except BadPicture as wrong:
        raise Trouble(
            f"{kept.id} ({kept.ending or 'no ending'}) can't carry words: {wrong}",
            "PNG, JPEG and WebP can",
            1,
        ) from None
    make_folder(folder)
    target = folder / f"{kept.id}{kept.ending}"
    beside = target.with_name(f"{target.name}.part")
    try:
        beside.write_bytes(made)
        beside.replace(target)
    except OSError as error:
        raise Trouble(
            f"{target} can't be written: {(error.strerror or str(error)).lower()}",
            "choose a folder that you can write to",
        ) from None
    return target, was_signed


def terms_asked(workspace: Workspace, words: Sequence[str]) -> list[tuple[str, str]]:
    """(Facet, term) of FACET=TERM; a slot's name, or none, represents any facet."""
    found = []
    for word in words:
        facet, equals, term = word.partition("=")
        found.append(
            (facet if facet in workspace.vocabulary else "", term) if equals else ("", word)
        )
    return found


def numbers_of(words: Sequence[str]) -> list[int]:
    """Numbers of kept things: 12, 14-17. Raises Trouble."""
    found: list[int] = []
    for word in words:
        match = re.fullmatch(r"(\d{1,9})(?:-(\d{1,9}))?", word)
        if not match or (match[2] and not 0 <= int(match[2]) - int(match[1]) < 10_000):
            raise Trouble(
                f"the library has no number “{word}”",
                "write 12, or 14-17 (syntagma library lists them); for a whole sheet: syntagma"
                f" library --sheet {word}",
                2,
            )
        found += range(int(match[1]), int(match[2] or match[1]) + 1)
    return found
