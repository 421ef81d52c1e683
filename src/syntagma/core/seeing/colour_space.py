"""A perceptual colour space, and the words for colours in it.

Source: B. Ottosson, A perceptual color space for image processing (2020): OKLab, in which distances are about as large as they look.
"""

from collections.abc import Mapping, Sequence

import numpy as np

_LMS = np.array([[0.4122214708, 0.5363325363, 0.0514459929], [0.2119034982, 0.6806995451, 0.1073969566], [0.0883024619, 0.2817188376, 0.6299787005]])
_LAB = np.array([[0.2104542553, 0.7936177850, -0.0040720468], [1.9779984951, -2.4285922050, 0.4505937099], [0.0259040371, 0.7827717662, -0.8086757660]])

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
        words = {word: one for word, one in words.items() if np.hypot(one[1], one[2]) < GREY} or words
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
    """How well a named palette matches a seen one (0: it does not, 1: wholly): the share of the picture that its colours cover, and whether each of
    them is there."""
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
    """Does a named colour promise a tint that is not there (ice blue for grey), or the opposite of the one that is (slate for sepia)?"""
    tint, there = float(np.hypot(named[1], named[2])), float(np.hypot(seen[1], seen[2]))
    return tint >= TINTED and (there < GREY or float(named[1:] @ seen[1:]) < 0)
