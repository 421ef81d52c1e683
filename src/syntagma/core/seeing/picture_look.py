"""A picture's palette and light: clusters in a perceptual colour space, and a few figures that have plain names."""

from typing import NamedTuple

import numpy as np

from syntagma.core.seeing.colour_space import distance, oklab

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
    """The light: `key` is the median lightness (0 to 1), `contrast` how far dark and light lie apart, `warmth` how yellow (or, below 0, blue) the whole is,
    `colourful` how strong colours are, `side` where it is brighter (left, right, above, below, or "")."""

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
        return "strong contrast" if self.contrast > 0.58 else "little contrast" if self.contrast < 0.3 else "middling contrast"

    @property
    def warmth_word(self) -> str:
        return "warm" if self.warmth > 0.022 else "cold" if self.warmth < -0.022 else "neither warm nor cold"


class PictureLook(NamedTuple):
    """What a picture looks like: its palette by share, its light, how sharp it is (0 soft to 1 crisp), its size in pixels."""

    palette: tuple[Colour, ...]
    light: Light
    sharpness: float
    size: tuple[int, int]


def look(pixels: np.ndarray, size: tuple[int, int] | None = None) -> PictureLook:
    """Look at a picture: height × width × 3, 0 to 255, already small (some 256 on the longer side); `size` is that of the whole (width, height)."""
    rgb = pixels.astype(float) / 255.0
    high, wide = rgb.shape[:2]
    lab = oklab(rgb)
    return PictureLook(tuple(palette(lab.reshape(-1, 3))), _light(lab), _sharpness(lab[..., 0]), size or (wide, high))


def palette(lab: np.ndarray, seed: int = 1) -> list[Colour]:
    """The colours of pixels (many × 3), the largest share first: k-means from far apart starting points, then clusters that look alike joined."""
    random = np.random.default_rng(seed)
    points = lab if len(lab) <= PIXELS else lab[random.choice(len(lab), PIXELS, replace=False)]
    weight = np.array([0.7, 1.6, 1.6]) ** 0.5
    scaled = points * weight
    centres = _begun(scaled, random)
    for _ in range(24):
        nearest = _nearest(scaled, centres)
        moved = np.array([np.median(scaled[nearest == i], axis=0) if (nearest == i).any() else centre for i, centre in enumerate(centres)])
        if np.abs(moved - centres).max() < 1e-4:
            break
        centres = moved
    nearest = _nearest(scaled, centres)
    shares = np.bincount(nearest, minlength=len(centres)) / len(scaled)
    found = _joined([Colour(centre / weight, float(share)) for centre, share in zip(centres, shares, strict=True) if share > 0])
    told = [one for one in found if one.share >= SMALLEST] or found[:1]
    whole = sum(one.share for one in told)
    return sorted((one._replace(share=one.share / whole) for one in told), key=lambda one: -one.share)


def _begun(scaled: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Starting points: the middle, then each time one of those that are farthest from all so far (in the top hundredth, so noise does not win)."""
    centres = [np.median(scaled, axis=0)]
    while len(centres) < MOST_COLOURS * 2:
        apart = np.min([((scaled - centre) ** 2).sum(axis=1) for centre in centres], axis=0)
        limit = np.quantile(apart, 0.985)
        far = np.flatnonzero(apart >= limit)
        centres.append(np.median(scaled[far[: max(1, len(far) // 2)]], axis=0) if len(centres) % 2 else scaled[random.choice(far)])
    return np.array(centres)


def _nearest(scaled: np.ndarray, centres: np.ndarray) -> np.ndarray:
    return np.argmin(((scaled[:, None, :] - centres[None, :, :]) ** 2).sum(axis=2), axis=1)


def _joined(found: list[Colour]) -> list[Colour]:
    """Clusters with those that look alike joined, the nearest first; at last no more than are reported."""
    while len(found) > 1:
        labs = np.array([one.lab for one in found])
        apart = distance(labs[:, None, :], labs[None, :, :]) + np.eye(len(found)) * 9
        least = float(apart.min())
        if least > NEAR and len(found) <= MOST_COLOURS:
            break
        i, j = divmod(int(np.argmin(apart)), len(found))
        a, b = found[i], found[j]
        share = a.share + b.share
        found = [one for n, one in enumerate(found) if n not in (i, j)] + [Colour((a.lab * a.share + b.lab * b.share) / share, share)]
    return found


def _light(lab: np.ndarray) -> Light:
    light = lab[..., 0]
    low, middle, high = (float(np.quantile(light, q)) for q in (0.05, 0.5, 0.95))
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    warmth = float((lab[..., 2] + 0.35 * lab[..., 1]).mean())
    tall, wide = light.shape
    sides = {
        "left": light[:, : wide // 3].mean() - light[:, -(wide // 3) :].mean(), "above": light[: tall // 3].mean() - light[-(tall // 3) :].mean(),
    } if tall > 3 and wide > 3 else {}  # fmt: skip
    name, much = max(sides.items(), key=lambda one: abs(one[1]), default=("", 0.0))
    opposite = {"left": "right", "above": "below"}
    side = "" if abs(much) < 0.1 else name if much > 0 else opposite[name]
    return Light(middle, high - low, warmth, float(np.quantile(chroma, 0.75)), side)


def detail(grey: np.ndarray) -> float:
    """How much fine detail a grey picture has: the variance of its Laplacian. Only pictures of one size can be compared.

    Source: J. L. Pech-Pacheco and others, Diatom autofocusing in brightfield microscopy: a comparative study (2000).
    """
    grey = grey.astype(float)
    return float((grey[1:-1, 2:] + grey[1:-1, :-2] + grey[2:, 1:-1] + grey[:-2, 1:-1] - 4 * grey[1:-1, 1:-1]).var()) if min(grey.shape) > 2 else 0.0


def _sharpness(light: np.ndarray) -> float:
    """How crisp edges are: the steepest steps from one pixel to the next, against how far dark and light lie apart in the neighbourhood."""
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
