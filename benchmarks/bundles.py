"""Bundles, looked at by another program (ImageMagick's identify): sizes, resolution, transparency,
colour profile of every file.

python -m benchmarks.bundles: keeps pictures of several shapes, formats and grounds, bundles them in
some ways, and counts what is as it was asked for.
"""

import io
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms

WAYS = (
    (("--size", "900x900", "--ppi", "240", "--ground", "white"), (900, 900), 240, True),
    (("--size", "900x600", "--ppi", "300", "--fit", "cover"), (900, 600), 300, None),
    (
        (
            "--size",
            "500x700",
            "--ppi",
            "150",
            "--cut-out",
            "--ground",
            "transparent",
            "--as",
            "png",
        ),
        (500, 700),
        150,
        False,
    ),
    (
        ("--size", "640x640", "--as", "jpeg", "--ppi", "72", "--ground", "#f4efe2"),
        (640, 640),
        72,
        True,
    ),
)


def pictures(folder: Path) -> list[Path]:
    """Shapes on plain and uneven grounds, in three formats, some with a colour profile or an alpha
    channel.
    """
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    found = []
    for n, (wide, high) in enumerate(
        [(300, 200), (200, 300), (256, 256), (640, 360), (123, 457), (1200, 800)]
    ):
        for ending in ("png", "jpg", "webp"):
            rng = np.random.default_rng(n)
            ground = np.full((high, wide, 3), 235.0) + rng.normal(0, 1.5, (high, wide, 3))
            ground[high // 4 : high // 2, wide // 4 : wide // 2] = (130, 40 + n * 20, 30)
            path = folder / f"{n}.{ending}"
            Image.fromarray(np.clip(ground, 0, 255).astype("uint8")).save(
                path, icc_profile=profile, quality=95
            )
            found.append(path)
    see_through = Image.new("RGBA", (300, 300), (0, 0, 0, 0))
    see_through.paste((10, 90, 80, 255), (90, 90, 200, 200))
    see_through.save(folder / "clear.png")
    return [*found, folder / "clear.png"]


def main() -> None:
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        call = [sys.executable, "-m", "syntagma"]
        subprocess.run([*call, "start", "."], cwd=folder, check=True, capture_output=True)
        files = pictures(folder)
        for n, path in enumerate(files):
            subprocess.run(
                [*call, "library", "add", path.name, "--prompt", f"thing {n}"],
                cwd=folder,
                check=True,
                capture_output=True,
            )
        for words, size, ppi, opaque in WAYS:
            subprocess.run(
                [*call, "bundle", "--out", "b.zip", "--use", "mine", *words],
                cwd=folder,
                check=True,
                capture_output=True,
            )
            first = (folder / "b.zip").read_bytes()
            subprocess.run(
                [*call, "bundle", "--out", "b.zip", "--use", "mine", *words],
                cwd=folder,
                check=True,
                capture_output=True,
            )
            again = (folder / "b.zip").read_bytes() == first
            good = profiles = total = 0
            with zipfile.ZipFile(io.BytesIO(first)) as archive:
                for name in archive.namelist():
                    if not name.startswith(("list", "licence", "contact")):
                        archive.extract(name, folder / "out")
                        said = subprocess.run(
                            [
                                "identify",
                                "-units",
                                "PixelsPerInch",
                                "-format",
                                "%w %h %x %[opaque] %[profile:icc]",
                                folder / "out" / name,
                            ],
                            capture_output=True,
                            text=True,
                        ).stdout.split(" ")
                        wide, high, dots, solid = said[:4]
                        fits = (
                            (int(wide), int(high)) == size
                            and (name.endswith("webp") or round(float(dots)) == ppi)
                            and (opaque is None or (solid.lower() == "true") == opaque)
                        )
                        good += fits
                        profiles += "sRGB" in " ".join(said[4:])
                        total += 1
                        if not fits:
                            print(f"  {name}: {said}")
            print(
                f"{' '.join(words)}: {good} of {total} as asked for, {profiles} with their colour"
                f" profile (of {len(files) - 1}), the same bytes again: {again}"
            )


if __name__ == "__main__":
    main()
