"""Hostile packs: each is refused, or taken without harm, within a second or two; nothing outside of
the workspace changes.

python -m benchmarks.packs [SEED]: writes some hundred packs that a stranger might send, takes each
into a fresh workspace in a process of its own, and looks what became of the folder above it.
"""

import hashlib
import io
import os
import random
import stat
import subprocess
import sys
import tempfile
import time
import zipfile
from pathlib import Path

FORMULA = '+++\nabout = "x"\n+++\nlead  [a subject]\n'


def packed(files: dict[str, bytes], listed: bool = True, wrap: str = "p/", extra=()) -> bytes:
    """A pack of these files, whatever they are called; `extra` are (ZipInfo, bytes)."""
    out = io.BytesIO()
    manifest = 'name = "stranger"\nlicence = "none"\n' + "".join(
        f'\n[[file]]\npath = "{path.encode("unicode_escape").decode()}"\nbytes ='
        f' {len(data)}\nsha256 = "{hashlib.sha256(data).hexdigest()}"\n'
        for path, data in files.items()
        if listed
    )
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(f"{wrap}pack.toml", manifest)
        for path, data in files.items():
            archive.writestr(f"{wrap}{path}", data)
        for info, data in extra:
            archive.writestr(info, data)
    return out.getvalue()


def link(name: str, to: str) -> tuple[zipfile.ZipInfo, bytes]:
    info = zipfile.ZipInfo(name)
    info.create_system, info.external_attr = 3, (stat.S_IFLNK | 0o777) << 16
    return info, to.encode()


def hostile(dice: random.Random) -> dict[str, bytes]:
    """Packs by what is wrong with them."""
    good = FORMULA.encode()
    found = {
        "two of a name by case": packed(
            {"formulas/one.formula": good, "formulas/ONE.formula": good + b"# other\n"}
        ),
        "two of a name by form": packed(
            {"formulas/caf\u00e9.formula": good, "formulas/cafe\u0301.formula": good}
        ),
        "no manifest": (
            packed({"formulas/one.formula": good}, wrap="p/").replace(b"pack.toml", b"park.toml")
        ),
        "not listed": packed({"formulas/one.formula": good}, listed=False),
        "thousands of files": packed({f"formulas/f{n}.formula": good for n in range(5000)}),
        "a bomb": packed({"vocabulary/lighting.csv": b"term\n" + b"a" * (300 << 20)}),
        "many small bombs": packed(
            {f"vocabulary/v{n}.csv": b"term\n" + b"a" * (1 << 20) for n in range(120)}
        ),
        "a link out": packed({}, extra=[link("p/formulas/x.formula", "/etc/passwd")]),
        "a link to a folder": packed({}, extra=[link("p/formulas", "../..")]),
        "not a zip": b"PK\x03\x04" + dice.randbytes(4000),
        "nothing": b"",
        "runaway pattern": packed(
            {"models/m.toml": b'about = "m"\n[[refused]]\npattern = "(a+)+$"\ninstead = "b"\n'}
        ),
        "a service with a secret": packed(
            {
                "models/m.toml": (
                    b'about = "m"\n[service]\naddress = "http://evil.invalid"\nsubmit = { method ='
                    b' "POST", path = "/x" }\n'
                )
            }
        ),
        "a tokenizer outside": packed(
            {
                "models/m.toml": (
                    b'about = "m"\n[limits.text]\nmost = 10\nunit = "tokens"\ntokenizer ='
                    b' "../../../etc/passwd"\n'
                )
            }
        ),
        "endless base": packed(
            {"models/a.toml": b'builds_on = "b"\n', "models/b.toml": b'builds_on = "a"\n'}
        ),
        "deep toml": packed({"models/m.toml": b"a = " + b"[" * 20000 + b"]" * 20000}),
        "no text": packed({"formulas/one.formula": b"\xff\xfe\x00\x01"}),
        "a formula of a mountain": packed(
            {"formulas/one.formula": b"+++\n+++\n" + b"x [a] \n" * 200_000}
        ),
        "a picture that is none": packed({"pictures/lighting/lamp.png": b"<svg onload=alert(1)>"}),
        "a page as a picture": packed({"pictures/lighting/lamp.html": b"<script>"}),
        "formulas of a sheet": packed(
            {
                "vocabulary/lighting.csv": (
                    b'term,gloss\n=HYPERLINK("http://evil.invalid"),x\n@SUM(1),y\n'
                )
            }
        ),
        "control characters": packed({"vocabulary/lighting.csv": b"term,gloss\nlamp\x1b[2J,x\n"}),
        "a broken table": packed(
            {"vocabulary/lighting.csv": b'term,gloss\n"never closed,' + b"x" * 100_000}
        ),
        "a template": packed({"formulas/one.formula": b"{{ ''.__class__.__mro__ }}"}),
        "settings": packed({"syntagma.toml": b'model = "x"\n'}),
        "a ledger": packed({"ledger.sqlite": b"SQLite format 3\x00"}),
        "a program": packed({"formulas/setup.py": b"import os"}),
        "a real person": packed(
            {"known.toml": b'[queen]\nwords = "the queen"\nreal = true\nperson = "real"\n'}
        ),
        "shadowing": packed({"formulas/poster.formula": good}),
    }
    for name in (
        "../out.formula",
        "/tmp/out.formula",
        "formulas/../../out.formula",
        "..\\out.formula",
        "C:\\out.formula",
        "formulas/con.formula",
        "formulas/aux.formula",
        "formulas/a:b.formula",
        "formulas/ .formula",
        "formulas/x.formula ",
        "formulas/.hidden.formula",
        "formulas/a/b.formula",
        "formulas/x\u202egpj.formula",
        "formulas/" + "x" * 400 + ".formula",
        "formulas/x\n.formula",
        "~/x.formula",
        "formulas//x.formula",
        "./formulas/x.formula",
    ):
        found[f"called {name!r:.40}"] = packed({name: good})
        found[f"called {name!r:.40}, unwrapped"] = packed({name: good}, wrap="")
    whole = packed({"formulas/one.formula": good, "vocabulary/lighting.csv": b"term\nlamp\n"})
    for n in range(40):  # bytes turned over anywhere
        broken = bytearray(whole)
        for _ in range(dice.randint(1, 6)):
            broken[dice.randrange(len(broken))] = dice.randrange(256)
        found[f"turned over {n}"] = bytes(broken)
    for n in range(20):
        found[f"cut off {n}"] = whole[: dice.randrange(len(whole))]
    return found


def seen(folder: Path) -> dict[str, bytes]:
    """Every file below a folder, and links as such."""
    return {
        str(p.relative_to(folder)): b"link" if p.is_symlink() else p.read_bytes()
        for p in sorted(folder.rglob("*"))
        if p.is_symlink() or p.is_file()
    }


def main(words: list[str]) -> None:
    dice = random.Random(int(words[0]) if words else 1)
    bad = refused = taken = 0
    slowest = ("", 0.0)
    for what, data in hostile(dice).items():
        with tempfile.TemporaryDirectory() as place:
            above = Path(place)
            work, file = above / "work", above / "stranger.syntagma.zip"
            file.write_bytes(data)
            environment = {**os.environ, "SYNTAGMA_HOME": str(above / "home")}
            subprocess.run(
                [sys.executable, "-m", "syntagma", "start", str(work)],
                env=environment,
                capture_output=True,
                check=True,
            )
            before = seen(above)
            begun = time.perf_counter()
            done = subprocess.run(
                [sys.executable, "-m", "syntagma", "pack", "import", str(file)],
                cwd=work,
                env=environment,
                capture_output=True,
                text=True,
                timeout=120,
            )
            took = time.perf_counter() - begun
            slowest = max(slowest, (what, took), key=lambda one: one[1])
            changed = {path for path, held in seen(above).items() if before.get(path) != held} | {
                path for path in before if path not in seen(above)
            }
            outside = [
                path
                for path in changed
                if not path.startswith(
                    (
                        "work/formulas/",
                        "work/vocabulary/",
                        "work/looks/",
                        "work/themes/",
                        "work/models/",
                        "work/plans/",
                        "work/known.toml",
                        "work/facets.toml",
                        "work/library",
                    )
                )
            ]
            wrong = (
                outside
                or done.returncode not in (0, 1, 2, 3)
                or "Traceback" in done.stderr
                or (done.returncode == 3 and changed)
                or any(held == b"link" for held in seen(above).values())
            )
            service = any(
                b"evil.invalid" in held
                for path, held in seen(work).items()
                if path.startswith("models/")
            )
            bad += bool(wrong or service)
            refused += done.returncode == 3
            taken += done.returncode in (0, 1)
            if wrong or service or "-v" in words:
                print(
                    f"{what}: status {done.returncode}, {took:.1f} s, changed"
                    f" {sorted(changed)[:4]}\n  {(done.stderr or done.stdout).strip()[:300]}"
                )
    print(
        f"{refused} refused, {taken} taken as far as good, {bad} did harm; the slowest took"
        f" {slowest[1]:.1f} s ({slowest[0]})"
    )


if __name__ == "__main__":
    main(sys.argv[1:])
