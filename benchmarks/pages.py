"""The library's page at size, in a browser: python -m benchmarks.pages [PICTURES].

PICTURES (2000) kept results as one page with a folder of thumbnails beside it: how long until the
first cards are painted, until all of the page is there, and the longest pause while it is scrolled
from top to bottom (a stall is anything over 100 ms); beside it the same page with nothing in it.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PIL import Image
from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

SCROLL = """
const done = arguments[arguments.length - 1]; let last = performance.now(), worst = 0, steps = 0; const high = document.documentElement.scrollHeight;
(function step(now) { worst = Math.max(worst, now - last); last = now; steps++; scrollTo(0, steps * 400); if (steps * 400 < high && steps < 1200) requestAnimationFrame(step); else done([worst, steps, high]); })(last);
"""  # noqa: E501


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    folder = Path(tempfile.mkdtemp())
    environment = {**os.environ, "SYNTAGMA_HOME": str(folder / "own"), "NO_COLOR": "1"}
    os.environ["SYNTAGMA_HOME"] = environment["SYNTAGMA_HOME"]
    program = [sys.executable, "-m", "syntagma"]
    subprocess.run([*program, "start", "."], cwd=folder, env=environment, capture_output=True)
    from syntagma.storage.library import Library

    library, random = Library(folder), np.random.default_rng(1)
    subprocess.run(
        [*program, "library", "page", "empty.html"],
        cwd=folder,
        env=environment,
        capture_output=True,
    )
    for n in range(count):
        path = folder / "one.png"
        Image.fromarray((random.random((7, 9, 3)) * 255).astype("uint8")).resize(
            (720, 480), Image.Resampling.BICUBIC
        ).save(path, compress_level=1)
        fills = {
            "medium": f"medium {n % 9}",
            "light": f"light {n % 17}",
            "subject": f"subject {n % 40}",
        }
        text = (
            f"A {fills['medium']} of a {fills['subject']} on a wet quay, lit by {fills['light']},"
            f" number {n}, flat inks, generous margins, clear space at the top."
        )
        library.keep(
            path,
            {"text": text, "model": f"model {n % 4}", "record": {"fills": fills}, "rating": n % 6},
            ["all"],
            list(fills.items()),
        )
    began = time.perf_counter()
    subprocess.run(
        [*program, "library", "page", "library.html"], cwd=folder, env=environment, check=True
    )
    first = time.perf_counter() - began
    began = time.perf_counter()
    subprocess.run(
        [*program, "library", "page", "library.html"], cwd=folder, env=environment, check=True
    )
    print(
        f"made in {first:.1f} s, again (thumbnails are there) in {time.perf_counter() - began:.1f}"
        f" s; the page {(folder / 'library.html').stat().st_size / 1e6:.1f} MB, thumbnails"
        f" {sum(p.stat().st_size for p in (folder / 'library-files').glob('*')) / max(1, count) / 1000:.1f}"  # noqa: E501
        " kB each"
    )
    options = Options()
    options.binary_location = shutil.which("chromium")
    for word in ("--headless=new", "--no-sandbox", "--disable-gpu", "--window-size=1280,800"):
        options.add_argument(word)
    browser = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
    try:
        for name in ("empty", "library", "library"):
            browser.get((folder / f"{name}.html").as_uri())
            time.sleep(0.5)
            paint, whole = browser.execute_script(
                "return [performance.getEntriesByType('paint').find(p => p.name ==="
                " 'first-contentful-paint').startTime, performance.timing.loadEventEnd -"
                " performance.timing.navigationStart]"
            )
            worst, steps, high = browser.execute_async_script(SCROLL)
            print(
                f"{name:8} first sight {paint:6.0f} ms, all of it {whole:6.0f} ms; scrolled"
                f" {high:,} pixels in {steps} steps, longest pause {worst:.0f} ms"
            )
        began = browser.execute_script("return performance.now()")
        browser.execute_script("document.getElementById('words').value = 'subject 7'; draw()")
        print(
            f"filtered by words in {browser.execute_script('return performance.now()') - began:.0f}"
            f" ms: {browser.execute_script('return document.getElementById(`count`).textContent')}"
        )
    finally:
        browser.quit()


if __name__ == "__main__":
    main()
