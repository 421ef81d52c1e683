"""Makes the pictures of the main commands from the demo data: python docs/screenshots/make.py [NAME
…].

Each command runs in a terminal window of 1280x800 under Xvfb (Debian's packages xvfb, xterm,
imagemagick, fonts-dejavu; chromium for pages).
"""

import os
import shlex
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).resolve().parent
PROGRAM = str(Path(sys.executable).with_name("syntagma"))
DISPLAY = ":77"

FERRY = (
    'medium=linocut vessel="cream-and-green car ferry" action="easing off its berth"'
    ' setting="slack-water harbour"'
)
SHOTS = {
    "term": [
        "term find fog --facet weather",
        'term find "light from behind"',
        "compose picture subject=dancer design-style=cubism era=fifties",
    ],
    "formula": ["formula crossing-poster"],
    "picking": [
        "compose photograph --pick --draw 8123",
        'compose photograph subject="my aunt Vera" --pick --draw 2',
        'situation find "lighthouse lamp"',
    ],
    "wishes": [
        '"can you make a 16:9 photo of a red fox asleep in the snow, soft light, no people?"',
        '"two hedgehogs drinking tea, lantern light, linocut, no text" --model dunlin-still',
        (
            'compose photograph --from "a tired harbour pilot reading a paper on a wet quay, lit by'
            ' sodium quay lamps, shot on an 85mm lens" --pick'
        ),
    ],
    "ask": ["compose poster --ask --model curlew-still"],
    "model": ["model rank photograph", "model curlew-still"],
    "shorten": [
        "shorten from-a-letter.txt --model dunlin-still",
        (
            'compose three-shots place="ticket office" light="single bare bulb" hero="night purser"'
            ' deed="punching a paper ticket" move="slow push-in" ending="slight smile"'
            ' ambience="diesel idle" --model godwit-motion'
        ),
        (
            'compose poster medium=linocut subject=@moth setting="wet quay" --model avocet-still'
            " --print request"
        ),
    ],
    "compose": [
        f'compose crossing-poster {FERRY} light="sodium quay lamps" --model curlew-still',
        f'compose crossing-poster {FERRY} light="sodium quay lamps" --model dunlin-still',
    ],
    "expand": [
        f'expand crossing-poster {FERRY} --vary "light=sodium quay lamps,full moonlight,first light'
        ' before sunrise" --vary "medium=linocut,gouache painting" --model curlew-still'
    ],
    "design": [
        (
            'expand poster subject="harbour pilot" --vary light:4 --vary medium:4 --vary palette:4'
            ' --vary weather:3 --design cover --rule "never #night with apricot and dusk violet"'
            " --model dunlin-still --dry-run"
        ),
        (
            'expand poster subject="harbour pilot" --vary light:4 --vary medium:4 --vary palette:3'
            " --design spread --count 8 --table -"
        ),
    ],
    "check": [
        "check drafts.txt --model curlew-still",
        "check drafts.txt --model curlew-still --mend --out mended.txt",
        "check --paper 50x70cm --model avocet-still",
    ],
    "reading": [
        (
            'read "Low-angle medium shot of a harbour pilot on a wet quay, lit by sodium quay'
            ' lamps, 85mm lens, melancholy, 8k. No people. /shape 3x2"'
        ),
        (
            'compare "A red ferry on a wet quay, full moonlight" "A red ferry in a slack-water'
            ' harbour, hard noon sun, 85mm lens"'
        ),
    ],
    "batches": ['sheet show crossings --where "model=curlew-still"', "collect"],
    "effects": ["effects lights"],
}
PAGES = {
    "film": "ticket-nine.html",
    "library": "lights.html",
    "judge": "lights-judge.html",
    "form": "island-schools.html",
    "campaign": "ferries/index.html",
}  # pages of the tour, in a browser (Debian's chromium, chromium-driver)
KEYED = {
    "judge": ["Oda", "\ue007", "4", "a", "s", "s", "m"],
    "form": [
        "\ue004",
        "Ines, 4b\ue004",
        "linocut\ue004",
        "brave\ue004",
        "my uncle's rowing boat\ue004",
        "coming home with one lamp\ue004",
        "open tidal sound\ue004",
        "sea smoke",
    ],
}  # what is typed on a page before it is taken
TYPED = {
    "ask": ["lino\t\r", "rain-dark\r", "car f", "\t\r", "eas", "\t\r", "pick\r", "\r", "sea"]
}  # a second between
DRAFTS = """An linocut of a ferry in the the harbour, , sodium lamps /shape 2x3 /shape 2x3
Two lamp on a quay, a purser with ink on his cuffs, blood-red light, no blood /shape 5x8 /sed 7
"""
KEYS = """import sys, threading, time, pathlib, pexpect
child = pexpect.spawn({program!r}, sys.argv[1:], dimensions=(39, 126))
def type_keys():
    for keys in {keys!r}:
        time.sleep(1)
        for key in keys:
            child.send(key)
            time.sleep(0.05)
    time.sleep(1)
    pathlib.Path("shot.done").touch()
threading.Thread(target=type_keys, daemon=True).start()
child.interact()
"""


def shoot(name: str, folder: Path) -> None:
    """One picture: the commands typed one after the other in a terminal."""
    script = "clear\n"
    for words in SHOTS[name]:
        shown = f"$ syntagma {words}".rstrip()
        call = (
            f"{shlex.quote(sys.executable)} keys.py {words}"
            if name in TYPED
            else f"{shlex.quote(PROGRAM)} {words}"
        )
        script += f"printf '%s\\n' {shlex.quote(shown)}\n{call}\necho\n"
    script += "touch shot.done\nsleep 60\n"
    (folder / "keys.py").write_text(KEYS.format(program=PROGRAM, keys=TYPED.get(name)))
    (folder / "shot.sh").write_text(script)
    done = folder / "shot.done"
    done.unlink(missing_ok=True)
    environment = {
        **os.environ,
        "DISPLAY": DISPLAY,
        "SYNTAGMA_HOME": str(folder / "own"),
        "LC_ALL": "C.UTF-8",
    }
    for plain in ("NO_COLOR", "COLUMNS"):
        environment.pop(plain, None)
    terminal = subprocess.Popen(
        [
            "xterm",
            "-fa",
            "DejaVu Sans Mono",
            "-fs",
            "12",
            "-geometry",
            "126x40+0+0",
            "-b",
            "12",
            "-bg",
            "#10151c",
            "-fg",
            "#dfe3e8",
            "-e",
            "bash",
            "shot.sh",
        ],
        cwd=folder,
        env=environment,
    )
    for _ in range(300):
        if done.exists():
            break
        time.sleep(0.1)
    time.sleep(1)  # the terminal draws what it was sent
    subprocess.run(
        ["import", "-window", "root", str(HERE / f"{name}.png")], env=environment, check=True
    )
    terminal.terminate()
    terminal.wait()


def page(name: str, folder: Path) -> None:
    """One picture of a page, as a browser shows it at first sight, or after what is typed on it."""
    from selenium import webdriver
    from selenium.webdriver.common.action_chains import ActionChains

    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium") or "chromium"
    for word in (
        "--headless=new",
        "--no-sandbox",
        "--disable-gpu",
        "--hide-scrollbars",
        "--window-size=1280,800",
    ):
        options.add_argument(word)
    browser = webdriver.Chrome(
        options=options, service=webdriver.ChromeService(shutil.which("chromedriver"))
    )
    try:
        browser.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
        )
        browser.get((folder / PAGES[name]).as_uri())
        for keys in KEYED.get(name, ()):
            time.sleep(0.3)
            ActionChains(browser).send_keys(keys).perform()
        time.sleep(0.5)
        browser.save_screenshot(str(HERE / f"{name}.png"))
    finally:
        browser.quit()


def main() -> None:
    screen = subprocess.Popen(
        ["Xvfb", DISPLAY, "-screen", "0", "1280x800x24"], stderr=subprocess.DEVNULL
    )
    try:
        time.sleep(1)
        with tempfile.TemporaryDirectory() as temporary:
            folder = Path(temporary) / "lantern-reach"
            subprocess.run(
                [PROGRAM, "tour", str(folder)],
                check=True,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            (folder / "drafts.txt").write_text(DRAFTS)
            subprocess.run(
                [
                    PROGRAM,
                    "judge",
                    "lights",
                    "--page",
                    "lights-judge.html",
                    "--title",
                    "Which light makes the poster?",
                ],
                cwd=folder,
                check=True,
                stdout=subprocess.DEVNULL,
            )
            for name in sys.argv[1:] or (*SHOTS, *PAGES):
                (page if name in PAGES else shoot)(name, folder)
    finally:
        screen.terminate()
        screen.wait()


if __name__ == "__main__":
    main()
