"""The storyboard of a film as one HTML page: no script, no request to anywhere; on paper three frames per line."""

from collections.abc import Sequence

from syntagma.app.film.costs import FilmBill
from syntagma.app.workspace.html_pages import page
from syntagma.core.film.cutting.strip import SceneStrip

ROOM = 1120  # pixels that the longest scene may take without scrolling
LEAST, MOST = 30.0, 62.0  # pixels a second
WIDEST, HIGHEST = 148, 190  # pixels of a frame on the screen
TRACKS = ("voice", "sfx", "ambience", "music")


def strip_page(title: str, model: str, scenes: Sequence[SceneStrip], clips: int, seconds: float, bills: Sequence[FilmBill], ratio: str = "16:9") -> str:
    """The page, its frames in the film's `ratio`."""
    longest = max((scene.seconds for scene in scenes), default=1.0)
    scale = min(max(ROOM / longest, LEAST), MOST)
    return page(
        "strip.html.j2", title=title, model=model, shots=sum(len({box.shot.name for box in scene.boxes}) for scene in scenes), clips=clips, length=length(seconds),
        scenes=[_scene(number, scene, scale) for number, scene in enumerate(scenes)], bills=[bill.row for bill in bills], frame=_frame(ratio),
    )  # fmt: skip


def _frame(ratio: str) -> dict[str, float]:
    """The part of the drawing plane (160 × 90, more of it around) that a frame of this ratio shows, and its width in pixels."""
    wide, _, high = ratio.partition(":")
    shape = float(wide) / float(high)
    if shape >= 16 / 9:
        return {"left": round(80 - 45 * shape, 1), "top": 0, "wide": round(90 * shape, 1), "tall": 90, "pixels": WIDEST}
    tall = 160 / shape
    return {"left": 0, "top": round(45 - tall / 2, 1), "wide": 160, "tall": round(tall, 1), "pixels": round(min(WIDEST, HIGHEST * shape))}


def length(seconds: float) -> str:
    """A length of time: 48 s, 2 min 5 s."""
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes} min {rest} s" if minutes else f"{rest} s"


def _scene(number: int, scene: SceneStrip, scale: float) -> dict[str, object]:
    boxes = []
    clips: list[dict[str, object]] = []
    for i, box in enumerate(scene.boxes):
        shot, drawn = box.shot, box.drawing
        size = shot.cells.get("size", "")
        said = [f"{line.speaker.upper()}: “{line.text}”" for line in shot.lines]
        what = shot.cells.get("action", "") or ", ".join(shot.who) or shot.cells.get("setting", "")
        boxes.append(
            {
                "key": f"{number}-{i}", "number": shot.number, "wide": round(box.seconds * scale, 1), "seconds": f"{box.seconds:.3g}", "flag": any(f.kind != "remark" for f in box.findings),
                "size": ", ".join(part for part in (size, shot.cells.get("angle", "")) if part), "move_words": shot.cells.get("move", ""), "what": what, "said": said,
                "title": ". ".join(part for part in (f"{shot.name} {size}".strip(), what, *said) if part), "figures": drawn.figures, "horizon": drawn.horizon,
                "tilt": drawn.tilt, "detail": drawn.detail, "move": drawn.move, "light": drawn.light, "stills": box.stills,
            }
        )  # fmt: skip
        left, wide = round(box.start * scale, 1), round(box.seconds * scale, 1)
        if clips and clips[-1]["name"] == box.clip:
            clips[-1]["wide"] = round(left + wide - 4 - float(str(clips[-1]["left"])), 1)
        else:
            clips.append({"name": box.clip, "left": left, "wide": wide - 4})
    tracks = []
    for track in TRACKS:
        bars = [bar for bar in scene.bars if bar.track == track]
        if bars:
            said = [{"left": round(bar.start * scale, 1), "wide": max(18, round((bar.stop - bar.start) * scale - 3, 1)), "text": f"{bar.who.upper()}: {bar.text}" if bar.who else bar.text} for bar in bars]
            tracks.append({"name": track, "bars": said})
    findings = [finding for box in scene.boxes for finding in box.findings]
    return {
        "number": scene.number, "place": scene.place, "at": length(scene.start) + " in", "seconds": f"{scene.seconds:.3g}", "wide": round(scene.seconds * scale + 4),
        "boxes": boxes, "clips": clips, "tracks": tracks, "findings": findings,
    }  # fmt: skip
