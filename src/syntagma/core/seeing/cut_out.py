"""A thing cut out of its plain ground: flooded from the edges within a tolerance, with a
soft edge.
"""

from typing import NamedTuple

import numpy as np

from syntagma.core.seeing.pictures import distance, oklab

# how far from the ground's colour (OKLab) is still ground: the grain of a picture, a soft fall-off
TOLERANCE = 0.06
PLAIN = 0.92  # the share of the edge that is near its own middle colour, where a ground is plain
EDGE = 3  # pixels beside the ground that may be mixed with it
NEAR = 6.0  # pixels within which the thing's own colour is looked for


class CutOut(NamedTuple):
    """A picture with its ground gone: height × width × 4 (sRGB and opacity, 0 to 1); the share that
    went; how plain the ground's edge was.
    """

    pixels: np.ndarray
    gone: float
    plain: float


def cut_out(rgb: np.ndarray, tolerance: float = TOLERANCE) -> CutOut | None:
    """Cut the ground off a picture (height × width × 3, sRGB 0 to 1). None if its edge is not
    plain, so the ground can't be found.

    Only what hangs together with the edge goes: a white cup on white keeps its inside. Colours at
    the edge are freed of the ground that they were mixed with.
    """
    from scipy import ndimage

    lab = oklab(rgb)
    border = np.concatenate([lab[0], lab[-1], lab[:, 0], lab[:, -1]])
    ground = np.median(border, axis=0)
    plain = float((distance(border, ground) <= tolerance).mean())
    if plain < PLAIN:
        return None
    away = distance(lab, ground)
    parts, _ = ndimage.label(away <= tolerance)
    touching = np.unique(np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]]))
    outside = np.isin(parts, touching[touching > 0])
    opacity, colours = _edge(
        rgb, outside, np.median(np.concatenate([rgb[0], rgb[-1], rgb[:, 0], rgb[:, -1]]), axis=0)
    )
    return CutOut(
        np.concatenate([colours, opacity[..., None]], axis=-1), float(1 - opacity.mean()), plain
    )


def _edge(
    rgb: np.ndarray, outside: np.ndarray, ground: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """The opacity and the colours of a picture whose ground lies `outside`: at the edge each pixel
    is taken as the nearest colour of the thing itself, mixed with the ground; how much of it there
    is, is its opacity.
    """
    from scipy import ndimage

    beside = ndimage.binary_dilation(outside, iterations=EDGE) & ~outside
    inside = ~outside & ~beside
    opacity, colours = np.where(outside, 0.0, 1.0), rgb.copy()
    if not inside.any():
        return opacity, colours
    far, (rows, columns) = ndimage.distance_transform_edt(~inside, return_indices=True)
    mixed = beside & (far <= NEAR)
    own = rgb[rows[mixed], columns[mixed]]
    apart = own - ground
    share = ((rgb[mixed] - ground) * apart).sum(axis=-1) / np.maximum((apart**2).sum(axis=-1), 1e-6)
    opacity[mixed] = np.clip(share, 0.0, 1.0)
    colours[mixed] = np.where((share < 0.97)[:, None], own, rgb[mixed])
    return opacity, colours
