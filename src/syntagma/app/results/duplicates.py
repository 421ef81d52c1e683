"""Of a pile of prompts or pictures those that are too much alike, and which of them to remove."""

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np

from syntagma.app.existing.prompt_files import prompts_of_file
from syntagma.app.existing.reading import reader_of
from syntagma.app.results.adding import PICTURES
from syntagma.app.results.effects.report import needs
from syntagma.app.results.picture_read import pixels_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.places import Mistake
from syntagma.core.reading.comparing import said
from syntagma.core.seeing.likeness import PICTURES as ALIKE
from syntagma.core.seeing.likeness import PROMPTS, Twins, groups, links_of_pictures, picture_hash, twins_of_texts
from syntagma.core.seeing.picture_look import detail
from syntagma.storage.trouble import Trouble

MOST_READ = 500  # prompts of a pile whose parts are read
COMMON = 1024  # pixels of the longer side at which the sharpness of pictures is compared
TABLES = (".csv", ".xlsx")


class AlikeGroups(NamedTuple):
    """Groups that are too much alike: the names of their things (a line of a file, a row of a table without its heading line, a picture), the one to keep first, what each says."""

    groups: tuple[tuple[tuple[str, ...], float], ...]
    said: dict[str, str]
    whole: int
    wrong: tuple[Mistake, ...]


def near_prompts(workspace: Workspace, paths: Sequence[str], least: float = PROMPTS, column: str = "") -> AlikeGroups:
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
    return AlikeGroups(_named(twins_of_texts(texts, least, parts), names), dict(zip(names, texts, strict=True)), len(texts), tuple(wrong))


def near_pictures(paths: Sequence[Path], least: float = ALIKE) -> AlikeGroups:
    """Among pictures; folders are gone through. The sharpest of several is the one to keep; of equally sharp ones the largest. Raises Trouble."""
    files = [file for path in paths for file in (sorted(path.iterdir()) if path.is_dir() else [path]) if file.suffix.lower() in PICTURES]
    if not files:
        raise Trouble("no pictures were named", f"name pictures ({', '.join(PICTURES[:3])} …), or a folder of them", 2)
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
    sharp = {i: detail(_at_one_size(Path(names[i]))) for i in {place for link in links for place in link[:2]}}
    found = groups(links, lambda i: (int(np.log2(sharp[i] + 1e-6) * 2), sizes[i], -i))  # half a power of two more is sharper, less may be noise
    return AlikeGroups(_named(found, names), {}, len(names), tuple(wrong))


def _at_one_size(file: Path) -> np.ndarray:
    """A picture in grey, its longer side COMMON pixels long whatever size it has: what was enlarged, here or before, is soft."""
    from PIL import Image

    image = Image.fromarray(pixels_of(file, COMMON)[0]).convert("L")
    scale = COMMON / max(image.size)
    return np.asarray(image if scale == 1 else image.resize([max(1, round(side * scale)) for side in image.size], Image.Resampling.BICUBIC))


def _named(found: Sequence[Twins], names: Sequence[str]) -> tuple[tuple[tuple[str, ...], float], ...]:
    return tuple((tuple(names[i] for i in one.places), one.likeness) for one in found)


def _small(grey: np.ndarray, side: int = 32) -> np.ndarray:
    """A grey picture as 32 × 32, each the mean of its part."""
    rows = np.linspace(0, grey.shape[0], side + 1).astype(int)
    columns = np.linspace(0, grey.shape[1], side + 1).astype(int)
    return np.array([[grey[rows[i] : max(rows[i] + 1, rows[i + 1]), columns[j] : max(columns[j] + 1, columns[j + 1])].mean() for j in range(side)] for i in range(side)])
