"""The pages of results in a real browser, by its driver: clicked, filtered, compared, judged by keyboard alone, wide and narrow, without an error."""

import json
import re
import shutil
import subprocess
import sys
import threading
import time
from importlib.util import find_spec

import pytest

from syntagma.app.results.judged import judged
from syntagma.app.results.judging import JudgeServer, Judging
from syntagma.app.results.pages import judge_page
from syntagma.app.workspace.workspace import Workspace
from syntagma.storage.library import Library
from tests.commands.program import environment, good, heard, run
from tests.commands.test_results import picture
from tests.page_measures import look, unnamed, unreached

BROWSER, DRIVER = (
    shutil.which("chromium") or shutil.which("google-chrome"),
    shutil.which("chromedriver"),
)
pytestmark = pytest.mark.skipif(
    not (BROWSER and DRIVER and find_spec("selenium")),
    reason="not run: no browser with a driver (Debian: chromium, chromium-driver)",
)


@pytest.fixture(scope="module")
def browser():
    from selenium import webdriver
    from selenium.webdriver.chrome.options import Options
    from selenium.webdriver.chrome.service import Service

    options = Options()
    options.binary_location = BROWSER
    for word in (
        "--headless=new",
        "--no-sandbox",
        "--disable-gpu",
        "--window-size=1280,800",
        "--force-prefers-reduced-motion",
    ):
        options.add_argument(word)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service(DRIVER))
    yield driver
    driver.quit()


@pytest.fixture
def shelf(tmp_path):
    """Twelve kept results with fills, one of them gone."""
    good(tmp_path, "start", ".")
    for n in range(12):
        record = {
            "text": f"A {'linocut' if n % 2 else 'gouache'} of a ferry {n}, lit by {'lamps' if n < 6 else 'the moon'}",
            "model": "curlew-still",
            "formula": "poster",
            "fills": {
                "medium": "linocut" if n % 2 else "gouache",
                "light": "lamps" if n < 6 else "moon",
            },
        }
        (tmp_path / "one.jsonl").write_text(json.dumps(record) + "\n")
        good(
            tmp_path,
            "library",
            "add",
            str(picture(tmp_path / f"{n}.png", n)),
            "--prompt",
            "one.jsonl",
            "--label",
            "all",
            *(["--rating", "4"] if n < 3 else []),
        )
    return tmp_path


def keys(browser, *which):
    from selenium.webdriver.common.action_chains import ActionChains

    for one in which:
        ActionChains(browser).send_keys(one).perform()
        time.sleep(0.05)


def size(browser, wide):
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": wide, "height": 800, "deviceScaleFactor": 1, "mobile": wide < 500},
    )


def text(browser, name):
    return browser.execute_script("return document.getElementById(arguments[0]).textContent", name)


def waits(browser, name, wanted):
    until = time.monotonic() + 10
    while not re.search(wanted, text(browser, name)) and time.monotonic() < until:
        time.sleep(0.05)
    assert re.search(wanted, text(browser, name)), text(browser, name)


def without_error(browser):
    assert [one for one in browser.get_log("browser") if one["level"] == "SEVERE"] == []
    assert browser.execute_script("return document.documentElement.scrollWidth <= innerWidth"), (
        "it runs over the side"
    )


def readable(browser, wide):
    """Contrast of text and of borders, and a name for everything that is used (WCAG 2.2, AA), by the light and by the dark."""
    where = "telephone" if wide < 500 else "screen"
    assert [*look(browser, False, where), *look(browser, True, where), *unnamed(browser)] == []


@pytest.mark.long
@pytest.mark.parametrize("wide", [1280, 390])
def test_the_gallery(browser, shelf, wide):
    from selenium.webdriver.common.by import By
    from selenium.webdriver.common.keys import Keys
    from selenium.webdriver.support.ui import Select

    library = Library(shelf)
    library.file_of(library.get(12)).unlink()
    good(shelf, "library", "page", "g.html")
    size(browser, wide)
    browser.get((shelf / "g.html").as_uri())
    assert "12 of 12" in text(browser, "count") and "The file is missing" in text(browser, "grid")
    readable(browser, wide)
    Select(browser.find_element(By.ID, "facet")).select_by_value("lighting")
    Select(browser.find_element(By.ID, "term")).select_by_value("moon")
    assert "6 of 12" in text(browser, "count")
    Select(browser.find_element(By.ID, "rating")).select_by_value("4")
    assert "0 of 12" in text(browser, "count") and "Nothing matches" in text(browser, "empty")
    browser.find_element(By.ID, "all").click()
    browser.execute_script("document.activeElement.blur()")
    keys(browser, "/", *"ferry 3,", Keys.ESCAPE)
    assert "1 of 12" in text(browser, "count")
    browser.find_element(By.ID, "all").click()
    browser.execute_script("document.activeElement.blur(); move(0)")
    keys(browser, " ", Keys.ARROW_RIGHT, " ", Keys.ARROW_RIGHT, " ", "u")
    assert "2 selected" in text(browser, "count")
    keys(browser, "c")
    assert (
        browser.find_element(By.ID, "many").get_attribute("open")
        and browser.find_elements(By.CSS_SELECTOR, "#many mark")
        and "medium" in text(browser, "many")
    )
    readable(browser, wide)
    keys(browser, Keys.ESCAPE, Keys.ARROW_RIGHT, Keys.ENTER)
    assert browser.find_element(By.ID, "one").get_attribute(
        "open"
    ) and "A gouache of a ferry" in text(browser, "one")
    readable(browser, wide)
    keys(browser, "p", Keys.ESCAPE, "i")
    assert "Copied numbers" in text(browser, "said")
    without_error(browser)


@pytest.mark.parametrize("wide", [1280, 390])
@pytest.mark.parametrize("pairs", [False, True])
def test_judging_that_is_served_by_keyboard_alone(browser, shelf, wide, pairs):
    from selenium.webdriver.common.keys import Keys

    library = Library(shelf)
    judging = Judging(library, judged(Workspace.load(shelf), library, "all"), pairs)
    server = JudgeServer(judging, judge_page(judging, "all"))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        size(browser, wide)
        browser.get(server.address)
        keys(browser, *"Ada", Keys.ENTER)
        if pairs:
            waits(browser, "how", "0 of 22")
            assert "curlew" not in browser.page_source.split('id="data"')[0]
            for n, one in enumerate((Keys.ARROW_LEFT, Keys.ARROW_RIGHT, "t", "n"), 1):
                keys(browser, one)
                waits(browser, "how", f"{n} of")
            keys(browser, "u")
            waits(browser, "how", "3 of")
            assert [one.value for one in Library(shelf).judgements("all")] == [
                "left",
                "right",
                "tie",
            ]
        else:
            waits(browser, "how", "0 of 13")
            assert "lit by" not in text(browser, "stage")
            readable(browser, wide)
            keys(browser, "4")
            waits(browser, "stage", "lit by")
            keys(browser, "a", "s", "m")
            readable(browser, wide)
            keys(browser, Keys.ENTER)
            waits(browser, "how", "1 of")
            keys(browser, "2", Keys.ENTER)
            waits(browser, "how", "2 of")
            keys(browser, "u")
            waits(browser, "how", "1 of")
            assert [(one.kind, one.value) for one in Library(shelf).judgements("all")] == [
                ("rating", "4"),
                ("approve", "1"),
                ("phrase", "shown"),
                ("phrase", "missing"),
            ]
        without_error(browser)
        browser.refresh()
        keys(browser, Keys.ENTER)
        waits(browser, "how", "3 of 22" if pairs else "1 of 13")
    finally:
        server.shutdown()
        server.server_close()


def test_the_page_that_is_sent_comes_back_as_a_file(browser, shelf):
    from selenium.webdriver.common.keys import Keys

    good(shelf, "judge", "all", "--page", "j.html")
    size(browser, 390)
    browser.get((shelf / "j.html").as_uri())
    browser.execute_script("localStorage.clear()")
    browser.refresh()
    keys(browser, *"Bo", Keys.ENTER)
    for n in range(14):
        waits(browser, "how", f"^{n} of 13" if n < 13 else "13 of 13")
        if n < 13:
            keys(browser, str(n % 6))
            waits(browser, "stage", "lit by")
            keys(browser, "m", Keys.ENTER)
    waits(browser, "stage", "That was the last one")
    readable(browser, 390)
    without_error(browser)
    (shelf / "back.csv").write_text(browser.execute_script("return offline.csv()"))
    assert "25 judgements imported, 1 there already" in good(
        shelf, "judge", "all", "--import", "back.csv"
    )  # a phrase of what came twice was said twice
    said = [one for one in Library(shelf).judgements("all") if one.kind == "rating"]
    assert (
        [int(one.value) for one in said] == [n % 6 for n in range(13)]
        and len({one.kept for one in said}) == 12
        and {one.judge for one in said} == {"Bo"}
    )
    browser.refresh()
    keys(browser, Keys.ENTER)
    waits(browser, "how", "13 of 13")


def test_the_measures_find_what_is_wrong(browser, tmp_path):
    page = """<body style="background: #fff"><p style="color: #999">pale</p><button style="border: 1px solid #ddd; background: #fff"></button><div style="width: 900px">wide</div>
    <a href="#x" tabindex="-1">skipped</a><input aria-label="one" style="border: 1px solid #777"><button id="far" onfocus="this.blur()">gone</button></body>"""
    (tmp_path / "bad.html").write_text(
        f"<!doctype html><html lang=en><meta name=viewport content='width=device-width'>{page}</html>"
    )
    browser.get((tmp_path / "bad.html").as_uri())
    found = look(browser, False, "telephone")
    assert (
        len(found) == 3
        and [
            any(word in one for one in found)
            for word in ("text 2.8", "border 1.3", "wider than the screen")
        ]
        == [True] * 3
    )
    assert unnamed(browser) == ["without a name: button"] and [
        ("far" in one) for one in unreached(browser)
    ] == [True]


@pytest.mark.long
@pytest.mark.parametrize("wide", [1280, 390])
def test_every_other_page_is_readable_and_reached_by_keys(browser, shelf, wide):
    good(shelf, "term", "weather", "--page", "t.html")
    good(shelf, "form", "poster", "--out", "f.html")
    (shelf / "shots.csv").write_text(
        "shot,who,action,setting,hour,line\n1,a pilot,waving,wet quay,night,PILOT: Last boat.\n2,,sea smoke,wet quay,,\n"
    )
    good(shelf, "film", "prompts", "shots.csv", "--model", "whimbrel-motion", "--out", "s.html")
    for name in ("t", "f", "s"):
        size(browser, wide)
        browser.get((shelf / f"{name}.html").as_uri())
        readable(browser, wide)
        assert unreached(browser) == []
        without_error(browser)


def test_terms_with_a_star_or_a_picture_come_first(browser, shelf):
    good(shelf, "term", "star", "thick fog")
    good(shelf, "term", "picture", "weather", "light drizzle", str(picture(shelf / "p.png", 3)))
    good(shelf, "term", "weather", "--page", "t.html")
    browser.get((shelf / "t.html").as_uri())
    names = browser.execute_script(
        "return [...document.querySelectorAll('h2')].map(e => e.textContent)"
    )
    assert names[:2] == ["★ thick fog", "light drizzle"] and len(names) > 20
    keys(browser, "/", *"drizzle")
    assert browser.execute_script(
        "return document.querySelectorAll('article:not(.hidden)').length"
    ) < len(names) and "light drizzle" in browser.execute_script(
        "return document.querySelector('article:not(.hidden) h2').textContent"
    )


def test_an_owner_approves_and_rejects_on_the_page_of_a_campaign(browser, shelf):
    (shelf / "cafe.campaign.toml").write_text(
        'name = "The Ounce"\ndoes = "serves tea"\nsite = "a glasshouse on the quay"\nbudget = 400\n[models]\nstill = "curlew-still"\n[[offer]]\nname = "rye loaf"\nkind = "food"\nwhat = "a dark rye loaf"\nnew = true\n[[place]]\nname = "the feed"\nkind = "feed"\nratio = "1:1"\n[[place]]\nname = "the window"\nkind = "poster"\nratio = "2:3"\n[[place]]\nname = "the site"\nkind = "web"\nratio = "3:2"\n'
    )
    good(shelf, "campaign", "plan", "cafe")
    good(shelf, "campaign", "approve", "cafe", "all")
    good(shelf, "campaign", "make", "cafe")
    (shelf / "one.jsonl").write_text((shelf / "cafe/prompts.jsonl").read_text().splitlines()[0])
    for n in (70, 71):
        good(shelf, "library", "add", str(picture(shelf / f"{n}.png", n)), "--prompt", "one.jsonl")
    good(shelf, "campaign", "make", "cafe")
    size(browser, 1280)
    browser.get((shelf / "cafe/index.html").as_uri())
    readable(browser, 1280)
    readable(browser, 390)
    assert (
        unreached(browser) == []
        and "/shape" not in browser.page_source
        and browser.execute_script("return document.querySelectorAll('article img').length") == 2
    )
    count = browser.execute_script("return document.querySelectorAll('article').length")
    assert count > 1
    saved = "const keep = URL.createObjectURL; URL.createObjectURL = b => { window.blob = b; return keep(b); }; HTMLAnchorElement.prototype.click = () => {};"
    browser.execute_script(
        saved
        + "const [a, b] = document.querySelectorAll('article'); a.querySelector('[data-status=removed]').click(); const n = b.querySelector('input'); n.value = 'crisper, please'; n.dispatchEvent(new Event('input')); document.getElementById('rest').click(); document.getElementById('save').click()"
    )
    csv = browser.execute_async_script("const done = arguments[0]; window.blob.text().then(done)")
    (shelf / "answers.csv").write_text(csv, newline="")
    good(shelf, "campaign", "import", "cafe", "answers.csv")
    plan = (shelf / "cafe.plan.csv").read_text()
    assert (
        plan.count(",removed,") == 1
        and plan.count(",approved,") == count - 1
        and "crisper, please" in plan
    )
    assert (
        f"{count - 1} pieces"
        in run(shelf, "campaign", "make", "cafe").stderr
        + run(shelf, "campaign", "make", "cafe").stdout
    )


def test_who_has_no_token_and_who_asks_from_elsewhere_gets_nothing(shelf):
    import httpx

    call = subprocess.Popen(
        [sys.executable, "-m", "syntagma", "judge", "all"],
        cwd=shelf,
        env=environment(shelf),
        stderr=subprocess.PIPE,
        text=True,
        preexec_fn=heard,
    )
    try:
        address = re.search(r"http\S+", call.stderr.readline())[0]
        root = address.rsplit("/", 2)[0]
        say = {"judge": "x", "kind": "rating", "kept": 1, "value": "3"}
        assert (
            httpx.get(address).status_code == 200
            and httpx.get(f"{root}/").status_code == 404
            and httpx.get(f"{root}/wrong/next?judge=a").status_code == 404
        )
        assert httpx.get(address, headers={"Host": "example.org"}).status_code == 404
        assert (
            httpx.post(
                f"{address}say", json=say, headers={"Origin": "http://example.org"}
            ).status_code
            == 403
        )
        assert (
            httpx.post(f"{address}say", json={**say, "value": "9"}).json()["wrong"]
            and httpx.post(f"{address}say", content=b"x" * 30_000).status_code == 413
        )
        assert (
            httpx.get(f"{address}file/99").status_code == 404
            and httpx.get(f"{address}file/../../syntagma.toml").status_code == 404
        )
        assert (
            httpx.post(f"{address}say", json=say).status_code == 200
            and "default-src 'none'" in httpx.get(address).headers["Content-Security-Policy"]
        )
    finally:
        call.send_signal(2)
        assert call.wait(10) == 0
    assert [one.value for one in Library(shelf).judgements("all")] == ["3"]
