"""Pages: the library, the vocabulary with pictures, and judging offline."""

import os
from collections.abc import Sequence
from importlib.util import find_spec
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote

from syntagma.app.results.adding import PICTURES, library_of
from syntagma.app.results.judged import asked_of, phrases_of
from syntagma.app.results.judging import Judging
from syntagma.app.workspace.html_pages import as_data, data_uri, page
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.models.prices import priced
from syntagma.core.records import Record
from syntagma.core.vocabulary.terms import Term, normal
from syntagma.storage.files import make_folder, whole_file, within, write_text
from syntagma.storage.library import FOLDER, LIBRARY, Kept, Library, LibraryQuery, kind_of

# ──── Pictures of terms, and the vocabulary as a page: a picture that somebody chose, or two from
# the library between which the term is all that was changed.


MOST = 4000  # kept results that are looked through for pairs


class PicturePair(NamedTuple):
    """Two kept results whose prompts differ in one choice: with the term, and with another in its
    place.
    """

    having: Kept
    without: Kept
    other: str


def set_picture(workspace: Workspace, library: Library, term: Term, file: Path) -> None:
    """Make a file the picture of a term. Raises Trouble."""
    if file.suffix.lower() not in PICTURES:
        raise Trouble(f"{file} is not a picture", f"name {', '.join(PICTURES[:3])} …", 2)
    name, ending, _ = library.put_file(file)
    library.set_picture(term.facet, term.term, f"{name[:2]}/{name}{ending}")


def pairs_of(library: Library, facet: str) -> dict[str, PicturePair]:
    """For terms of a facet two results with the same prompt but for that term, the best rated
    first.
    """
    groups: dict[tuple[object, ...], dict[str, Kept]] = {}
    for kept in sorted(library.find(LibraryQuery(), MOST), key=lambda one: -(one.rating or 0)):
        fills = kept.record.fills
        if fills is None:
            continue
        own = [slot for slot in fills if slot == facet or _facet_of(kept, library, slot) == facet]
        for slot in own:
            rest = (
                kept.formula,
                kept.model,
                slot,
                tuple(sorted((name, str(fill)) for name, fill in fills.items() if name != slot)),
            )
            groups.setdefault(rest, {}).setdefault(str(fills[slot]), kept)
    found: dict[str, PicturePair] = {}
    for group in groups.values():
        names = list(group)
        for i, name in enumerate(names):
            if len(names) > 1 and normal(name) not in found:
                other = names[1] if i == 0 else names[0]
                found[normal(name)] = PicturePair(group[name], group[other], other)
    return found


def _facet_of(kept: Kept, library: Library, slot: str) -> str:
    return library.facet_of(kept.id, str(kept.record["fills"][slot]))


def write_terms_page(
    workspace: Workspace, facets: Sequence[str], terms: Sequence[Term], target: Path
) -> int:
    """Write terms as a page, each with its picture if it has one; return how many have. Raises
    Trouble.
    """
    if target.suffix.lower() not in (".html", ".htm"):
        raise Trouble(f"can't write a page as {target}", "name it .html", 2)
    shown = []
    if workspace.folder and (workspace.folder / LIBRARY).is_file():
        with library_of(workspace) as library:
            shown = _with_pictures(library, facets, terms)
    else:
        shown = [_card(term, [], "") for term in terms]
    shown.sort(
        key=lambda one: (not one["star"] and not one["pictures"], not one["star"])
    )  # favourites, then terms with a picture, then the others
    pictured = sum(bool(one["pictures"]) for one in shown)
    title = facets[0].replace("-", " ").capitalize() if len(facets) == 1 else "The vocabulary"
    write_text(target, page("terms.html.j2", title=title, terms=shown, pictured=pictured))
    return pictured


def _with_pictures(
    library: Library, facets: Sequence[str], terms: Sequence[Term]
) -> list[dict[str, Any]]:
    thumbs, own = Thumbnails(library), library.pictures()
    pairs = {facet: pairs_of(library, facet) for facet in facets}
    counts = {(facet, normal(term)): (used, rated) for facet, term, used, rated in library.terms()}
    found = []
    for term in terms:
        pictures = []
        if file := own.get((term.facet, term.term)):
            path = within(library.root, f"{FOLDER}/{file}")
            if path.is_file():
                pictures = [{"src": _small(path, library), "alt": term.term, "caption": ""}]
        elif pair := pairs.get(term.facet, {}).get(normal(term.term)):
            for kept, said in ((pair.having, term.term), (pair.without, pair.other)):
                if (small := thumbs.of(kept)) is not None:
                    pictures.append({"src": data_uri(small), "alt": said, "caption": said})
        used, rated = counts.get((term.facet, normal(term.term)), (0, 0))
        found.append(_card(term, pictures, f"{used} in the library, {rated} rated" if used else ""))
    return found


def _small(path: Path, library: Library) -> str:
    name, ending = path.stem, path.suffix
    thumb = Thumbnails(library)
    kept = Kept(
        0,
        name,
        ending,
        0,
        "",
        "",
        "",
        "",
        "",
        "",
        "",
        "",
        None,
        "",
        None,
        "",
        "",
        "",
        "",
        Record({}),
    )
    made = thumb.of(kept)
    return data_uri(made if made is not None else path)


def _card(term: Term, pictures: list[dict[str, Any]], counts: str) -> dict[str, Any]:
    return {
        "name": term.term,
        "gloss": term.gloss,
        "star": term.star,
        "note": term.note,
        "pictures": pictures,
        "counts": counts,
        "words": " ".join([term.term, term.gloss, *term.aka, *term.tags]).lower(),
    }


# ──── Pages of results: the library's page, judging, the vocabulary with pictures. Each is one file
# (with a folder beside it if there are many pictures); no request to anywhere, no framework.


WITHIN = 500  # pictures up to which thumbnails stand within the page
SMALL, LARGE = 256, 1280  # pixels of the longer side: a thumbnail, a picture to judge
THUMBS = "thumbs"


class Thumbnails:
    """Small pictures of what is kept, made once and kept beside the files."""

    def __init__(self, library: Library):
        self.library = library
        self.folder = library.root / FOLDER / THUMBS
        self.possible = find_spec("PIL") is not None

    def of(self, kept: Kept, side: int = SMALL) -> Path | None:
        """The thumbnail of a picture, or of a clip's first picture; None if there can be none."""
        try:
            source, kind = self.library.file_of(kept), kind_of(kept.ending)
            within(self.library.root, f"{FOLDER}/{THUMBS}/{kept.file}-{side}.jpg")
        except Trouble:
            return None
        if (
            not self.possible
            or kind == "audio"
            or (kind == "video" and not find_spec("av"))
            or not source.is_file()
        ):
            return None
        target = self.folder / f"{kept.file}-{side}.jpg"
        if target.is_file():
            return target
        from PIL import Image, ImageOps

        make_folder(self.folder)
        try:
            with Image.open(source) if kind == "image" else _first_picture(source) as image:
                image.draft("RGB", (side * 2, side * 2))
                small = ImageOps.exif_transpose(image).convert("RGB")
                small.thumbnail((side, side))
                beside = target.with_name(f"{target.name}.{os.getpid()}.part")
                small.save(beside, "JPEG", quality=72 if side <= SMALL else 86, optimize=True)
        except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
            return None
        os.replace(beside, target)
        return target


def _first_picture(path: Path) -> Any:
    """The first picture of a clip. Raises OSError if it has none that can be read."""
    import av

    try:
        with av.open(str(path)) as clip:
            frame: Any = next(clip.decode(video=0))
            return frame.to_image()
    except (av.FFmpegError, StopIteration, IndexError, ValueError) as error:
        raise OSError(f"not a readable clip ({type(error).__name__})") from None


def _link(path: Path, target: Path) -> str:
    """The way from a page to a file."""
    return quote(Path(os.path.relpath(path.resolve(), target.resolve().parent)).as_posix())


def write_library_page(library: Library, found: Sequence[Kept], target: Path, title: str) -> int:
    """Write the page of what was found; return how many files are gone. Raises Trouble."""
    if target.suffix.lower() not in (".html", ".htm"):
        raise Trouble(f"can't write a page as {target}", "name it .html", 2)
    thumbs = Thumbnails(library)
    beside = target.with_name(f"{target.stem}-files") if len(found) > WITHIN else None
    terms = library.terms_by_result()
    items, gone = [], 0
    for kept in found:
        path = library.file_of(kept)
        there = path.is_file()
        gone += not there
        small = thumbs.of(kept) if there else None
        items.append(
            {
                "id": kept.id,
                "text": kept.text,
                "negative": kept.negative,
                "model": kept.model,
                "formula": kept.formula,
                "sheet": kept.sheet,
                "rating": (
                    kept.rating
                    if kept.rating is not None
                    else None
                    if kept.judged is None
                    else round(kept.judged, 1)
                ),
                "labels": list(kept.labels),
                "note": kept.note,
                "source": kept.source,
                "use": kept.use,
                "cost": "" if kept.cost is None else priced(kept.cost, kept.currency),
                "fills": [list(one) for one in phrases_of(kept)],
                "terms": terms.get(kept.id, []),
                "kind": kind_of(kept.ending),
                "gone": not there,
                "src": _link(path, target) if there else "",
                "thumb": _thumb(small, path, beside, kept, target),
            }
        )
    write_text(target, page("library.html.j2", title=title, data=as_data(items)))
    return gone


def _thumb(small: Path | None, path: Path, beside: Path | None, kept: Kept, target: Path) -> str:
    """The thumbnail of a card: within the page, in the folder beside it, or the picture itself if
    none can be made.
    """
    if small is None:
        return _link(path, target) if path.is_file() and kind_of(kept.ending) == "image" else ""
    if beside is None:
        return data_uri(small)
    make_folder(beside)
    copy = beside / f"{kept.id}.jpg"
    if not copy.is_file() or copy.stat().st_size != small.stat().st_size:
        copy.write_bytes(small.read_bytes())
    return _link(copy, target)


def judge_page(judging: Judging, title: str) -> str:
    """The page that is served: pictures and words come from the program."""
    return page(
        "judge.html.j2",
        title=title,
        data=as_data(
            {
                "served": True,
                "mode": "pairs" if judging.pairs else "ratings",
                "key": judging.family.name,
            }
        ),
    )


def write_judge_page(judging: Judging, target: Path, title: str) -> int:
    """Write the page that needs no program: for a telephone or a colleague; return how many
    pictures are gone. Raises Trouble.
    """
    if target.suffix.lower() not in (".html", ".htm"):
        raise Trouble(f"can't write a page as {target}", "name it .html", 2)
    thumbs, items, gone = Thumbnails(judging.library), {}, 0
    for number in judging.ids:
        kept = judging.kept[number]
        path = judging.library.file_of(kept)
        small = thumbs.of(kept, LARGE)
        gone += not path.is_file()
        source = data_uri(small) if small else _link(path, target) if path.is_file() else ""
        words = (
            {}
            if judging.pairs
            else {
                "text": kept.text,
                "model": kept.model,
                "phrases": [list(one) for one in asked_of(kept)],
            }
        )
        items[str(number)] = {"id": number, "kind": kind_of(kept.ending), "src": source, **words}
    known = {
        "served": False,
        "mode": "pairs" if judging.pairs else "ratings",
        "key": judging.family.name,
        "ids": judging.ids,
        "items": items,
        "file": f"{judging.family.name}-judged.csv",
    }
    if judging.pairs:
        known["pairs"] = [list(pair) for pair in judging.page_pairs()]
    with whole_file(target) as file:
        file.write(page("judge.html.j2", title=title, data=as_data(known)))
    return gone
