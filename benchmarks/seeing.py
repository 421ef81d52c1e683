"""Pictures of known palette and light read back: python -m benchmarks.seeing [PICTURES].

PICTURES (200) are drawn here, not by the stand-in: fields, blobs and stripes of three to five
colours with known shares, some under a gradient, all with noise and recompressed as JPEG. A colour
counts as read back if one is reported within 0.07 (OKLab) and its share within 8 points; key,
contrast and warmth where their words are those of the picture before noise and compression. With
scikit-image there, ten photographs that it ships are described in words, to be compared by eye.
"""

import sys
import tempfile
from io import BytesIO
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw

from syntagma.app.results.picture_read import see
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.seeing.pictures import distance, look, oklab

SIDE = 480


def drawn(
    random: np.random.Generator,
) -> tuple[Image.Image, list[tuple[np.ndarray, float]], np.ndarray]:
    """A picture, its colours with their shares, and its pixels before anything was done to it."""
    while True:
        colours = random.random((random.integers(3, 6), 3)) ** random.choice([0.5, 1.0, 1.8])
        lab = oklab(colours)
        apart = [float(distance(lab[i], lab[j])) for i in range(len(lab)) for j in range(i)]
        if min(apart) > 0.16:
            break
    rgb = [tuple(round(float(v) * 255) for v in one) for one in colours]
    image = Image.new("RGB", (SIDE, int(SIDE * random.choice([0.5625, 0.667, 1.0, 1.5]))), rgb[0])
    draw = ImageDraw.Draw(image)
    for colour in rgb[1:]:
        how = random.integers(3)
        for _ in range(random.integers(1, 4)):
            x, y = random.random(2) * image.size
            r = SIDE * (0.1 + 0.2 * random.random())
            if how == 0:
                draw.ellipse((x - r, y - r, x + r, y + r), fill=colour)
            elif how == 1:
                draw.rectangle((x - r, y - r * 0.6, x + r, y + r * 0.6), fill=colour)
            else:
                draw.polygon([(x, y - r), (x + r, y + r), (x - r, y + r)], fill=colour)
    plain = np.asarray(image).astype(float)
    flat = plain.reshape(-1, 3)
    shares = [
        (lab[i], float((np.abs(flat - np.array(rgb[i])) < 0.5).all(axis=1).mean()))
        for i in range(len(rgb))
    ]
    made = plain.copy()
    if random.random() < 0.4:
        made += (
            np.linspace(-9, 9, made.shape[1])[None, :, None]
            if random.random() < 0.5
            else np.linspace(-9, 9, made.shape[0])[:, None, None]
        )
    made += random.normal(0, random.choice([3, 6, 10]), made.shape)
    return Image.fromarray(np.clip(made, 0, 255).astype("uint8")), shares, plain


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    random = np.random.default_rng(11)
    workspace = Workspace.load()
    wanted = read = names = right = lights = 0
    with tempfile.TemporaryDirectory() as folder:
        for number in range(count):
            image, colours, plain = drawn(random)
            path = Path(folder, f"{number}.jpg")
            image.save(path, quality=int(random.choice([45, 70, 90])))
            seen = see(workspace, path)
            for lab, share in colours:
                if share >= 0.06:
                    wanted += 1
                    near = [c for c in seen.look.palette if distance(c.lab, lab) < 0.07]
                    read += any(abs(c.share - share) < 0.08 for c in near) or bool(
                        near and abs(sum(c.share for c in near) - share) < 0.08
                    )
            small = np.asarray(Image.fromarray(plain.astype("uint8")).resize(image.size).reduce(2))
            true = look(small)
            for word in ("key_word", "contrast_word", "warmth_word"):
                lights += 1
                right += getattr(true.light, word) == getattr(seen.look.light, word)
            del small
            names += len(seen.palette)
    print(
        f"{count} pictures: {read} of {wanted} colours read back ({read / wanted:.1%}); {right} of"
        f" {lights} words of light ({right / lights:.1%}); {names / count:.1f} colours told of each"
    )
    print(
        "(light is compared with our own figures on the picture before noise and compression: that"
        " it does not move, not that its words are true)"
    )
    known(random)
    photographs(workspace)


def known(random: np.random.Generator) -> None:
    """Light that is known without our figures: pictures made dark or bright, flat or hard, warm or
    blue, by their distributions.
    """
    right = whole = 0
    for _ in range(120):
        key = random.choice(["low key", "middle key", "high key"])
        hard = random.choice(["little contrast", "strong contrast"])
        warm = random.choice(["warm", "cold"])
        middle = {"low key": 22, "middle key": 118, "high key": 228}[key]
        spread = 12 if hard == "little contrast" else 118
        grey = np.clip(
            middle
            + spread
            * np.clip(random.standard_t(3, (160, 240)), -2.2, 2.2)
            * (0.9 if hard == "little contrast" else 1),
            3,
            252,
        )
        tint = np.array([1.12, 1.0, 0.72]) if warm == "warm" else np.array([0.76, 0.98, 1.18])
        pixels = np.clip(grey[..., None] * tint, 0, 255).astype("uint8")
        buffer = BytesIO()
        Image.fromarray(pixels).save(buffer, "JPEG", quality=80)
        light = look(np.asarray(Image.open(buffer).convert("RGB"))).light
        expected = [(light.warmth_word, warm), (light.contrast_word, hard)]
        if hard == "little contrast":
            expected.append((light.key_word, key))
        whole += len(expected)
        right += sum(a == b for a, b in expected)
    print(f"light by construction: {right} of {whole} words as made ({right / whole:.1%})")


def photographs(workspace: Workspace) -> None:
    try:
        from skimage import data
    except ImportError:
        print("(scikit-image is not here: no photographs)")
        return
    with tempfile.TemporaryDirectory() as folder:
        for name in (
            "coffee",
            "chelsea",
            "rocket",
            "retina",
            "hubble_deep_field",
            "immunohistochemistry",
            "colorwheel",
            "coins",
            "grass",
            "brick",
            "gravel",
        ):
            try:
                pixels = getattr(data, name)()
            except Exception as error:
                print(f"{name}: not here ({type(error).__name__})")
                continue
            path = Path(folder, f"{name}.png")
            Image.fromarray(pixels).convert("RGB").save(path)
            seen = see(workspace, path)
            light = seen.look.light
            print(
                f"{name}: {', '.join(f'{c.word} {c.share:.0%}' for c in seen.palette[:5])};"
                f" {light.key_word}, {light.contrast_word}, {light.warmth_word}; sharp"
                f" {seen.look.sharpness:.2f}; {seen.ratio}"
            )


if __name__ == "__main__":
    main()
