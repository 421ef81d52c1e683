"""The results of a film's clips, as a table says: clip, file, seconds, speech end, chosen; and the last picture of a chosen one."""

from collections import deque
from collections.abc import Mapping, Sequence
from importlib.util import find_spec
from pathlib import Path

from syntagma.app.film.film_prompts import FilmPrompts
from syntagma.app.workspace.tables import read_table
from syntagma.core.diagnostics.places import Mistake, Refused
from syntagma.core.film.cutting.film_cut import ClipTake
from syntagma.core.film.shots.shot_list import YES, number_of
from syntagma.storage.files import make_folder, whole_file
from syntagma.storage.trouble import Trouble

_NAMES = {"clip": "clip", "name": "clip", "file": "file", "seconds": "seconds", "speech end": "speech end", "chosen": "chosen"}


def read_takes(source: str, known: Sequence[str]) -> dict[str, list[ClipTake]]:
    """The takes of each clip, the chosen one first (the first, if none is). Raises Refused with every mistake."""
    headings, rows, mistakes = read_table(source)
    names = {heading: _NAMES.get(heading.strip().lower(), "") for heading in headings}
    missing = {"clip", "file"} - set(names.values())
    if missing:
        mistakes = [*mistakes, Mistake(f"the column {' and the column '.join(sorted(missing))} is missing", "its columns are clip, file, seconds, speech end, chosen", source, 1, 1)]
    found: dict[str, list[ClipTake]] = {}
    for line, cells in rows if not missing else ():
        row = {names[heading]: cell.strip() for heading, cell in cells.items() if names.get(heading)}
        wrong = [key for key in ("seconds", "speech end") if row.get(key) and number_of(row[key]) is None]
        mistakes += [Mistake(f"“{row[key]}” is not a number of seconds", "write 5.8", source, line, 1) for key in wrong]
        if row.get("clip", "") not in known:
            mistakes.append(Mistake(f"no clip is called “{row.get('clip', '')}”", f"the clips are {', '.join(known[:12])}{' …' if len(known) > 12 else ''}", source, line, 1))
        elif not row.get("file"):
            mistakes.append(Mistake(f"the take of {row['clip']} has no file", "name the file of the result", source, line, 1))
        elif not wrong:
            take = ClipTake(row["file"], number_of(row.get("seconds", "")) or 0.0, number_of(row.get("speech end", "")) or 0.0, row.get("chosen", "").lower() in YES)
            found.setdefault(row["clip"], []).append(take)
    if mistakes:
        raise Refused(list(mistakes))
    return {clip: sorted(takes, key=lambda take: not take.chosen) for clip, takes in found.items()}


def frames_wanted(prompts: FilmPrompts) -> list[tuple[str, str]]:
    """(clip, file) of each last picture that the next clip begins with."""
    found = []
    for made in prompts.made:
        found += [(need["of"], need["file"]) for need in made.needs if need["what"] == "last picture"]
    return found


def save_frames(prompts: FilmPrompts, takes: Mapping[str, Sequence[ClipTake]], folder: Path) -> list[str]:
    """Save the last picture of each chosen take that a continuation begins with, where the package for video is installed; return what there
    is to say of each."""
    said = []
    for clip, file in frames_wanted(prompts):
        chosen = next((take for take in takes.get(clip, ()) if take.chosen), None)
        if chosen is None:
            continue
        source = folder / chosen.file
        if not find_spec("av"):
            said.append(f"save the last frame of {chosen.file} as {file}: the clip after {clip} begins with it (pip install 'syntagma[video]' does this for you)")
        elif not source.is_file():
            said.append(f"{chosen.file} does not exist, so the last frame of {clip} can't be saved as {file}")
        else:
            last_picture(source, folder / file)
            said.append(f"{file} is the last frame of {chosen.file}")
    return said


def last_picture(source: Path, target: Path) -> None:
    """Write the last picture of a video as PNG. Raises Trouble if the file has none that can be read."""
    import av

    try:
        with av.open(str(source)) as video:
            kept = deque(video.decode(video=0), maxlen=1)
    except (av.error.FFmpegError, IndexError, ValueError) as error:
        raise Trouble(f"{source} can't be read as a video ({error})", "save its last frame by hand", 1) from None
    if not kept:
        raise Trouble(f"{source} has no frame in it", "choose another take", 1)
    make_folder(target.parent)
    with whole_file(target) as file:
        kept[0].to_image().save(file.buffer, "PNG")

