"""What the stand-in draws: a plain picture of what a prompt says, by seed: ground and light by its colour and light words, a figure a kind of subject,
noise. Warm and cold, dark and bright, near and far differ measurably; a clip is an animated PNG."""

import re
from io import BytesIO
from random import Random
from typing import Any

_WARM = "warm amber lamp lamps candle fire sun sunlight golden gold orange red bulb lantern sodium tungsten apricot rust terracotta sunset"
_COLD = "cold blue moon moonlight ice snow teal storm grey steel fluorescent slate frost winter sea dawn"
_DARK = "night dark midnight moonless black shadow silhouette noir dusk candle before-dawn underground"
_BRIGHT = "noon bright white daylight sunny snow high-key clear morning overcast studio day"
_NEAR = "close-up macro insert portrait choker detail close face hands headshot"
_FAR = "wide aerial establishing landscape panorama distant far tableau extreme"
_THINGS = {
    "person": "man woman pilot purser keeper girl boy baker dancer cook porter guest teacher fisherman person people passenger captain",
    "animal": "dog cat fox bird gull horse hen lurcher",
    "vessel": "ferry boat launch ship barge vessel tug skiff trawler barque dinghy yacht sail canoe liner",
    "house": "house lighthouse office hut tower bridge window town village city kiosk",
}  # fmt: skip
WIDTH, HEIGHT = 384, 256


def _count(words: list[str], known: str) -> int:
    names = set(known.split())
    return sum(word in names for word in words)


def picture(text: str, seed: int, size: tuple[int, int] = (WIDTH, HEIGHT), step: float = 0.0) -> Any:
    """A picture of a prompt (a Pillow image). `step` moves the figure, 0 to 1, for the pictures of a clip."""
    import numpy as np
    from PIL import Image, ImageDraw

    words = re.findall(r"[a-z-]+", text.lower())
    random = Random(f"{text} {seed}")
    warm, cold = _count(words, _WARM), _count(words, _COLD)
    dark, bright = _count(words, _DARK), _count(words, _BRIGHT)
    near, far = _count(words, _NEAR), _count(words, _FAR)
    light = 0.5 + 0.16 * max(-2, min(2, bright - dark)) + random.uniform(-0.03, 0.03)
    tint = max(-1.0, min(1.0, 0.35 * (warm - cold))) + random.uniform(-0.04, 0.04)
    base = np.array([0.5 + 0.3 * tint, 0.5 + 0.04 * tint, 0.5 - 0.3 * tint])
    wide, high = size
    horizon = int(high * random.uniform(0.55, 0.7))
    sky = np.linspace(1.15, 0.85, high)[:, None, None]
    ground = np.where(np.arange(high)[:, None, None] > horizon, 0.7, 1.0)
    field = np.clip(base[None, None, :] * sky * ground * (light / 0.5), 0, 1) * np.ones((high, wide, 1))
    noise = np.random.default_rng(random.randrange(2**32)).normal(0, 0.02, (high, wide, 1))
    image = Image.fromarray((np.clip(field + noise, 0, 1) * 255).astype("uint8"), "RGB")
    draw = ImageDraw.Draw(image)
    scale = 0.34 * (1.9 if near > far else 0.45 if far > near else 1.0)
    ink = tuple(int(255 * min(1.0, max(0.0, c * (0.25 if light > 0.45 else 1.9)))) for c in base)
    at = int(wide * (0.35 + 0.25 * random.random() + 0.15 * step))
    tall = int(high * scale)
    kinds = [kind for kind, known in _THINGS.items() if _count(words, known)] or ["thing"]
    for number, kind in enumerate(kinds[:3]):
        _figure(draw, kind, at + number * int(tall * 0.8) - int(tall * 0.4), horizon + int(tall * 0.3), tall, ink)
    if _count(words, "lettering title poster headline label typography"):
        for line in range(2):
            draw.rectangle((int(wide * 0.2), int(high * (0.08 + 0.09 * line)), int(wide * (0.8 - 0.15 * line)), int(high * (0.13 + 0.09 * line))), fill=ink)
    return image


def _figure(draw: Any, kind: str, x: int, floor: int, tall: int, ink: tuple[int, ...]) -> None:
    """A plain figure: what it is shows in its outline."""
    w = max(4, tall // 4)
    if kind == "person":
        draw.ellipse((x - w // 2, floor - tall, x + w // 2, floor - tall + w), fill=ink)
        draw.polygon([(x - w, floor), (x - w // 2, floor - tall + w), (x + w // 2, floor - tall + w), (x + w, floor)], fill=ink)
    elif kind == "animal":
        draw.ellipse((x - w, floor - w, x + w, floor), fill=ink)
        draw.ellipse((x + w // 2, floor - w - w // 2, x + w + w // 2, floor - w // 3), fill=ink)
    elif kind == "vessel":
        draw.polygon([(x - 2 * w, floor - w), (x + 2 * w, floor - w), (x + w, floor), (x - w, floor)], fill=ink)
        draw.rectangle((x - w // 2, floor - 2 * w, x + w // 2, floor - w), fill=ink)
    elif kind == "house":
        draw.rectangle((x - w, floor - 2 * w, x + w, floor), fill=ink)
        draw.polygon([(x - w - 4, floor - 2 * w), (x, floor - 3 * w), (x + w + 4, floor - 2 * w)], fill=ink)
    else:
        draw.ellipse((x - w, floor - 2 * w, x + w, floor), fill=ink)


def shaped(area: int, ratio: float) -> tuple[int, int]:
    """Width and height of an area, in a ratio."""
    wide = max(16, min(area // 16, round((area * ratio) ** 0.5)))
    return wide, max(16, round(wide / ratio))


def as_png(text: str, seed: int, clip: bool = False, ratio: float = 0.0) -> bytes:
    """The file of a prompt: a PNG, an animated one for a clip; in the ratio that was asked for (0: nobody said)."""
    out = BytesIO()
    if clip:
        size = shaped(192 * 108, ratio or 192 / 108)
        frames = [picture(text, seed, size, n / 5) for n in range(6)]
        frames[0].save(out, "PNG", save_all=True, append_images=frames[1:], duration=160, loop=0)
    else:
        picture(text, seed, shaped(WIDTH * HEIGHT, ratio or WIDTH / HEIGHT)).save(out, "PNG")
    return out.getvalue()
