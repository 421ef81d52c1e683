"""One picture brought to what somebody asked for: size, resolution, ground, format; its colour profile kept, its prompt left out unless asked."""

import io
from typing import Any, NamedTuple

from PIL import Image, ImageOps

from syntagma.formats.metadata.pictures import bare, signed
from syntagma.formats.metadata.xmp import Properties
from syntagma.storage.trouble import Trouble

FITS = ("inside", "cover")
FORMATS = {"png": "PNG", "jpeg": "JPEG", "webp": "WEBP"}
_LANCZOS = Image.Resampling.LANCZOS


class Delivery(NamedTuple):
    """What pictures are brought to. `size` in pixels (None: as it is); `fit`: inside, or cover (the rest is cropped); `ground`: transparent, a
    colour (#rrggbb) behind what is see-through and round what is smaller, or "" for neither; `cut`: a plain ground is cut out."""

    size: tuple[int, int] | None = None
    ppi: int = 0
    fit: str = "inside"
    ground: str = ""
    cut: bool = False
    tolerance: float = 0.0
    format: str = ""


class Delivered(NamedTuple):
    """A picture ready: its bytes, its ending, its size, how many times it was enlarged, and the findings on it."""

    data: bytes
    ending: str
    size: tuple[int, int]
    times: float
    said: tuple[str, ...] = ()


def delivered(data: bytes, wanted: Delivery, properties: Properties | None) -> Delivered:
    """Bring a picture to what is wanted; with `properties` it carries its prompt, or only whose it is. Raises Trouble if it can't be read."""
    said: list[str] = []
    try:
        with Image.open(io.BytesIO(data)) as opened:
            kind = opened.format or "PNG"
            profile = opened.info.get("icc_profile")
            image: Image.Image = ImageOps.exif_transpose(opened)
            image.load()
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise Trouble(f"it can't be read as a picture ({type(error).__name__})") from None
    image = image.convert("RGBA" if "A" in image.getbands() or "transparency" in image.info else "RGB")
    if wanted.cut:
        image = _cut(image, wanted, said)
    before = image.size
    image = _sized(image, wanted)
    times = max(image.size[0] / before[0], image.size[1] / before[1]) if wanted.fit == "cover" else min(image.size[0] / before[0], image.size[1] / before[1])
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
    return Delivered(signed(made, properties) if properties else bare(made), f".{'jpg' if form == 'JPEG' else form.lower()}", image.size, times, tuple(said))


def _cut(image: Image.Image, wanted: Delivery, said: list[str]) -> Image.Image:
    import numpy as np  # heavy: only a cut-out pays for it

    from syntagma.core.seeing.cut_out import TOLERANCE, cut_out

    if image.mode == "RGBA" and image.getextrema()[3][0] == 0:  # type: ignore[index]
        return image  # it has no ground any more
    found = cut_out(np.asarray(image.convert("RGB"), dtype=float) / 255.0, wanted.tolerance or TOLERANCE)
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
        image = image.convert("RGBa").resize(size, _LANCZOS).convert("RGBA") if image.mode == "RGBA" else image.resize(size, _LANCZOS)
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
    ground.alpha_composite(image.convert("RGBA"), ((size[0] - image.size[0]) // 2, (size[1] - image.size[1]) // 2))
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
        options["compress_level"] = 4  # a fourteenth more bytes than by the level that is usual, in two fifths of the time
    image.save(out, form, **options)
    return out.getvalue()


def contact_sheets(pictures: list[tuple[str, bytes]], title: str) -> list[bytes]:
    """Pages with all pictures (name, bytes), small, each with its whole name: PNG, 1654 × 2339 pixels (A4 at 200 to the inch)."""
    from PIL import ImageDraw, ImageFont

    wide, high, columns, rows, edge = 1654, 2339, 4, 5, 80
    cell, tall = (wide - 2 * edge) // columns, (high - 2 * edge - 100) // rows
    large, below = ImageFont.load_default(44), 92  # pixels for a name
    pages = []
    count = max(1, -(-len(pictures) // (columns * rows)))
    for number in range(count):
        sheet = Image.new("RGB", (wide, high), "#fffdf8")
        pen = ImageDraw.Draw(sheet)
        pen.text((edge, edge), title + (f"  ({number + 1} of {count})" if count > 1 else ""), fill="#22252b", font=large)
        for at, (name, data) in enumerate(pictures[number * columns * rows : (number + 1) * columns * rows]):
            left, top = edge + at % columns * cell, edge + 100 + at // columns * tall
            with Image.open(io.BytesIO(data)) as opened:
                thumb = opened.convert("RGBA")
            thumb.thumbnail((cell - 24, tall - below - 8), _LANCZOS)
            ground = Image.new("RGBA", thumb.size, "#e9e4d8")
            ground.alpha_composite(thumb)
            sheet.paste(ground.convert("RGB"), (left + (cell - 24 - thumb.size[0]) // 2, top + (tall - below - 8 - thumb.size[1]) // 2))
            size, lines = _name_lines(name, cell - 24, below)
            pen.text((left, top + tall - below), "\n".join(lines), fill="#5f636b", font=ImageFont.load_default(size), spacing=3)
        pages.append(_saved(sheet, "PNG", 200, None))
    return pages


def _name_lines(name: str, width: int, height: int) -> tuple[int, list[str]]:
    """A name in lines that fit below a picture, whole, and the size of the type: 20 pixels, smaller if it is very long. Lines end after a
    hyphen, a space, a dot or a low line if they can."""
    from PIL import ImageFont

    for size in range(20, 7, -2):
        font, lines, rest = ImageFont.load_default(size), [], name
        while rest:
            fits = next((n for n in range(len(rest), 1, -1) if font.getlength(rest[:n]) <= width), 1)
            if fits < len(rest):
                fits = max((i + 1 for i, sign in enumerate(rest[:fits]) if sign in "-_. "), default=fits)
            lines.append(rest[:fits])
            rest = rest[fits:]
        if len(lines) * (size + 6) <= height:
            break
    return size, lines
