"""Every page that Syntagma writes, made from the demo data and measured: python -m
benchmarks.page_faults FOLDER.

FOLDER gets the pages and a picture of each at 1280 × 800, at 390 × 844 and on paper (A4, as PDF).
For each page it prints how many faults of contrast, borders, width, keyboard and names were found
(tests/page_measures.py says what is measured), and what they are.
"""

import base64
import os
import shutil
import subprocess
import sys
import threading
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

from tests.page_measures import SIZES, look, unnamed, unreached

PAGES = [
    ("library", "library page library.html"),
    ("judge", "judge everything --page judge.html"),
    ("judge-pairs", "judge everything --pairs --page judge-pairs.html"),
    ("terms", "term lighting --page terms.html"),
    ("storyboard", "film prompts ticket-nine.csv --model whimbrel-motion -o storyboard.html"),
    ("form", "form photograph --out form.html"),
    ("campaign", ""),
]


def main() -> None:
    folder = Path(sys.argv[1]).resolve()
    shutil.rmtree(folder, ignore_errors=True)
    environment = {
        **os.environ,
        "SYNTAGMA_HOME": str(folder.parent / f"{folder.name}-own"),
        "NO_COLOR": "1",
    }
    program = [sys.executable, "-m", "syntagma"]
    subprocess.run(
        [*program, "tour", str(folder)], env=environment, check=True, capture_output=True
    )
    for _, call in PAGES:
        if call:
            subprocess.run(
                [*program, *call.split()],
                cwd=folder,
                env=environment,
                check=False,
                capture_output=True,
            )
    campaign = next(folder.glob("*/index.html"), None)
    options = Options()
    options.binary_location = shutil.which("chromium")
    for word in (
        "--headless=new",
        "--no-sandbox",
        "--disable-gpu",
        "--window-size=1280,800",
        "--force-prefers-reduced-motion",
    ):
        options.add_argument(word)
    browser = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
    threading.excepthook = lambda _: None
    try:
        for name, _ in PAGES:
            page = campaign if name == "campaign" else folder / f"{name}.html"
            if page is None or not page.is_file():
                print(f"{name}: not made")
                continue
            browser.get(page.as_uri())
            faults: list[str] = []
            steps = (
                [
                    "",
                    (
                        "document.getElementById('name').value = 'Ada';"
                        " document.querySelector('.who').requestSubmit()"
                    ),
                    "document.querySelectorAll('.ratings button')[4]?.click()",
                ]
                if name.startswith("judge")
                else [""]
            )
            for at, step in enumerate(steps):
                if step:
                    browser.execute_script(step)
                    browser.implicitly_wait(0.3)
                for size, (wide, high) in SIZES.items():
                    for dark in (False, True):
                        faults += look(browser, dark, size)
                    browser.execute_cdp_cmd(
                        "Emulation.setEmulatedMedia",
                        {"features": [{"name": "prefers-color-scheme", "value": "light"}]},
                    )
                    shot = browser.execute_cdp_cmd(
                        "Page.captureScreenshot",
                        {
                            "format": "png",
                            "clip": {"x": 0, "y": 0, "width": wide, "height": high, "scale": 1},
                        },
                    )
                    (folder / f"{name}{f'-{at}' if at else ''}-{size}.png").write_bytes(
                        base64.b64decode(shot["data"])
                    )
                browser.execute_cdp_cmd(
                    "Emulation.setDeviceMetricsOverride",
                    {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
                )
                faults += [*unreached(browser), *unnamed(browser)]
            paper = browser.execute_cdp_cmd(
                "Page.printToPDF", {"preferCSSPageSize": True, "printBackground": False}
            )
            (folder / f"{name}.pdf").write_bytes(base64.b64decode(paper["data"]))
            print(f"{name}: {len(faults)} fault{'' if len(faults) == 1 else 's'}")
            for fault in sorted(set(faults)):
                print(f"    {fault}")
    finally:
        browser.quit()


if __name__ == "__main__":
    main()
