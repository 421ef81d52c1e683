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

from syntagma.app.results.judge_server import JudgeServer
from syntagma.app.results.judged import judged
from syntagma.app.results.judging import Judging
from syntagma.app.results.pages import judge_page
from syntagma.app.workspace.workspace import Workspace
from syntagma.storage.library import Library
from tests.commands.program import environment, good, heard
from tests.commands.test_results import picture

BROWSER, DRIVER = shutil.which("chromium") or shutil.which("google-chrome"), shutil.which("chromedriver")
pytestmark = pytest.mark.skipif(not (BROWSER and DRIVER and find_spec("selenium")), reason="not run: no browser with a driver (Debian: chromium, chromium-driver)")


@pytest.fixture(scope="module")
def browser():
    from selenium import webdriver
    from selenium.webdriver.chrome.options import Options
    from selenium.webdriver.chrome.service import Service

    options = Options()
    options.binary_location = BROWSER
    for word in ("--headless=new", "--no-sandbox", "--disable-gpu", "--window-size=1280,800", "--force-prefers-reduced-motion"):
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
        record = {"text": f"A {'linocut' if n % 2 else 'gouache'} of a ferry {n}, lit by {'lamps' if n < 6 else 'the moon'}", "model": "curlew-still", "formula": "poster", "fills": {"medium": "linocut" if n % 2 else "gouache", "light": "lamps" if n < 6 else "moon"}}
        (tmp_path / "one.jsonl").write_text(json.dumps(record) + "\n")
        good(tmp_path, "library", "add", str(picture(tmp_path / f"{n}.png", n)), "--prompt", "one.jsonl", "--label", "all", *(["--rating", "4"] if n < 3 else []))
    return tmp_path


def keys(browser, *which):
    from selenium.webdriver.common.action_chains import ActionChains

    for one in which:
        ActionChains(browser).send_keys(one).perform()
        time.sleep(0.05)


def size(browser, wide):
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": wide, "height": 800, "deviceScaleFactor": 1, "mobile": wide < 500})


def text(browser, name):
    return browser.execute_script("return document.getElementById(arguments[0]).textContent", name)


def waits(browser, name, wanted):
    until = time.monotonic() + 10
    while not re.search(wanted, text(browser, name)) and time.monotonic() < until:
        time.sleep(0.05)
    assert re.search(wanted, text(browser, name)), text(browser, name)


def without_error(browser):
    assert [one for one in browser.get_log("browser") if one["level"] == "SEVERE"] == []
    assert browser.execute_script("return document.documentElement.scrollWidth <= innerWidth"), "it runs over the side"


CONTRAST = """
const lum = c => { const v = c.match(/[\\d.]+/g).slice(0, 3).map(x => { x /= 255; return x <= .04045 ? x / 12.92 : ((x + .055) / 1.055) ** 2.4; }); return .2126 * v[0] + .7152 * v[1] + .0722 * v[2]; };
const ground = e => { for (; e; e = e.parentElement) { const b = getComputedStyle(e).backgroundColor; if (!/rgba\\(.*, 0\\)|transparent/.test(b)) return b; } return "rgb(255,255,255)"; };
const bad = [];
for (const e of document.querySelectorAll("h1,h2,p,span,button,label,th,td,dt,dd,kbd")) { if (!e.offsetParent || e.disabled || ![...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim())) continue;
  const a = lum(getComputedStyle(e).color), b = lum(ground(e)), r = (Math.max(a, b) + .05) / (Math.min(a, b) + .05); if (r < 4.5) bad.push(e.textContent.slice(0, 40) + " " + r.toFixed(2)); }
for (const e of document.querySelectorAll("button,input,select,img")) { if (e.offsetParent && !(e.textContent.trim() || e.getAttribute("aria-label") || e.alt || e.labels?.length)) bad.push("no name: " + e.outerHTML.slice(0, 60)); }
return bad;
"""


def readable(browser):
    """Contrast of 4.5 at least, and a name for everything that is used (WCAG 2.2, AA), by the light and by the dark."""
    for scheme in ("light", "dark"):
        browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": [{"name": "prefers-color-scheme", "value": scheme}]})
        assert browser.execute_script(CONTRAST) == [], scheme


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
    assert "12 of 12" in text(browser, "count") and "the file is missing" in text(browser, "grid")
    readable(browser)
    Select(browser.find_element(By.ID, "facet")).select_by_value("lighting")
    Select(browser.find_element(By.ID, "term")).select_by_value("moon")
    assert "6 of 12" in text(browser, "count")
    Select(browser.find_element(By.ID, "rating")).select_by_value("4")
    assert "0 of 12" in text(browser, "count") and "Nothing answers" in text(browser, "empty")
    browser.find_element(By.ID, "all").click()
    browser.execute_script("document.activeElement.blur()")
    keys(browser, "/", *"ferry 3,", Keys.ESCAPE)
    assert "1 of 12" in text(browser, "count")
    browser.find_element(By.ID, "all").click()
    browser.execute_script("document.activeElement.blur(); move(0)")
    keys(browser, " ", Keys.ARROW_RIGHT, " ", Keys.ARROW_RIGHT, " ", "u")
    assert "2 chosen" in text(browser, "count")
    keys(browser, "c")
    assert browser.find_element(By.ID, "many").get_attribute("open") and browser.find_elements(By.CSS_SELECTOR, "#many mark") and "medium" in text(browser, "many")
    readable(browser)
    keys(browser, Keys.ESCAPE, Keys.ARROW_RIGHT, Keys.ENTER)
    assert browser.find_element(By.ID, "one").get_attribute("open") and "A gouache of a ferry" in text(browser, "one")
    readable(browser)
    keys(browser, "p", Keys.ESCAPE, "i")
    assert "numbers copied" in text(browser, "told")
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
            assert [one.value for one in Library(shelf).judgements("all")] == ["left", "right", "tie"]
        else:
            waits(browser, "how", "0 of 13")
            assert "lit by" not in text(browser, "stage")
            readable(browser)
            keys(browser, "4")
            waits(browser, "stage", "lit by")
            keys(browser, "a", "s", "m")
            readable(browser)
            keys(browser, Keys.ENTER)
            waits(browser, "how", "1 of")
            keys(browser, "2", Keys.ENTER)
            waits(browser, "how", "2 of")
            keys(browser, "u")
            waits(browser, "how", "1 of")
            assert [(one.kind, one.value) for one in Library(shelf).judgements("all")] == [("rating", "4"), ("approve", "1"), ("phrase", "shown"), ("phrase", "missing")]
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
    waits(browser, "stage", "That is all of them")
    readable(browser)
    without_error(browser)
    (shelf / "back.csv").write_text(browser.execute_script("return offline.csv()"))
    assert "25 judgements imported, 1 there already" in good(shelf, "judge", "all", "--import", "back.csv")  # a phrase of what came twice was said twice
    said = [one for one in Library(shelf).judgements("all") if one.kind == "rating"]
    assert [int(one.value) for one in said] == [n % 6 for n in range(13)] and len({one.kept for one in said}) == 12 and {one.judge for one in said} == {"Bo"}
    browser.refresh()
    keys(browser, Keys.ENTER)
    waits(browser, "how", "13 of 13")


def test_who_has_no_token_and_who_asks_from_elsewhere_gets_nothing(shelf):
    import httpx

    call = subprocess.Popen([sys.executable, "-m", "syntagma", "judge", "all"], cwd=shelf, env=environment(shelf), stderr=subprocess.PIPE, text=True, preexec_fn=heard)
    try:
        address = re.search(r"http\S+", call.stderr.readline())[0]
        root = address.rsplit("/", 2)[0]
        say = {"judge": "x", "kind": "rating", "kept": 1, "value": "3"}
        assert httpx.get(address).status_code == 200 and httpx.get(f"{root}/").status_code == 404 and httpx.get(f"{root}/wrong/next?judge=a").status_code == 404
        assert httpx.get(address, headers={"Host": "example.org"}).status_code == 404
        assert httpx.post(f"{address}say", json=say, headers={"Origin": "http://example.org"}).status_code == 403
        assert httpx.post(f"{address}say", json={**say, "value": "9"}).json()["wrong"] and httpx.post(f"{address}say", content=b"x" * 30_000).status_code == 413
        assert httpx.get(f"{address}file/99").status_code == 404 and httpx.get(f"{address}file/../../syntagma.toml").status_code == 404
        assert httpx.post(f"{address}say", json=say).status_code == 200 and "default-src 'none'" in httpx.get(address).headers["Content-Security-Policy"]
    finally:
        call.send_signal(2)
        assert call.wait(10) == 0
    assert [one.value for one in Library(shelf).judgements("all")] == ["3"]
