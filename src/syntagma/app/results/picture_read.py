"""Pictures read: their colours and light as terms and fills; and results that are too much
alike.
"""

import csv
from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from syntagma.app.prompt_files import prompts_of_file
from syntagma.app.reading import reader_of
from syntagma.app.results.adding import PICTURES
from syntagma.app.results.effects import needs
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Mistake, Trouble
from syntagma.core.reading.prompt_pieces import said
from syntagma.core.seeing.likeness import PICTURES as ALIKE
from syntagma.core.seeing.likeness import (
    PROMPTS,
    Twins,
    groups,
    links_of_pictures,
    picture_hash,
    twins_of_texts,
)
from syntagma.core.seeing.pictures import (
    PictureLook,
    as_hex,
    colours_in,
    detail,
    look,
    matched,
    nearest_word,
    of_hex,
)
from syntagma.core.vocabulary.terms import Term
from syntagma.storage.files import read_bytes
from syntagma.storage.folders import SHIPPED

# ──── Reads a reference picture: its palette in words and terms, its light, sharpness and ratio;
# and which of these go into slots.


SIDE = 256  # pixels of the longer side that are looked at
MOST_PIXELS = 200_000_000
PALETTE, LIGHTING = "palette", "lighting"
SURE, LIKELY = 0.72, 0.5  # how well a term's colours have to answer those that are seen
RATIOS = (
    (1, 1),
    (5, 4),
    (4, 3),
    (3, 2),
    (16, 9),
    (2, 1),
    (21, 9),
    (4, 5),
    (3, 4),
    (2, 3),
    (9, 16),
    (1, 2),
)


class SeenColour(NamedTuple):
    """A colour: its word, its code, its share of the picture."""

    word: str
    code: str
    share: float


class SeenPicture(NamedTuple):
    """What is seen: `palette` by share; terms of the vocabulary that say it, each with how well it
    fits; `fills` by facet, only what is sure enough.
    """

    look: PictureLook
    palette: tuple[SeenColour, ...]
    terms: tuple[tuple[Term, float], ...]
    ratio: str
    fills: Mapping[str, str]

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        light = self.look.light
        return {
            "size": list(self.look.size),
            "ratio": self.ratio,
            "palette": [
                {"word": c.word, "colour": c.code, "share": round(c.share, 3)} for c in self.palette
            ],
            "terms": [
                {"facet": t.facet, "term": t.term, "sure": round(sure, 2)} for t, sure in self.terms
            ],
            "light": {
                "key": round(light.key, 3),
                "contrast": round(light.contrast, 3),
                "warmth": round(light.warmth, 3),
                "colourful": round(light.colourful, 3),
                "brighter": light.side,
            },
            "words": [light.key_word, light.contrast_word, light.warmth_word],
            "sharpness": round(self.look.sharpness, 2),
            "fills": dict(self.fills),
        }


@cache
def colour_words() -> dict[str, np.ndarray]:
    """The words for colours that ship, with what they look like."""
    with open(SHIPPED / "colours.csv", encoding="utf-8", newline="") as file:
        return {row["word"]: of_hex(row["colour"]) for row in csv.DictReader(file)}


def pixels_of(path: Path, side: int = SIDE) -> tuple[np.ndarray, tuple[int, int]]:
    """A picture made small (height × width × 3, 0 to 255), and the size of the whole. Raises
    Trouble.
    """
    needs("PIL", "reading a picture")
    from io import BytesIO

    from PIL import Image, ImageOps

    try:
        with Image.open(BytesIO(read_bytes(path, "a picture", 256 << 20))) as image:
            if image.width * image.height > MOST_PIXELS:
                raise Trouble(
                    f"{path} has {image.width:,} × {image.height:,} pixels", "make it smaller", 1
                )
            whole = ImageOps.exif_transpose(image)
            if whole.mode in ("RGBA", "LA", "P"):
                whole = whole.convert("RGBA")
                white = Image.new("RGBA", whole.size, "white")
                whole = Image.alpha_composite(white, whole)
            size = whole.size
            small = whole.convert("RGB")
            small.thumbnail((side, side), Image.Resampling.BOX)
            return np.asarray(small), size
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise Trouble(
            f"{path} can't be read as a picture ({type(error).__name__})",
            "name a PNG, JPEG or WebP",
            1,
        ) from None


def see(workspace: Workspace, path: Path) -> SeenPicture:
    """Read a picture. Raises Trouble."""
    pixels, size = pixels_of(path)
    seen = look(pixels, size)
    words = colour_words()
    colours: dict[str, SeenColour] = {}
    for colour in seen.palette:
        word = nearest_word(colour.lab, words)
        known = colours.get(word)
        colours[word] = (
            known._replace(share=known.share + colour.share)
            if known
            else SeenColour(word, as_hex(colour.lab), colour.share)
        )
    terms = _terms(workspace, seen, words)
    fills = {}
    if (best := next(((t, sure) for t, sure in terms if t.facet == PALETTE), None)) and best[
        1
    ] >= LIKELY:
        fills[PALETTE] = best[0].term
    else:
        named = [one.word for one in sorted(colours.values(), key=lambda one: -one.share)[:3]]
        fills[PALETTE] = _listed(named)
    if lighting := next((t.term for t, _ in terms if t.facet == LIGHTING), ""):
        fills[LIGHTING] = lighting
    return SeenPicture(
        seen,
        tuple(sorted(colours.values(), key=lambda one: -one.share)),
        tuple(terms),
        _ratio(size),
        fills,
    )


def _terms(
    workspace: Workspace, seen: PictureLook, words: Mapping[str, np.ndarray]
) -> list[tuple[Term, float]]:
    """Terms of the vocabulary that say what is seen, the surest first."""
    palette = [(colour.lab, colour.share) for colour in seen.palette]
    found = []
    if PALETTE in workspace.vocabulary:
        for term in workspace.vocabulary[PALETTE]:
            named = colours_in(f"{term.phrase or term.term}", words)
            if len(named) > 1 and (sure := matched(named, palette)) > 0.35:
                found.append((term, sure))
    found.sort(key=lambda one: -one[1])
    light = seen.light
    wanted = (
        "high-key lighting"
        if light.key > 0.8 and light.contrast < 0.5
        else "low-key lighting"
        if light.key < 0.33
        else ""
    )
    if (
        wanted
        and LIGHTING in workspace.vocabulary
        and (lit := workspace.vocabulary[LIGHTING].get(wanted))
    ):
        found.append((lit, 0.8))
    return [*found[:3], *(one for one in found[3:] if one[0].facet == LIGHTING)]


def _ratio(size: tuple[int, int]) -> str:
    """The plain ratio that a picture has, about."""
    own = size[0] / size[1]
    wide, high = min(RATIOS, key=lambda r: abs(np.log(own * r[1] / r[0])))
    return f"{wide}:{high}" if abs(np.log(own * high / wide)) < 0.04 else f"{own:.2f}:1"


def _listed(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


# ──── Of a pile of prompts or pictures those that are too much alike, and which of them to remove.


MOST_READ = 500  # prompts of a pile whose parts are read
COMMON = 1024  # pixels of the longer side at which the sharpness of pictures is compared
TABLES = (".csv", ".xlsx")


class AlikeGroups(NamedTuple):
    """Groups that are too much alike: the names of their things (a line of a file, a row of a table
    without its heading line, a picture), the one to keep first, what each says.
    """

    groups: tuple[tuple[tuple[str, ...], float], ...]
    said: dict[str, str]
    whole: int
    wrong: tuple[Mistake, ...]


def near_prompts(
    workspace: Workspace, paths: Sequence[str], least: float = PROMPTS, column: str = ""
) -> AlikeGroups:
    """Among prompts of files; of up to MOST_READ the parts are read, too. Raises Trouble."""
    names, texts, wrong = [], [], []
    for path in paths:
        for row, one in enumerate(prompts_of_file(path, column), 1):
            if one.mistake:
                wrong.append(one.mistake)
            else:
                place = row if Path(path).suffix.lower() in TABLES else one.line
                names.append(f"{path}:{place}" if len(paths) > 1 else str(place))
                texts.append(one.text)
    reader = reader_of(workspace) if 1 < len(texts) <= MOST_READ else None
    parts = [said(reader.read(text)) for text in texts] if reader else []
    return AlikeGroups(
        _named(twins_of_texts(texts, least, parts), names),
        dict(zip(names, texts, strict=True)),
        len(texts),
        tuple(wrong),
    )


def near_pictures(paths: Sequence[Path], least: float = ALIKE) -> AlikeGroups:
    """Among pictures; folders are gone through. The sharpest of several is the one to keep; of
    equally sharp ones the largest. Raises Trouble.
    """
    files = [
        file
        for path in paths
        for file in (sorted(path.iterdir()) if path.is_dir() else [path])
        if file.suffix.lower() in PICTURES
    ]
    if not files:
        raise Trouble(
            "no pictures were named",
            f"name pictures ({', '.join(PICTURES[:3])} …), or a folder of them",
            2,
        )
    needs("PIL", "comparing pictures")
    hashes, sizes, names, wrong = [], [], [], []
    for file in files:
        try:
            pixels, size = pixels_of(file, 512)
        except Trouble as trouble:
            wrong.append(Mistake(str(trouble), trouble.remedy, str(file)))
            continue
        hashes.append(picture_hash(_small(pixels.mean(axis=2))))
        sizes.append(size[0] * size[1])
        names.append(str(file))
    links = links_of_pictures(hashes, least)
    sharp = {
        i: detail(_at_one_size(Path(names[i])))
        for i in {place for link in links for place in link[:2]}
    }
    found = groups(
        links, lambda i: (int(np.log2(sharp[i] + 1e-6) * 2), sizes[i], -i)
    )  # half a power of two more is sharper, less may be noise
    return AlikeGroups(_named(found, names), {}, len(names), tuple(wrong))


def _at_one_size(file: Path) -> np.ndarray:
    """A picture in grey, its longer side COMMON pixels long whatever size it has: what was
    enlarged, here or before, is soft.
    """
    from PIL import Image

    image = Image.fromarray(pixels_of(file, COMMON)[0]).convert("L")
    scale = COMMON / max(image.size)
    return np.asarray(
        image
        if scale == 1
        else image.resize(
            [max(1, round(side * scale)) for side in image.size], Image.Resampling.BICUBIC
        )
    )


def _named(
    found: Sequence[Twins], names: Sequence[str]
) -> tuple[tuple[tuple[str, ...], float], ...]:
    return tuple((tuple(names[i] for i in one.places), one.likeness) for one in found)


def _small(grey: np.ndarray, side: int = 32) -> np.ndarray:
    """A grey picture as 32 × 32, each the mean of its part."""
    rows = np.linspace(0, grey.shape[0], side + 1).astype(int)
    columns = np.linspace(0, grey.shape[1], side + 1).astype(int)
    return np.array(
        [
            [
                grey[
                    rows[i] : max(rows[i] + 1, rows[i + 1]),
                    columns[j] : max(columns[j] + 1, columns[j + 1]),
                ].mean()
                for j in range(side)
            ]
            for i in range(side)
        ]
    )
