"""Bundles: chosen results in one archive, in the sizes that were asked for, with a list and a
contact sheet.
"""

import csv
import hashlib
import io
import re
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from PIL import Image, ImageOps

from syntagma.app.results.adding import MOST, Keeper
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Refused, Trouble, perhaps
from syntagma.core.records import joined
from syntagma.formats.archive import apart, safe_name, write_archive
from syntagma.formats.metadata.pictures import ENDINGS as PICTURES
from syntagma.formats.metadata.pictures import bare, signed
from syntagma.formats.metadata.xmp import Properties
from syntagma.formats.table_in import harmless
from syntagma.storage.files import read_bytes, whole_file
from syntagma.storage.library import Kept, Library

# ──── One picture brought to what somebody asked for: size, resolution, ground, format; its colour
# profile kept, its prompt left out unless asked.


FITS = ("inside", "cover")
FORMATS = {"png": "PNG", "jpeg": "JPEG", "webp": "WEBP"}
_LANCZOS = Image.Resampling.LANCZOS


class Delivery(NamedTuple):
    """What pictures are brought to. `size` in pixels (None: as it is); `fit`: inside, or cover (the
    rest is cropped); `ground`: transparent, a colour (#rrggbb) behind what is see-through and round
    what is smaller, or "" for neither; `cut`: a plain ground is cut out.
    """

    size: tuple[int, int] | None = None
    ppi: int = 0
    fit: str = "inside"
    ground: str = ""
    cut: bool = False
    tolerance: float = 0.0
    format: str = ""


class Delivered(NamedTuple):
    """A picture ready: its bytes, its ending, its size, how many times it was enlarged, and the
    findings on it.
    """

    data: bytes
    ending: str
    size: tuple[int, int]
    times: float
    said: tuple[str, ...] = ()


def delivered(data: bytes, wanted: Delivery, properties: Properties | None) -> Delivered:
    """Bring a picture to what is wanted; with `properties` it carries its prompt, or only whose it
    is. Raises Trouble if it can't be read.
    """
    said: list[str] = []
    try:
        with Image.open(io.BytesIO(data)) as opened:
            kind = opened.format or "PNG"
            profile = opened.info.get("icc_profile")
            image: Image.Image = ImageOps.exif_transpose(opened)
            image.load()
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise Trouble(f"it can't be read as a picture ({type(error).__name__})") from None
    image = image.convert(
        "RGBA" if "A" in image.getbands() or "transparency" in image.info else "RGB"
    )
    if wanted.cut:
        image = _cut(image, wanted, said)
    before = image.size
    image = _sized(image, wanted)
    times = (
        max(image.size[0] / before[0], image.size[1] / before[1])
        if wanted.fit == "cover"
        else min(image.size[0] / before[0], image.size[1] / before[1])
    )
    image = _on_ground(image, wanted)
    form = FORMATS.get(wanted.format, kind if kind in FORMATS.values() else "PNG")
    if form == "JPEG" and image.mode == "RGBA":
        if wanted.format:
            image = _on_ground(image, wanted._replace(ground="#ffffff", size=None))
            said.append("a JPEG can't be transparent, so its ground is white")
        else:
            form = "PNG"
    made = _saved(image, form, wanted.ppi, profile)
    if properties and not properties.prompt:  # whose it is, and nothing of how it was made
        made = bare(made)
    return Delivered(
        signed(made, properties) if properties else bare(made),
        f".{'jpg' if form == 'JPEG' else form.lower()}",
        image.size,
        times,
        tuple(said),
    )


def _cut(image: Image.Image, wanted: Delivery, said: list[str]) -> Image.Image:
    import numpy as np  # heavy: only a cut-out pays for it

    from syntagma.core.seeing.cut_out import TOLERANCE, cut_out

    if image.mode == "RGBA" and image.getextrema()[3][0] == 0:  # type: ignore[index]
        return image  # it has no ground any more
    found = cut_out(
        np.asarray(image.convert("RGB"), dtype=float) / 255.0, wanted.tolerance or TOLERANCE
    )
    if found is None:
        said.append("its background is not plain, so nothing was cut out")
        return image
    if found.gone > 0.98:
        said.append("hardly anything would be left, so nothing was cut out")
        return image
    return Image.fromarray(np.round(found.pixels * 255).astype("uint8"), "RGBA")


def _sized(image: Image.Image, wanted: Delivery) -> Image.Image:
    """By Lanczos; what is see-through does not bleed into what is not."""
    if wanted.size is None:
        return image
    wide, high = wanted.size
    choose = max if wanted.fit == "cover" else min
    scale = choose(wide / image.size[0], high / image.size[1])
    size = max(1, round(image.size[0] * scale)), max(1, round(image.size[1] * scale))
    if size != image.size:
        image = (
            image.convert("RGBa").resize(size, _LANCZOS).convert("RGBA")
            if image.mode == "RGBA"
            else image.resize(size, _LANCZOS)
        )
    if wanted.fit == "cover":
        left, top = (size[0] - wide) // 2, (size[1] - high) // 2
        image = image.crop((left, top, left + wide, top + high))
    return image


def _on_ground(image: Image.Image, wanted: Delivery) -> Image.Image:
    """In the middle of a ground of the size wanted, if one is."""
    if not wanted.ground:
        return image
    size = wanted.size or image.size
    clear = wanted.ground == "transparent"
    ground = Image.new("RGBA", size, (0, 0, 0, 0) if clear else wanted.ground)
    ground.alpha_composite(
        image.convert("RGBA"), ((size[0] - image.size[0]) // 2, (size[1] - image.size[1]) // 2)
    )
    return ground if clear else ground.convert("RGB")


def _saved(image: Image.Image, form: str, ppi: int, profile: bytes | None) -> bytes:
    out = io.BytesIO()
    options: dict[str, Any] = {"icc_profile": profile} if profile else {}
    if ppi and form != "WEBP":
        options["dpi"] = (ppi, ppi)
    if form == "JPEG":
        options |= {"quality": 93, "subsampling": 0}
    elif form == "WEBP":
        options |= {"quality": 92, "method": 4}
    else:
        options["compress_level"] = (
            4  # a fourteenth more bytes than by the level that is usual, in two fifths of the time
        )
    image.save(out, form, **options)
    return out.getvalue()


def contact_sheets(pictures: list[tuple[str, bytes]], title: str) -> list[bytes]:
    """Pages with all pictures (name, bytes), small, each with its whole name: PNG, 1654 × 2339
    pixels (A4 at 200 to the inch).
    """
    from PIL import ImageDraw, ImageFont

    wide, high, columns, rows, edge = 1654, 2339, 4, 5, 80
    cell, tall = (wide - 2 * edge) // columns, (high - 2 * edge - 100) // rows
    large, below = ImageFont.load_default(44), 92  # pixels for a name
    pages = []
    count = max(1, -(-len(pictures) // (columns * rows)))
    for number in range(count):
        sheet = Image.new("RGB", (wide, high), "#fffdf8")
        pen = ImageDraw.Draw(sheet)
        pen.text(
            (edge, edge),
            title + (f"  ({number + 1} of {count})" if count > 1 else ""),
            fill="#22252b",
            font=large,
        )
        for at, (name, data) in enumerate(
            pictures[number * columns * rows : (number + 1) * columns * rows]
        ):
            left, top = edge + at % columns * cell, edge + 100 + at // columns * tall
            with Image.open(io.BytesIO(data)) as opened:
                thumb = opened.convert("RGBA")
            thumb.thumbnail((cell - 24, tall - below - 8), _LANCZOS)
            ground = Image.new("RGBA", thumb.size, "#e9e4d8")
            ground.alpha_composite(thumb)
            sheet.paste(
                ground.convert("RGB"),
                (
                    left + (cell - 24 - thumb.size[0]) // 2,
                    top + (tall - below - 8 - thumb.size[1]) // 2,
                ),
            )
            size, lines = _name_lines(name, cell - 24, below)
            pen.text(
                (left, top + tall - below),
                "\n".join(lines),
                fill="#5f636b",
                font=ImageFont.load_default(size),
                spacing=3,
            )
        pages.append(_saved(sheet, "PNG", 200, None))
    return pages


def _name_lines(name: str, width: int, height: int) -> tuple[int, list[str]]:
    """A name in lines that fit below a picture, whole, and the size of the type: 20 pixels, smaller
    if it is very long. Lines end after a hyphen, a space, a dot or a low line if they can.
    """
    from PIL import ImageFont

    for size in range(20, 7, -2):
        font, lines, rest = ImageFont.load_default(size), [], name
        while rest:
            fits = next(
                (n for n in range(len(rest), 1, -1) if font.getlength(rest[:n]) <= width), 1
            )
            if fits < len(rest):
                fits = max(
                    (i + 1 for i, sign in enumerate(rest[:fits]) if sign in "-_. "), default=fits
                )
            lines.append(rest[:fits])
            rest = rest[fits:]
        if len(lines) * (size + 6) <= height:
            break
    return size, lines


# ──── Chosen results as one archive for somebody else: named, brought to size, with a contact sheet
# and a list. Prompts leave the house only when asked.


NAME = "{number}-{subject}-{ratio}"
_PLACE = re.compile(r"\{([\w-]+)\}")
_KNOWN = ("number", "id", "subject", "ratio", "sheet", "model", "formula", "rating", "label")
_RATIOS = (
    (1, 1),
    (4, 5),
    (5, 4),
    (3, 4),
    (4, 3),
    (2, 3),
    (3, 2),
    (9, 16),
    (16, 9),
    (21, 9),
    (9, 21),
    (1, 2),
    (2, 1),
)


class BundleSpec(NamedTuple):
    """How chosen results are handed on. `name`: the pattern of file names; `sizes`: what each is
    brought to, a folder for each if there are several; `use`: the terms as the person knows them,
    where the program does not; `licence` a text that goes in; `prompts`: they go too.
    """

    wanted: Sequence[Delivery]
    name: str = NAME
    prompts: bool = False
    licence: str = ""
    use: str = ""
    title: str = ""
    credit: str = ""


class Bundled(NamedTuple):
    """What came of it: how many results and files, how many were enlarged and the most that one
    was, and the findings on some (file, what).
    """

    results: int
    files: int
    enlarged: int
    times: float
    said: list[tuple[str, str]]


def kept_of_sheet(workspace: Workspace, library: Library, name: str) -> tuple[int, list[str]]:
    """Keep what is done of a sheet, so it can be chosen from; return how many were new, and which
    files are gone. Raises Trouble.
    """
    found, gone = Keeper(workspace, library).keep_sheet(name)
    return sum(one.new for one in found), gone


def allowed(chosen: Sequence[Kept], use: str) -> None:
    """Raise Trouble if terms of use are unknown or forbid handing results on, unless the person has
    said what holds.
    """
    if use:
        return
    said = {
        kept.id: (re.search(r"commercial use: (\w+)", kept.use) or ["", "unknown"])[1]
        for kept in chosen
    }
    for what, why in (("no", "forbid commercial use"), ("unknown", "are not known")):
        if ids := [str(number) for number, one in said.items() if one == what]:
            some = ", ".join(ids[:6]) + (f" and {len(ids) - 6} more" if len(ids) > 6 else "")
            raise Trouble(
                f"the terms of use of {len(ids)} of {len(chosen)} results {why}: {some}",
                'read them, then say what they allow: --use "licence 12 of the service, read on …"',
                2,
            )


def write_bundle(
    library: Library,
    chosen: Sequence[Kept],
    target: Path,
    how: BundleSpec,
    subjects: Callable[[Kept], str],
    seen: Callable[[str], None],
) -> Bundled:
    """Write the archive; `subjects` says what a result is of, `seen` hears how many are ready.
    Raises Trouble: nothing half-written stays.
    """
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
                raise Trouble(
                    f"the file of {kept.id} is missing ({kept.path})",
                    f"leave it out, or put the file back; syntagma library {kept.id} shows what"
                    " it was",
                    3,
                )
            data = read_bytes(source, "a kept result", MOST)
            stem = _named(how.name, kept, number, len(chosen), subjects(kept), data)
            for wanted in how.wanted:
                made = _made(kept, data, wanted, how)
                folder = (
                    f"{wanted.size[0]}x{wanted.size[1]}/"
                    if len(how.wanted) > 1 and wanted.size
                    else "as-they-are/"
                    if len(how.wanted) > 1
                    else ""
                )
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
            yield (
                apart(
                    "contact-sheet.png" if len(pages) == 1 else f"contact-sheet-{number}.png", taken
                ),
                page,
            )
        yield apart("list.csv", taken), _table(rows)
        licence = "\n\n".join(
            filter(
                None,
                (how.licence.rstrip(), how.use and f"Terms of use, as far as known: {how.use}"),
            )
        )
        if licence:
            yield apart("licence.txt", taken), (licence + "\n").encode()

    with whole_file(target) as file:
        write_archive(file.buffer, entries())
    return Bundled(len(chosen), counts["files"], counts["enlarged"], most, said)


def subjects_of(workspace: Workspace) -> Callable[[Kept], str]:
    """What says in a word or two what a result is of: what fills the slot for whoever or whatever
    is in the picture, else its first words.
    """
    facets: dict[str, dict[str, str]] = {}

    def subject(kept: Kept) -> str:
        if kept.formula and kept.formula not in facets:
            try:
                facets[kept.formula] = {
                    rule.name: rule.facet for rule in workspace.formula(kept.formula)[0].slots
                }
            except (Trouble, Refused):  # a formula that is not there any more
                facets[kept.formula] = {}
        for slot, words in _fills(kept).items():
            traits = workspace.vocabulary.traits.get(facets.get(kept.formula, {}).get(slot, slot))
            if words and (slot == "subject" or (traits and traits.participant)):
                return words
        return " ".join(re.findall(r"[\w'-]+", kept.text)[:5])

    return subject


def _fills(kept: Kept) -> dict[str, str]:
    return {slot: joined(given, ", ") for slot, given in (kept.record.fills or {}).items()}


def _made(kept: Kept, data: bytes, wanted: Delivery, how: BundleSpec) -> Delivered:
    if kept.ending.lower() not in PICTURES:
        return Delivered(data, kept.ending, (0, 0), 1.0, ("clips and sounds are copied unchanged",))
    prompt = kept.text + (f"\nNegative: {kept.negative}" if kept.negative else "")
    properties = (
        Properties(kept.note or kept.text, prompt, "", kept.model, credit=how.credit)
        if how.prompts
        else Properties(credit=how.credit)
        if how.credit
        else None
    )
    try:
        return delivered(data, wanted, properties)
    except Trouble as wrong:
        raise Trouble(
            f"{kept.id}: {wrong}", "leave it out, or add it to the library again", 1
        ) from None


def _check(pattern: str, chosen: Sequence[Kept]) -> None:
    """Are the places of a pattern known? Raises Trouble."""
    slots = {slot for kept in chosen for slot in _fills(kept)}
    for name in _PLACE.findall(pattern):
        if name not in _KNOWN and name not in slots:
            raise Trouble(
                f"“{{{name}}}” can't be part of a file name",
                perhaps(name, [*_KNOWN, *slots], f"use {', '.join([*_KNOWN, *sorted(slots)])}"),
                2,
            )
    if not _PLACE.search(pattern) and len(chosen) > 1:
        raise Trouble(
            f"“{pattern}” gives every file the same name", f"put a field into it: {NAME}", 2
        )


def _named(pattern: str, kept: Kept, number: int, count: int, subject: str, data: bytes) -> str:
    """The name of a result by the pattern, without its ending; a place that is blank goes, with its
    hyphen.
    """
    fills = _fills(kept)
    known = {
        "number": f"{number:0{max(2, len(str(count)))}d}",
        "id": str(kept.id),
        "sheet": kept.sheet,
        "model": kept.model,
        "formula": kept.formula,
        "rating": f"{kept.rating:g}" if kept.rating is not None else "",
        "label": "-".join(kept.labels),
        "subject": subject,
        "ratio": _ratio(kept, data).replace(":", "x"),
    }
    return safe_name(
        re.sub(
            r"-{2,}",
            "-",
            _PLACE.sub(
                lambda m: safe_name(fills.get(m[1]) or known.get(m[1], ""), "") or "", pattern
            ),
        )
    )


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
        return (
            f"{near[0]}:{near[1]}"
            if abs(near[0] / near[1] - wide / high) < 0.02
            else f"{wide}:{high}"
        )
    return str(kept.record.parameters.get("ratio", ""))


def _row(
    name: str, kept: Kept, made: Delivered, wanted: Delivery, how: BundleSpec, subject: str
) -> dict[str, str]:
    row = {
        "file": name,
        "what": subject,
        "pixels": f"{made.size[0]}x{made.size[1]}" if made.size[0] else "",
        "ppi": str(wanted.ppi or "") if made.size[0] else "",
        "bytes": str(len(made.data)),
        "sha256": hashlib.sha256(made.data).hexdigest(),
        "said": "; ".join(made.said),
    }
    if how.prompts:
        row |= {
            "prompt": kept.text,
            "negative": kept.negative,
            "model": kept.model,
            "choices": "; ".join(f"{slot}: {words}" for slot, words in _fills(kept).items()),
        }
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
        small = (
            image
            if image.mode == "RGB" and "transparency" not in image.info
            else image.convert("RGBA")
        )
        small.thumbnail((400, 400))
        small.save(out, "PNG", compress_level=1)  # for the contact sheet only
    return out.getvalue()
