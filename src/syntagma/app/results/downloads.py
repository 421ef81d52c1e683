"""Files that a person downloaded, matched with the takes that they belong to."""

import re
from collections.abc import Mapping, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.batches.sheets import Sheet, opened
from syntagma.app.results.adding import (
    ENDINGS,
    PICTURES,
    Keeper,
    One,
    Remarks,
    record_of_row,
    said_in,
)
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.sheets import REMOVED, TakeId

# ──── Which row of a sheet a file downloaded by hand belongs to: by what the file says of itself,
# its name, its size and ratio, its order and time.


LEAST_NAME = 14  # letters of a prompt in a file's name that say anything
SURE_NAME = 20  # and that say it for sure, where no other row has them
USUAL = 900.0  # seconds from sending to downloading, as a rule


class OpenTake(NamedTuple):
    """A take that may be answered: its row, its id, the words, the model, the tasks it had, the
    size that was asked for, when it was sent (seconds, 0: never).
    """

    row: str
    take: str
    text: str
    model: str = ""
    tasks: tuple[str, ...] = ()
    size: tuple[int, int] | None = None
    sent: float = 0.0


class TakeMatch(NamedTuple):
    """A file with the take that it belongs to (None: none is left), whether that is sure,
    and why.
    """

    path: Path
    take: OpenTake | None
    sure: bool
    why: str


class SeenFile(NamedTuple):
    """What is seen of a file."""

    path: Path
    prompt: str
    size: tuple[int, int] | None
    time: float


def files_in(folder: Path) -> list[SeenFile]:
    """The pictures, clips and sounds of a folder, in order of time."""
    found = [
        SeenFile(path, said_in(path), size_of(path), path.stat().st_mtime)
        for path in sorted(folder.iterdir())
        if path.is_file() and path.suffix.lower() in ENDINGS
    ]
    return sorted(found, key=lambda one: (one.time, one.path.name))


def size_of(path: Path) -> tuple[int, int] | None:
    """The size of a picture in pixels; None if it can't be determined."""
    from importlib.util import find_spec

    if path.suffix.lower() not in PICTURES or not find_spec("PIL"):
        return None
    from PIL import Image

    try:
        with Image.open(path) as image:
            return image.size
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return None


def matched(files: Sequence[SeenFile], takes: Sequence[OpenTake]) -> list[TakeMatch]:
    """The take that each file belongs to. What is sure goes first: the words in the file, an id or
    the task in its name, a name that begins as one prompt only; then guesses, by names, sizes and
    order. A take is answered once.
    """
    left = {take.take: take for take in takes}
    found: dict[Path, TakeMatch] = {}
    words = {take.take: letters(take.text) for take in takes}
    same = {}
    for take in takes:
        same.setdefault(words[take.take], set()).add(take.row)

    def give(seen: SeenFile, candidates: Sequence[OpenTake], sure: bool, why: str) -> None:
        fits = [take for take in candidates if take.take in left]
        if fits and seen.path not in found:
            rows = {take.row for take in candidates}
            chosen = _by_time(seen, fits)
            found[seen.path] = TakeMatch(
                seen.path,
                chosen,
                sure and len(rows) == 1,
                why if len(rows) == 1 else f"{why}, as do {len(rows)} rows",
            )
            del left[chosen.take]

    for seen in files:
        name = seen.path.stem.lower()
        if named := [take for take in takes if _stands(take.take.lower(), name)]:
            give(seen, named, True, "its name has the take's id")
        elif named := [take for take in takes if _stands(take.row.lower(), name, more="-")]:
            give(seen, named, True, "its name has the row's id")
        elif named := [
            take
            for take in takes
            if any(len(task) > 3 and _stands(task.lower(), name) for task in take.tasks)
        ]:
            give(seen, named, True, "its name has the task")
        elif (
            seen.prompt
            and (told := letters(seen.prompt))
            and (named := [take for take in takes if words[take.take] == told])
        ):
            give(seen, named, True, "the picture carries the same prompt")
    for seen in files:
        if seen.path not in found and seen.prompt and len(told := letters(seen.prompt)) > 30:
            give(
                seen,
                [take for take in takes if told in words[take.take] or words[take.take] in told],
                False,
                "the picture carries nearly the same prompt",
            )
    for sure in (True, False):
        for seen in files:
            if seen.path in found:
                continue
            slug, named = _named(seen, takes, words)
            alone = len({take.row for take in named}) == 1
            if named and (alone and len(slug) >= SURE_NAME and not seen.prompt) == sure:
                give(seen, named, sure, f"its name has the prompt's words “{_shown(slug)}”")
    _by_order([seen for seen in files if seen.path not in found], left, found)
    return [
        found.get(seen.path, TakeMatch(seen.path, None, False, "no row is left for it"))
        for seen in files
    ]


def _stands(word: str, name: str, more: str = "") -> bool:
    """Does a name hold a word by itself, no letter and no figure (nor what `more` has before a
    figure) beside it?
    """
    at = name.find(word)
    while at >= 0:
        before, after = name[at - 1 : at], name[at + len(word) : at + len(word) + 2]
        if (
            not before.isalnum()
            and not after[:1].isalnum()
            and not (more and after[:1] in more and after[1:2].isdigit())
        ):
            return True
        at = name.find(word, at + 1)
    return False


def letters(text: str) -> str:
    """The letters and figures of a text alone."""
    return "".join(letter for letter in text.lower() if letter.isalnum())


def _named(
    seen: SeenFile, takes: Sequence[OpenTake], words: Mapping[str, str]
) -> tuple[str, list[OpenTake]]:
    """The longest part of a file's name that is in prompts, and the takes whose prompts have it."""
    name = seen.path.stem
    parts = [part for part in re.split(r"[^0-9a-zA-Z]+", name) if part]
    best: tuple[str, list[OpenTake]] = ("", [])
    for start in range(len(parts)):
        for stop in range(len(parts), start, -1):
            slug = "".join(parts[start:stop]).lower()
            if len(slug) < max(LEAST_NAME, len(best[0]) + 1):
                break
            if having := [take for take in takes if slug in words[take.take]]:
                best = (slug, having)
                break
    return best


def _by_time(seen: SeenFile, takes: Sequence[OpenTake]) -> OpenTake:
    """Of several takes the one that was sent last before the file came."""
    before = [take for take in takes if take.sent and take.sent <= seen.time]
    return (
        max(before, key=lambda take: take.sent)
        if before and len({take.row for take in takes}) > 1
        else takes[0]
    )


def _by_order(
    files: Sequence[SeenFile], left: dict[str, OpenTake], found: dict[Path, TakeMatch]
) -> None:
    """Guess the rest: files in order of time, each to a take whose ratio may be its, the first that
    was sent shortly before it came; if nothing is known of when, the first of the sheet.
    """
    for seen in files:
        fits = [
            take
            for take in left.values()
            if not (seen.size and take.size)
            or abs(seen.size[0] / seen.size[1] - take.size[0] / take.size[1]) < 0.02
        ]
        if not fits:
            continue
        before = [take for take in fits if take.sent and 0 <= seen.time - take.sent < USUAL]
        take = min(before, key=lambda one: one.sent) if before else fits[0]
        exact = seen.size is not None and seen.size == take.size
        found[seen.path] = TakeMatch(
            seen.path,
            take,
            False,
            "by its"
            f" order{' and size' if exact else ' and ratio' if seen.size and take.size else ''}"
            " only",
        )
        del left[take.take]


def _shown(slug: str) -> str:
    return slug if len(slug) <= 28 else f"{slug[:27]}…"


def seconds(when: str) -> float:
    """A time of the ledger in seconds; 0 if it is none."""
    try:
        return datetime.fromisoformat(when).timestamp()
    except ValueError:
        return 0.0


# ──── What was downloaded by hand, and the rows of a sheet that it may answer.


def looked_at(workspace: Workspace, folder: Path, name: str) -> list[TakeMatch]:
    """The files of a folder, each with the take of a sheet that it belongs to. Raises Trouble."""
    files = files_in(folder)
    if not files:
        raise Trouble(
            f"{folder} has no pictures, clips or sounds",
            "name the folder that you downloaded them to",
            2,
        )
    with opened(workspace, read_only=True) as ledger:
        sheet = Sheet(workspace, ledger, name)
        attempts: dict[str, list[dict[str, Any]]] = {}
        for one in ledger.attempts(name):
            attempts.setdefault(f"{one['row']}.{one['number']}", []).append(one)
        takes = []
        for row in sheet.rows.values():
            if row.status == REMOVED and not sheet.takes.get(row.id):
                continue
            names = [take.id for take in sheet.takes.get(row.id, ())] or [
                str(TakeId(row.id, number)) for number in range(1, row.takes + 1)
            ]
            for take in names:
                own = attempts.get(take, [])
                takes.append(
                    OpenTake(
                        row.id,
                        take,
                        row.text,
                        row.model,
                        tuple(one["task"] for one in own if one["task"]),
                        _size(row.parameters),
                        max((seconds(one["began"]) for one in own), default=0.0),
                    )
                )
    return matched(files, takes)


def _size(parameters: Mapping[str, Any]) -> tuple[int, int] | None:
    """The size that parameters ask for: width and height, 1024x768, or a ratio 3x2, 16:9."""
    values = {str(key).lower(): str(value) for key, value in parameters.items()}
    if values.get("width", "").isdigit() and values.get("height", "").isdigit():
        return int(values["width"]), int(values["height"])
    for value in values.values():
        wide, sign, high = value.replace(":", "x").partition("x")
        if sign and wide.isdigit() and high.isdigit() and int(high):
            return int(wide), int(high)
    return None


def keep_matched(
    keeper: Keeper, name: str, matches: list[TakeMatch], remarks: Remarks
) -> list[One]:
    """Keep the files with the rows that they answer."""
    kept = []
    with opened(keeper.workspace, read_only=True) as ledger:
        for match in matches:
            if match.take is None:
                continue
            row = ledger.row(name, match.take.row)
            if row is not None:
                source = (
                    {}
                    if remarks.source
                    else {
                        "source": (
                            f"downloaded by hand ({'sure' if match.sure else 'a guess'}:"
                            f" {match.why})"
                        )
                    }
                )
                kept.append(
                    keeper.keep(
                        match.path,
                        record_of_row(row),
                        remarks,
                        sheet=name,
                        take=match.take.take,
                        cost=row.cost,
                        currency=row.currency,
                        use=keeper.use_of(row.model),
                        **source,
                    )
                )
    return kept
