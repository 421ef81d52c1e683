"""Chosen results as one archive for somebody else: named, brought to size, with a contact sheet and a list. Prompts leave the house only when asked."""

import csv
import hashlib
import io
import re
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from syntagma.app.handing_on.delivery import Delivered, Delivery, contact_sheets, delivered
from syntagma.app.results.adding import MOST, Keeper
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.places import Refused
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.formats.archive import apart, safe_name, write_archive
from syntagma.formats.cells import harmless
from syntagma.formats.metadata.pictures import ENDINGS as PICTURES
from syntagma.formats.metadata.xmp import Properties
from syntagma.storage.files import read_bytes, whole_file
from syntagma.storage.library import Kept, Library
from syntagma.storage.trouble import Trouble

NAME = "{number}-{subject}-{ratio}"
_PLACE = re.compile(r"\{([\w-]+)\}")
_KNOWN = ("number", "id", "subject", "ratio", "sheet", "model", "formula", "rating", "label")
_RATIOS = ((1, 1), (4, 5), (5, 4), (3, 4), (4, 3), (2, 3), (3, 2), (9, 16), (16, 9), (21, 9), (9, 21), (1, 2), (2, 1))


class BundleSpec(NamedTuple):
    """How chosen results are handed on. `name`: the pattern of file names; `sizes`: what each is brought to, a folder for each if there are several;
    `use`: the terms as the person knows them, where the program does not; `licence` a text that goes in; `prompts`: they go too."""

    wanted: Sequence[Delivery]
    name: str = NAME
    prompts: bool = False
    licence: str = ""
    use: str = ""
    title: str = ""
    credit: str = ""


class Bundled(NamedTuple):
    """What came of it: how many results and files, how many were enlarged and the most that one was, and the findings on some (file, what)."""

    results: int
    files: int
    enlarged: int
    times: float
    said: list[tuple[str, str]]


def kept_of_sheet(workspace: Workspace, library: Library, name: str) -> tuple[int, list[str]]:
    """Keep what is done of a sheet, so it can be chosen from; return how many were new, and which files are gone. Raises Trouble."""
    found, gone = Keeper(workspace, library).keep_sheet(name)
    return sum(one.new for one in found), gone


def allowed(chosen: Sequence[Kept], use: str) -> None:
    """Raise Trouble if terms of use are unknown or forbid handing results on, unless the person has said what holds."""
    if use:
        return
    said = {kept.id: (re.search(r"commercial use: (\w+)", kept.use) or ["", "unknown"])[1] for kept in chosen}
    for what, why in (("no", "forbid commercial use"), ("unknown", "are not known")):
        if ids := [str(number) for number, one in said.items() if one == what]:
            some = ", ".join(ids[:6]) + (f" and {len(ids) - 6} more" if len(ids) > 6 else "")
            raise Trouble(f"the terms of use of {len(ids)} of {len(chosen)} results {why}: {some}", 'read them, then say what they allow: --use "licence 12 of the service, read on …"', 2)


def write_bundle(library: Library, chosen: Sequence[Kept], target: Path, how: BundleSpec, subjects: Callable[[Kept], str], seen: Callable[[str], None]) -> Bundled:
    """Write the archive; `subjects` says what a result is of, `seen` hears how many are ready. Raises Trouble: nothing half-written stays."""
    if target.suffix.lower() != ".zip":
        raise Trouble(f"can't write a bundle as {target}", "name it .zip", 2)
    allowed(chosen, how.use)
    _check(how.name, chosen)
    said: list[tuple[str, str]] = []
    rows: list[dict[str, str]] = []
    thumbs: list[tuple[str, bytes]] = []
    counts = {"files": 0, "enlarged": 0}
    most = 1.0

    def entries() -> Iterator[tuple[str, bytes]]:
        nonlocal most
        taken: set[str] = set()
        for number, kept in enumerate(chosen, 1):
            source = library.file_of(kept)
            if not source.is_file():
                raise Trouble(f"the file of {kept.id} is missing ({kept.path})", f"leave it out, or put the file back; syntagma library {kept.id} shows what it was", 3)
            data = read_bytes(source, "a kept result", MOST)
            stem = _named(how.name, kept, number, len(chosen), subjects(kept), data)
            for wanted in how.wanted:
                made = _made(kept, data, wanted, how)
                folder = f"{wanted.size[0]}x{wanted.size[1]}/" if len(how.wanted) > 1 and wanted.size else "as-they-are/" if len(how.wanted) > 1 else ""
                name = apart(f"{folder}{stem}{made.ending}", taken)
                said.extend((name, one) for one in made.said)
                counts["files"] += 1
                if made.times > 1.005:
                    counts["enlarged"] += 1
                    most = max(most, made.times)
                rows.append(_row(name, kept, made, wanted, how, subjects(kept)))
                if wanted is how.wanted[0] and made.size[0]:
                    thumbs.append((name.rpartition("/")[2], _small(made.data)))
                yield name, made.data
            seen(stem)
        pages = contact_sheets(thumbs, how.title or target.stem) if thumbs else []
        for number, page in enumerate(pages, 1):
            yield apart("contact-sheet.png" if len(pages) == 1 else f"contact-sheet-{number}.png", taken), page
        yield apart("list.csv", taken), _table(rows)
        licence = "\n\n".join(filter(None, (how.licence.rstrip(), how.use and f"Terms of use, as far as known: {how.use}")))
        if licence:
            yield apart("licence.txt", taken), (licence + "\n").encode()

    with whole_file(target) as file:
        write_archive(file.buffer, entries())
    return Bundled(len(chosen), counts["files"], counts["enlarged"], most, said)


def subjects_of(workspace: Workspace) -> Callable[[Kept], str]:
    """What says in a word or two what a result is of: what fills the slot for whoever or whatever is in the picture, else its first words."""
    facets: dict[str, dict[str, str]] = {}

    def subject(kept: Kept) -> str:
        if kept.formula and kept.formula not in facets:
            try:
                facets[kept.formula] = {rule.name: rule.facet for rule in workspace.formula(kept.formula)[0].slots}
            except (Trouble, Refused):  # a formula that is not there any more
                facets[kept.formula] = {}
        for slot, words in _fills(kept).items():
            traits = workspace.vocabulary.traits.get(facets.get(kept.formula, {}).get(slot, slot))
            if words and (slot == "subject" or (traits and traits.participant)):
                return words
        return " ".join(re.findall(r"[\w'-]+", kept.text)[:5])

    return subject


def _fills(kept: Kept) -> dict[str, str]:
    fills = kept.record.get("fills")
    return {slot: given if isinstance(given, str) else ", ".join(map(str, given)) for slot, given in fills.items()} if isinstance(fills, dict) else {}


def _made(kept: Kept, data: bytes, wanted: Delivery, how: BundleSpec) -> Delivered:
    if kept.ending.lower() not in PICTURES:
        return Delivered(data, kept.ending, (0, 0), 1.0, ("clips and sounds are copied unchanged",))
    prompt = kept.text + (f"\nNegative: {kept.negative}" if kept.negative else "")
    properties = Properties(kept.note or kept.text, prompt, "", kept.model, credit=how.credit) if how.prompts else Properties(credit=how.credit) if how.credit else None
    try:
        return delivered(data, wanted, properties)
    except Trouble as wrong:
        raise Trouble(f"{kept.id}: {wrong}", "leave it out, or add it to the library again", 1) from None


def _check(pattern: str, chosen: Sequence[Kept]) -> None:
    """Are the places of a pattern known? Raises Trouble."""
    slots = {slot for kept in chosen for slot in _fills(kept)}
    for name in _PLACE.findall(pattern):
        if name not in _KNOWN and name not in slots:
            raise Trouble(f"“{{{name}}}” can't be part of a file name", perhaps(name, [*_KNOWN, *slots], f"use {', '.join([*_KNOWN, *sorted(slots)])}"), 2)
    if not _PLACE.search(pattern) and len(chosen) > 1:
        raise Trouble(f"“{pattern}” gives every file the same name", f"put a field into it: {NAME}", 2)


def _named(pattern: str, kept: Kept, number: int, count: int, subject: str, data: bytes) -> str:
    """The name of a result by the pattern, without its ending; a place that is blank goes, with its hyphen."""
    fills = _fills(kept)
    known = {
        "number": f"{number:0{max(2, len(str(count)))}d}", "id": str(kept.id), "sheet": kept.sheet, "model": kept.model, "formula": kept.formula, "rating": f"{kept.rating:g}" if kept.rating is not None else "",
        "label": "-".join(kept.labels), "subject": subject, "ratio": _ratio(kept, data).replace(":", "x"),
    }  # fmt: skip
    return safe_name(re.sub(r"-{2,}", "-", _PLACE.sub(lambda m: safe_name(fills.get(m[1]) or known.get(m[1], ""), "") or "", pattern)))


def _ratio(kept: Kept, data: bytes) -> str:
    """The shape of a picture by its pixels; of anything else what its prompt asked for."""
    if kept.ending.lower() in PICTURES:
        from PIL import Image

        try:
            with Image.open(io.BytesIO(data)) as image:
                wide, high = image.size
        except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
            return ""
        near = min(_RATIOS, key=lambda one: abs(one[0] / one[1] - wide / high))
        return f"{near[0]}:{near[1]}" if abs(near[0] / near[1] - wide / high) < 0.02 else f"{wide}:{high}"
    return str(dict(kept.record.get("parameters") or {}).get("ratio", ""))


def _row(name: str, kept: Kept, made: Delivered, wanted: Delivery, how: BundleSpec, subject: str) -> dict[str, str]:
    row = {
        "file": name, "what": subject, "pixels": f"{made.size[0]}x{made.size[1]}" if made.size[0] else "", "ppi": str(wanted.ppi or "") if made.size[0] else "",
        "bytes": str(len(made.data)), "sha256": hashlib.sha256(made.data).hexdigest(), "said": "; ".join(made.said),
    }  # fmt: skip
    if how.prompts:
        row |= {"prompt": kept.text, "negative": kept.negative, "model": kept.model, "choices": "; ".join(f"{slot}: {words}" for slot, words in _fills(kept).items())}
    return row


def _table(rows: Sequence[dict[str, str]]) -> bytes:
    out = io.StringIO(newline="")
    table = csv.DictWriter(out, list(rows[0]) if rows else ["file"], lineterminator="\r\n")
    table.writeheader()
    table.writerows({name: harmless(cell) for name, cell in row.items()} for row in rows)
    return ("\ufeff" + out.getvalue()).encode()


def _small(data: bytes) -> bytes:
    from PIL import Image

    out = io.BytesIO()
    with Image.open(io.BytesIO(data)) as image:
        small = image if image.mode == "RGB" and "transparency" not in image.info else image.convert("RGBA")
        small.thumbnail((400, 400))
        small.save(out, "PNG", compress_level=1)  # for the contact sheet only
    return out.getvalue()
