"""The library, measured: python -m benchmarks.library [KEPT [KILLS]].

1. KEPT (100000) prompts are put into a library; searches by words, terms, ratings, and all of them
  together, against a bare scan of the same texts.
2. KILLS (50) calls of `keep` killed (kill -9) at random moments: what said that it was kept is
  there, whole, once; ten processes keep one file.
3. Two hundred files as people download them, out of 300 rows: which rows they are matched to, and
  whether what is called sure is right.
"""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from random import Random

import numpy as np
from PIL import Image

from syntagma.app.results.downloads import OpenTake, files_in, matched
from syntagma.formats.metadata.pictures import signed
from syntagma.formats.metadata.xmp import Properties
from syntagma.storage.library import Library, LibraryQuery

WORDS = (
    "fog quay ferry lamp pilot rain harbour gull night tide rope salt iron bell ticket window crowd"
    " wool coat lantern storm green cream linocut gouache moon scud estuary fjord mooring skiff"
    " barque trawler noon dusk frost smoke brass canvas chart clerk dock engine flag gate hull"
    " island jetty kettle ladder mast net oar paddle reef sail tar wharf"
).split()


def search(count: int) -> None:
    folder, random = Path(tempfile.mkdtemp()), Random(1)
    library = Library(folder)
    texts = [" ".join(random.choices(WORDS, k=26)) + f" {n}" for n in range(count)]
    with library.step():
        for n, text in enumerate(texts, 1):
            library.base.execute(
                "insert into kept (id, file, ending, bytes, at, text, model, rating) values (?, ?,"
                " '.png', 9, '2026', ?, ?, ?)",
                (n, f"{n:032x}", text, f"m{n % 4}", n % 6),
            )
            library.base.execute("insert into said (rowid, words) values (?, ?)", (n, text))
            library.base.execute(
                "insert into terms values (?, 'lighting', ?)", (n, f"lamp {n % 40}")
            )
    began = time.perf_counter()
    bare = sum("fog" in text and "quay" in text for text in texts)
    scan = (time.perf_counter() - began) * 1000
    for what, wanted in (
        ("words", LibraryQuery("fog quay")),
        ("rare words", LibraryQuery("fog quay 77")),
        ("a beginning", LibraryQuery("fo")),
        ("a term", LibraryQuery(terms=[("lighting", "lamp 7")])),
        ("model and rating", LibraryQuery(model="m2", rating=4)),
        ("all of them", LibraryQuery("fog quay", [("lighting", "lamp 3")], 3, "m3")),
        ("nothing", LibraryQuery("fog zeppelin")),
    ):
        began = time.perf_counter()
        found = library.find(wanted, 50)
        print(
            f"{what:16} {(time.perf_counter() - began) * 1000:7.1f} ms, {len(found)} of the"
            " newest 50"
        )
    began = time.perf_counter()
    every = library.find(LibraryQuery("fog quay"))
    print(
        f"{'every answer':16} {(time.perf_counter() - began) * 1000:7.1f} ms, {len(every):,}; a"
        f" bare scan of the texts in memory {scan:.1f} ms, {bare:,}"
    )


def picture(path: Path, seed: int, size=(600, 400)) -> None:
    small = Image.fromarray((np.random.default_rng(seed).random((6, 8, 3)) * 255).astype("uint8"))
    small.resize(size, Image.Resampling.BICUBIC).save(path)


def kills(count: int) -> None:
    folder, random = Path(tempfile.mkdtemp()), Random(2)
    environment = {**os.environ, "SYNTAGMA_HOME": str(folder / "own"), "NO_COLOR": "1"}
    program = [sys.executable, "-m", "syntagma"]
    subprocess.run([*program, "start", "."], cwd=folder, env=environment, capture_output=True)
    told = 0
    for n in range(count):
        picture(folder / f"{n}.png", n)
        call = subprocess.Popen(
            [*program, "library", "add", f"{n}.png", "--prompt", f"number {n}"],
            cwd=folder,
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
        try:
            out, _ = call.communicate(timeout=random.uniform(0.1, 0.75))
            told += bool(out.strip())
        except subprocess.TimeoutExpired:
            call.kill()
            call.communicate()
    library = Library(folder)
    found = library.find(LibraryQuery())
    whole = sum(
        library.file_of(one).is_file() and library.file_of(one).stat().st_size == one.bytes
        for one in found
    )
    for n in range(count):
        subprocess.run(
            [*program, "library", "add", f"{n}.png", "--prompt", f"number {n}"],
            cwd=folder,
            env=environment,
            capture_output=True,
        )
    print(
        f"{count} calls killed: {told} had said that they kept, {len(found)} are known, {whole} of"
        f" those whole; called again: {Library(folder).count()} of {count}"
    )
    picture(folder / "same.png", 999)
    calls = [
        subprocess.Popen(
            [*program, "library", "add", "same.png", "--prompt", f"x {n}"],
            cwd=folder,
            env=environment,
            stdout=subprocess.DEVNULL,
        )
        for n in range(10)
    ]
    statuses = [call.wait() for call in calls]
    print(
        f"ten processes keep one file: {Library(folder).count() - count} kept, statuses"
        f" {sorted(set(statuses))}"
    )


def matching() -> None:
    folder, random = Path(tempfile.mkdtemp()), Random(3)
    takes = []
    for n in range(300):
        text = (
            f"A {random.choice(['linocut', 'gouache painting', 'photograph'])} of a"
            f" {' '.join(random.choices(WORDS, k=2))} on a {' '.join(random.choices(WORDS, k=5))},"
            f" lit by {' '.join(random.choices(WORDS, k=3))}"
        )
        size = random.choice([(1024, 1024), (1536, 1024), (1024, 1536)])
        takes.append(
            OpenTake(
                f"r{random.getrandbits(36):09x}",
                "",
                text,
                "m",
                (f"task-{n:04d}",),
                size,
                1000.0 + n * 60,
            )
        )
        takes[-1] = takes[-1]._replace(take=f"{takes[-1].row}.1")
    true: dict[Path, str] = {}
    for n, take in enumerate(random.sample(takes, 200)):
        how = random.choice(["words in it", "id", "task", "name", "short name", "none"])
        slug = "_".join(take.text.replace(",", "").split())
        name = {
            "id": f"{take.row}",
            "task": f"result-{take.tasks[0]}",
            "name": f"ada_{slug[:45]}",
            "short name": slug[:16],
        }.get(how, f"download ({n})")
        path = folder / f"{name}{f' ({n})' if how == 'short name' else ''}.png"
        image = Image.fromarray(
            (
                np.random.default_rng(n).random((take.size[1] // 64, take.size[0] // 64, 3)) * 255
            ).astype("uint8")
        ).resize((take.size[0] // 4, take.size[1] // 4))
        image.save(path)
        if how == "words in it":
            path.write_bytes(signed(path.read_bytes(), Properties(prompt=take.text)))
        os.utime(path, (take.sent + random.uniform(20, 600),) * 2)
        true[path] = take.take
    began = time.perf_counter()
    found = matched(files_in(folder), takes)
    took = time.perf_counter() - began
    sure = [m for m in found if m.sure]
    guesses = [m for m in found if m.take and not m.sure]
    right = sum(m.take.take == true[m.path] for m in sure if m.take)
    print(
        f"{len(found)} files and 300 rows in {took:.2f} s: {len(sure)} sure, {right} of them right;"
        f" {len(guesses)} guessed, {sum(m.take.take == true[m.path] for m in guesses)} right;"
        f" {len(found) - len(sure) - len(guesses)} without a row"
    )


def main() -> None:
    numbers = [int(word) for word in sys.argv[1:]]
    matching()
    search(numbers[0] if numbers else 100_000)
    kills(numbers[1] if len(numbers) > 1 else 50)


if __name__ == "__main__":
    main()
