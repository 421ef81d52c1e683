"""Pictures of terms, and the vocabulary as a page: a picture that somebody chose, or two from the library between which the term is all that was changed."""

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from syntagma.app.results.adding import PICTURES, library_of
from syntagma.app.results.pages import Thumbnails
from syntagma.app.workspace.html_pages import data_uri, page
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.vocabulary.terms import Term, normal
from syntagma.storage.files import within, write_text
from syntagma.storage.library import FOLDER, LIBRARY, Kept, Library, LibraryQuery
from syntagma.storage.trouble import Trouble

MOST = 4000  # kept results that are looked through for pairs


class PicturePair(NamedTuple):
    """Two kept results whose prompts differ in one choice: with the term, and with another in its place."""

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
    """For terms of a facet two results with the same prompt but for that term, the best rated first."""
    groups: dict[tuple, dict[str, Kept]] = {}
    for kept in sorted(library.find(LibraryQuery(), MOST), key=lambda one: -(one.rating or 0)):
        fills = kept.record.get("fills")
        if not isinstance(fills, dict):
            continue
        own = [slot for slot in fills if slot == facet or _facet_of(kept, library, slot) == facet]
        for slot in own:
            rest = (kept.formula, kept.model, slot, tuple(sorted((name, str(fill)) for name, fill in fills.items() if name != slot)))
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
    said = str(kept.record["fills"][slot])
    row = library.base.execute("select facet from terms where kept = ? and term = ?", (kept.id, said)).fetchone()
    return row[0] if row else ""


def write_terms_page(workspace: Workspace, facets: Sequence[str], terms: Sequence[Term], target: Path) -> int:
    """Write terms as a page, each with its picture if it has one; return how many have. Raises Trouble."""
    if target.suffix.lower() not in (".html", ".htm"):
        raise Trouble(f"can't write a page as {target}", "name it .html", 2)
    shown = []
    if workspace.folder and (workspace.folder / LIBRARY).is_file():
        with library_of(workspace) as library:
            shown = _with_pictures(library, facets, terms)
    else:
        shown = [_card(term, [], "") for term in terms]
    shown.sort(key=lambda one: (not one["star"] and not one["pictures"], not one["star"]))  # favourites, then terms with a picture, then the others
    pictured = sum(bool(one["pictures"]) for one in shown)
    title = facets[0].replace("-", " ").capitalize() if len(facets) == 1 else "The vocabulary"
    write_text(target, page("terms.html.j2", title=title, terms=shown, pictured=pictured))
    return pictured


def _with_pictures(library: Library, facets: Sequence[str], terms: Sequence[Term]) -> list[dict]:
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
    kept = Kept(0, name, ending, 0, "", "", "", "", "", "", "", "", None, "", None, "", "", "", "", {})
    made = thumb.of(kept)
    return data_uri(made if made is not None else path)


def _card(term: Term, pictures: list[dict], counts: str) -> dict:
    return {"name": term.term, "gloss": term.gloss, "star": term.star, "note": term.note, "pictures": pictures, "counts": counts, "words": " ".join([term.term, term.gloss, *term.aka, *term.tags]).lower()}
