"""What a picture looks like: a perceptual colour space, colour words, palette and light."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

# ──── A perceptual colour space, and the words for colours in it.
#
# Source: B. Ottosson, A perceptual color space for image processing (2020): OKLab, in which
# distances are about as large as they look.


_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)

GREY = 0.012  # how colourful what counts as grey may be
TINTED = 0.019  # from which on a name promises a colour: bone white, slate, ice blue


def oklab(rgb: np.ndarray) -> np.ndarray:
    """… × 3 of sRGB (0 to 1) as OKLab: lightness 0 to 1, green to red, blue to yellow."""
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    return np.cbrt(linear @ _LMS.T) @ _LAB.T


def of_hex(code: str) -> np.ndarray:
    """A colour written #rrggbb, in OKLab."""
    return oklab(np.array([int(code[i : i + 2], 16) for i in (1, 3, 5)]) / 255.0)


def as_hex(lab: np.ndarray) -> str:
    """An OKLab colour as #rrggbb."""
    linear = np.linalg.inv(_LMS) @ (np.linalg.inv(_LAB) @ lab) ** 3
    linear = np.clip(linear, 0.0, 1.0)
    rgb = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    return "#" + "".join(f"{round(float(value) * 255):02x}" for value in rgb)


def distance(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """How far colours look apart: hue and colourfulness count somewhat more than lightness."""
    apart = a - b
    return np.sqrt(0.7 * apart[..., 0] ** 2 + 1.6 * (apart[..., 1] ** 2 + apart[..., 2] ** 2))


def nearest_word(lab: np.ndarray, words: Mapping[str, np.ndarray]) -> str:
    """The word for a colour; one that is hardly coloured gets a word for greys."""
    if np.hypot(lab[1], lab[2]) < GREY:
        words = {
            word: one for word, one in words.items() if np.hypot(one[1], one[2]) < GREY
        } or words
    return min(words, key=lambda word: float(distance(lab, words[word])))


def colours_in(text: str, words: Mapping[str, np.ndarray]) -> list[np.ndarray]:
    """The colours that a text names ("ink blue and lamp orange"), the longest words first."""
    found, left = [], f" {text.lower().replace('-', ' ').replace(',', ' ')} "
    for word in sorted(words, key=lambda one: (-len(one), one)):
        if f" {word} " in left:
            left = left.replace(f" {word} ", "  ", 1)
            found.append(words[word])
    return found


def matched(named: Sequence[np.ndarray], seen: Sequence[tuple[np.ndarray, float]]) -> float:
    """How well a named palette matches a seen one (0: it does not, 1: wholly): the share of the
    picture that its colours cover, and whether each of them is there.
    """
    if not named:
        return 0.0
    apart = np.array([[float(distance(one, other)) for other, _ in seen] for one in named])
    answers = np.array([[not _contrary(one, other) for other, _ in seen] for one in named])
    near = np.clip(1.25 - apart / 0.2, 0.0, 1.0) * answers
    shares = np.array([share for _, share in seen])
    covered = float((near.max(axis=0) * shares).sum() / shares.sum())
    there = float(near.max(axis=1).mean())
    return covered * there


def _contrary(named: np.ndarray, seen: np.ndarray) -> bool:
    """Does a named colour promise a tint that is not there (ice blue for grey), or the opposite of
    the one that is (slate for sepia)?
    """
    tint, there = float(np.hypot(named[1], named[2])), float(np.hypot(seen[1], seen[2]))
    return tint >= TINTED and (there < GREY or float(named[1:] @ seen[1:]) < 0)


# ──── A picture's palette and light: clusters in a perceptual colour space, and a few figures that
# have plain names.


MOST_COLOURS = 7
NEAR = 0.075  # clusters that look no further apart are one
SMALLEST = 0.025  # share of the picture below which a cluster is not reported
REACH = 6  # pixels in which an edge that is looked at goes from dark to light
PIXELS = 8_000  # that are looked at


class Colour(NamedTuple):
    """A colour of the palette, in OKLab, with its share of the picture."""

    lab: np.ndarray
    share: float


class Light(NamedTuple):
    """The light: `key` is the median lightness (0 to 1), `contrast` how far dark and light lie
    apart, `warmth` how yellow (or, below 0, blue) the whole is, `colourful` how strong colours are,
    `side` where it is brighter (left, right, above, below, or "").
    """

    key: float
    contrast: float
    warmth: float
    colourful: float
    side: str

    @property
    def key_word(self) -> str:
        return "high key" if self.key > 0.78 else "low key" if self.key < 0.38 else "middle key"

    @property
    def contrast_word(self) -> str:
        return (
            "strong contrast"
            if self.contrast > 0.58
            else "little contrast"
            if self.contrast < 0.3
            else "middling contrast"
        )

    @property
    def warmth_word(self) -> str:
        return (
            "warm"
            if self.warmth > 0.022
            else "cold"
            if self.warmth < -0.022
            else "neither warm nor cold"
        )


class PictureLook(NamedTuple):
    """What a picture looks like: its palette by share, its light, how sharp it is (0 soft to 1
    crisp), its size in pixels.
    """

    palette: tuple[Colour, ...]
    light: Light
    sharpness: float
    size: tuple[int, int]


def look(pixels: np.ndarray, size: tuple[int, int] | None = None) -> PictureLook:
    """Look at a picture: height × width × 3, 0 to 255, already small (some 256 on the longer side);
    `size` is that of the whole (width, height).
    """
    rgb = pixels.astype(float) / 255.0
    high, wide = rgb.shape[:2]
    lab = oklab(rgb)
    return PictureLook(
        tuple(palette(lab.reshape(-1, 3))),
        _light(lab),
        _sharpness(lab[..., 0]),
        size or (wide, high),
    )


def palette(lab: np.ndarray, seed: int = 1) -> list[Colour]:
    """The colours of pixels (many × 3), the largest share first: k-means from far apart starting
    points, then clusters that look alike joined.
    """
    random = np.random.default_rng(seed)
    points = lab if len(lab) <= PIXELS else lab[random.choice(len(lab), PIXELS, replace=False)]
    weight = np.array([0.7, 1.6, 1.6]) ** 0.5
    scaled = points * weight
    centres = _begun(scaled, random)
    for _ in range(24):
        nearest = _nearest(scaled, centres)
        moved = np.array(
            [
                np.median(scaled[nearest == i], axis=0) if (nearest == i).any() else centre
                for i, centre in enumerate(centres)
            ]
        )
        if np.abs(moved - centres).max() < 1e-4:
            break
        centres = moved
    nearest = _nearest(scaled, centres)
    shares = np.bincount(nearest, minlength=len(centres)) / len(scaled)
    found = _joined(
        [
            Colour(centre / weight, float(share))
            for centre, share in zip(centres, shares, strict=True)
            if share > 0
        ]
    )
    told = [one for one in found if one.share >= SMALLEST] or found[:1]
    whole = sum(one.share for one in told)
    return sorted(
        (one._replace(share=one.share / whole) for one in told), key=lambda one: -one.share
    )


def _begun(scaled: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Starting points: the middle, then each time one of those that are farthest from all so far
    (in the top hundredth, so noise does not win).
    """
    centres = [np.median(scaled, axis=0)]
    while len(centres) < MOST_COLOURS * 2:
        apart = np.min([((scaled - centre) ** 2).sum(axis=1) for centre in centres], axis=0)
        limit = np.quantile(apart, 0.985)
        far = np.flatnonzero(apart >= limit)
        centres.append(
            np.median(scaled[far[: max(1, len(far) // 2)]], axis=0)
            if len(centres) % 2
            else scaled[random.choice(far)]
        )
    return np.array(centres)


def _nearest(scaled: np.ndarray, centres: np.ndarray) -> np.ndarray:
    return np.argmin(((scaled[:, None, :] - centres[None, :, :]) ** 2).sum(axis=2), axis=1)


def _joined(found: list[Colour]) -> list[Colour]:
    """Clusters with those that look alike joined, the nearest first; at last no more than are
    reported.
    """
    while len(found) > 1:
        labs = np.array([one.lab for one in found])
        apart = distance(labs[:, None, :], labs[None, :, :]) + np.eye(len(found)) * 9
        least = float(apart.min())
        if least > NEAR and len(found) <= MOST_COLOURS:
            break
        i, j = divmod(int(np.argmin(apart)), len(found))
        a, b = found[i], found[j]
        share = a.share + b.share
        found = [one for n, one in enumerate(found) if n not in (i, j)] + [
            Colour((a.lab * a.share + b.lab * b.share) / share, share)
        ]
    return found


def _light(lab: np.ndarray) -> Light:
    light = lab[..., 0]
    low, middle, high = (float(np.quantile(light, q)) for q in (0.05, 0.5, 0.95))
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    warmth = float((lab[..., 2] + 0.35 * lab[..., 1]).mean())
    tall, wide = light.shape
    sides = (
        {
            "left": light[:, : wide // 3].mean() - light[:, -(wide // 3) :].mean(),
            "above": light[: tall // 3].mean() - light[-(tall // 3) :].mean(),
        }
        if tall > 3 and wide > 3
        else {}
    )
    name, much = max(sides.items(), key=lambda one: abs(one[1]), default=("", 0.0))
    opposite = {"left": "right", "above": "below"}
    side = "" if abs(much) < 0.1 else name if much > 0 else opposite[name]
    return Light(middle, high - low, warmth, float(np.quantile(chroma, 0.75)), side)


def detail(grey: np.ndarray) -> float:
    """How much fine detail a grey picture has: the variance of its Laplacian. Only pictures of one
    size can be compared.

    Source: J. L. Pech-Pacheco and others, Diatom autofocusing in brightfield microscopy: a
    comparative study (2000).
    """
    grey = grey.astype(float)
    return (
        float(
            (
                grey[1:-1, 2:]
                + grey[1:-1, :-2]
                + grey[2:, 1:-1]
                + grey[:-2, 1:-1]
                - 4 * grey[1:-1, 1:-1]
            ).var()
        )
        if min(grey.shape) > 2
        else 0.0
    )


def _sharpness(light: np.ndarray) -> float:
    """How crisp edges are: the steepest steps from one pixel to the next, against how far dark and
    light lie apart in the neighbourhood.
    """
    if min(light.shape) < 8:
        return 0.0
    found = []
    for grid in (light, light.T):
        wide = np.abs(grid[:, REACH:] - grid[:, :-REACH])
        steps = np.abs(np.diff(grid, axis=1))
        steep = np.max([steps[:, i : i + wide.shape[1]] for i in range(REACH)], axis=0)
        edges = wide > max(0.08, 0.5 * float(np.quantile(wide, 0.998)))
        found += (steep[edges] / wide[edges]).tolist()
    return float(np.clip((np.median(found) - 0.3) / 0.3, 0.0, 1.0)) if found else 0.0
