"""form, pack, campaign, dataset, bundle: run on files in a temporary folder; archives looked at by other code, pages in a browser where there is one."""

import csv
import hashlib
import io
import json
import re
import shutil
import stat
import subprocess
import tomllib
import zipfile
from importlib.util import find_spec

import pexpect
import pytest
from openpyxl import load_workbook
from PIL import Image

from tests.commands.program import PROGRAM, environment, good, printed, run
from tests.commands.test_results import picture

BROWSER = bool(shutil.which("chromium") and shutil.which("chromedriver") and find_spec("selenium"))


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", ".")
    return tmp_path


# Forms


def filled(path, rows: list[dict[str, list[str]]]):
    """Fill a workbook in as a person does in a spreadsheet."""
    book = load_workbook(path)
    sheet = book["form"]
    names = [cell.value for cell in sheet[4]]
    for at, row in enumerate(rows, 5):
        for slot, cells in row.items():
            for j, words in enumerate(cells):
                sheet.cell(at, names.index(slot) + 1 + j, words)
    book.save(path)


ROWS = [
    {
        "by": ["Ines"],
        "subject": ["car ferry"],
        "medium": ["linocut"],
        "light": ["full moonlight"],
        "trait": ["old"],
    },
    {
        "subject": ["my uncle's boat"],
        "palette": ["storm green and cream"],
        "flaw": ["repeated faces", "blurred edges"],
    },
    {
        "by": ["Jory"],
        "subject": ["night purser"],
        "medium": ["etching"],
        "setting": ["wet quay"],
        "mood": ["wry"],
    },
]


@pytest.mark.long
def test_a_workbook_comes_back_by_rows(here):
    out = good(here, "form", "poster", "--out", "poster.xlsx", "--blank-rows", "12")
    assert "10 fields and 12 rows; needed: subject" in out
    before = (here / "poster.xlsx").read_bytes()
    good(here, "form", "poster", "--out", "poster.xlsx", "--blank-rows", "12")
    assert (here / "poster.xlsx").read_bytes() == before
    filled(here / "poster.xlsx", ROWS)
    (here / "plain.csv").write_text(
        "by,subject,medium,light,trait,palette,flaw,setting,mood\nInes,car ferry,linocut,full moonlight,old,,,,\n,my uncle's boat,,,,storm green and cream,repeated faces; blurred edges,,\nJory,night purser,etching,,,,,wet quay,wry\n"
    )
    back, plain = (
        printed(good(here, "compose", "poster", "--rows", name, "--json"))
        for name in ("poster.xlsx", "plain.csv")
    )
    assert [one["text"] for one in back] == [one["text"] for one in plain]
    assert [one.get("row") for one in back] == [{"by": "Ines"}, {"by": ""}, {"by": "Jory"}]
    assert back[1]["fills"]["flaw"] == "repeated faces; blurred edges"


def test_a_workbook_is_an_open_list_without_formulas_that_only_some_have(here):
    good(here, "form", "portrait", "--out", "portrait.xlsx", "--blank-rows", "3")
    book = load_workbook(here / "portrait.xlsx")
    rules = book["form"].data_validations.dataValidation
    assert (
        rules
        and not any(rule.showErrorMessage for rule in rules)
        and all(rule.allow_blank for rule in rules)
    )
    formulas = [
        cell.value
        for name in ("form", "working")
        for row in book[name].iter_rows()
        for cell in row
        if isinstance(cell.value, str) and cell.value.startswith("=")
    ]
    used = {
        word
        for formula in formulas
        for word in re.findall(r"([A-Z]+)\(", re.sub(r'"[^"]*"', "", formula))
    }
    assert used <= {
        "IF",
        "IFERROR",
        "INDEX",
        "MATCH",
        "CHOOSE",
        "LEFT",
        "RIGHT",
        "MID",
        "LEN",
        "FIND",
        "SUBSTITUTE",
        "TRIM",
        "UPPER",
        "LOWER",
        "EXACT",
        "REPT",
        "AND",
        "OR",
        "NOT",
        "ISNUMBER",
        "SUMPRODUCT",
        "VALUE",
        "TEXT",
    }
    assert max(map(len, formulas)) < 8192
    assert all(
        len(text) <= 255
        for formula in formulas
        for text in re.findall(r'"((?:[^"]|"")*)"', formula)
    )
    assert [book[name].sheet_state for name in ("choices", "parts", "working")] == [
        "visible",
        "hidden",
        "hidden",
    ]


@pytest.mark.skipif(not shutil.which("soffice"), reason="not run: no LibreOffice")
def test_a_spreadsheet_program_works_out_what_compose_writes(here):
    good(here, "form", "poster", "--out", "poster.xlsx", "--blank-rows", "6")
    filled(here / "poster.xlsx", [ROWS[0], ROWS[2]])
    subprocess.run(
        [
            "soffice",
            f"-env:UserInstallation=file://{here}/profile",
            "--headless",
            "--convert-to",
            "xlsx:Calc MS Excel 2007 XML",
            "--outdir",
            here / "out",
            here / "poster.xlsx",
        ],
        check=True,
        capture_output=True,
        timeout=300,
    )
    sheet = load_workbook(here / "out" / "poster.xlsx", data_only=True)["form"]
    column = next(cell.column for cell in sheet[2] if cell.value == "The prompt")
    wanted = [
        one["text"]
        for one in printed(good(here, "compose", "poster", "--rows", "poster.xlsx", "--json"))
    ]
    assert [sheet.cell(row, column).value for row in (5, 6)] == wanted
    assert not sheet.cell(7, column).value
    assert [
        one["text"]
        for one in printed(good(here, "compose", "poster", "--rows", "out/poster.xlsx", "--json"))
    ] == wanted  # as that program saved it


@pytest.mark.skipif(
    not BROWSER, reason="not run: no browser with a driver (Debian: chromium, chromium-driver)"
)
def test_the_page_grows_a_prompt_and_gives_back_a_file(here):
    from selenium import webdriver

    good(here, "form", "pattern", "--out", "pattern.html", "--title", "Your <pattern>")
    options = webdriver.ChromeOptions()
    for word in ("--headless=new", "--no-sandbox", "--disable-gpu", "--window-size=390,800"):
        options.add_argument(word)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = webdriver.Chrome(
        options=options, service=webdriver.ChromeService(shutil.which("chromedriver"))
    )
    try:
        browser.get((here / "pattern.html").as_uri())
        fill = "for (const [id, words] of Object.entries(arguments[0])) { const f = document.getElementById(id); f.value = words; f.dispatchEvent(new Event('input')); }"
        assert browser.title == "Your <pattern>"
        browser.execute_script(
            fill,
            {
                "f-by-0": "=Ines, 4b",
                "f-motif-0": "brass whistle",
                "f-motif-1": "my; own thing",
                "f-palette-0": "ink blue and lamp orange",
            },
        )
        assert browser.execute_script(
            "return document.getElementById('h-motif-1').textContent"
        ).startswith("One thing")
        browser.execute_script(fill, {"f-motif-1": "tea urn"})
        prompt = browser.execute_script("return document.getElementById('prompt').textContent")
        assert browser.execute_script(
            "return document.getElementById('h-motif-0').textContent"
        )  # what it does to the picture
        browser.execute_script("document.getElementById('keep').click()")
        browser.execute_script(fill, {"f-motif-0": "teapot, my own"})
        assert "article" in browser.execute_script(
            "return document.getElementById('h-motif-0').textContent"
        )
        (here / "back.csv").write_text(
            browser.execute_script("return csv()"), encoding="utf-8", newline=""
        )
        assert browser.execute_script("return document.documentElement.scrollWidth <= innerWidth")
        assert not browser.get_log("browser")
    finally:
        browser.quit()
    back = printed(good(here, "compose", "pattern", "--rows", "back.csv", "--json"))
    assert back[0]["text"] == prompt and back[0]["row"] == {"by": "=Ines, 4b"} and len(back) == 2


@pytest.mark.parametrize(
    ("words", "said"),
    [(("form", "poster", "--out", "a.pdf"), "name it .xlsx"), (("form", "nowhere", "--out", "a.xlsx"), "no formula is called"), (("form", "poster"), "--out is missing"), (("form", "poster", "--out", "a.xlsx", "--blank-rows", "0"), "number of rows")],
)  # fmt: skip
def test_wrong_forms(here, words, said):
    done = run(here, *words)
    assert done.returncode == 2 and said in done.stderr and not list(here.glob("a.*"))


# Packs


def test_a_pack_goes_over_and_is_taken_twice_as_once(here, tmp_path_factory):
    good(here, "formula", "new", "house-poster", "--copy-of", "poster")
    good(here, "term", "new", "lighting", "lamp-room glow", "--gloss", "warm and near")
    (here / "known.toml").write_text(
        '[moth]\nwords = "a brown dog"\n\n[ada]\nwords = "a tall woman"\nperson = "real"\n'
    )
    (here / "models" / "mine.toml").write_text(
        'about = "mine"\n\n# a note\n[service]\naddress = "http://127.0.0.1:1"\nsubmit = { method = "POST", path = "/x" }\n'
    )
    done = run(here, "pack", "house", "--out", "h.syntagma.zip", "--whose", "us")
    assert (
        done.returncode == 0
        and "ada, a real person" in done.stderr
        and "service of mine" in done.stderr
    )
    good(here, "pack", "house", "--out", "again.syntagma.zip", "--whose", "us")
    assert (here / "h.syntagma.zip").read_bytes() == (here / "again.syntagma.zip").read_bytes()
    other = tmp_path_factory.mktemp("other")
    good(other, "start", ".")
    pack = str(here / "h.syntagma.zip")
    before = {p: p.read_bytes() for p in other.rglob("*") if p.is_file()}
    assert "would be added" in good(other, "pack", "show", pack)
    assert before == {p: p.read_bytes() for p in other.rglob("*") if p.is_file()}
    good(other, "pack", "import", pack)
    assert (other / "formulas/house-poster.formula").read_bytes() == (
        here / "formulas/house-poster.formula"
    ).read_bytes()
    assert (
        "# a note" in (other / "models/mine.toml").read_text()
        and "service" not in (other / "models/mine.toml").read_text()
    )
    assert "ada" not in (other / "known.toml").read_text()
    after = {p: p.read_bytes() for p in other.rglob("*") if p.is_file()}
    assert "added" not in good(other, "pack", "import", pack)
    assert after == {p: p.read_bytes() for p in other.rglob("*") if p.is_file()}


def test_what_clashes_stays_until_it_is_named(here, tmp_path_factory):
    good(here, "formula", "new", "ours", "[a subject] at noon")
    good(here, "term", "new", "lighting", "glow", "--gloss", "warm")
    good(here, "pack", "p", "--out", "p.zip", "--licence", "any")
    other = tmp_path_factory.mktemp("other")
    good(other, "start", ".")
    good(other, "formula", "new", "ours", "[a subject] at night")
    good(other, "term", "new", "lighting", "Glow", "--gloss", "cold")
    good(other, "term", "new", "lighting", "own light", "--gloss", "mine")
    mine = (other / "formulas/ours.formula").read_bytes()
    done = run(other, "pack", "import", str(here / "p.zip"))
    assert done.returncode == 1 and "at noon" in done.stderr and "at night" in done.stderr
    assert (other / "formulas/ours.formula").read_bytes() == mine
    assert run(other, "pack", "import", str(here / "p.zip"), "--replace", "nothing").returncode == 2
    done = run(
        other,
        "pack",
        "import",
        str(here / "p.zip"),
        "--replace",
        "ours",
        "--replace",
        "term lighting/glow",
    )
    assert done.returncode == 0, done.stderr
    assert b"at noon" in (other / "formulas/ours.formula").read_bytes()
    lights = (other / "vocabulary/lighting.csv").read_text()
    assert "warm" in lights and "cold" not in lights and "own light" in lights


def hostile(
    name: str,
    data: bytes = b"+++\n+++\nlead  [a subject]\n",
    mode: int = 0,
    twice: str = "",
    said: bytes | None = None,
) -> bytes:
    """A pack with one file of this name, whatever it is."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        listed = "".join(
            f'[[file]]\npath = "{path}"\nsha256 = "{hashlib.sha256(data if said is None else said).hexdigest()}"\n'
            for path in filter(None, (name, twice))
            if path.isprintable() and "\\" not in path
        )
        archive.writestr("p/pack.toml", 'name = "p"\n' + listed)
        info = zipfile.ZipInfo(f"p/{name}")
        info.external_attr = mode << 16
        archive.writestr(info, data, zipfile.ZIP_DEFLATED)
        if twice:
            archive.writestr(f"p/{twice}", data)
    return out.getvalue()


@pytest.mark.long
@pytest.mark.parametrize(
    "pack",
    [
        hostile("../out.formula"), hostile("/out.formula"), hostile("formulas/..\\out.formula"), hostile("formulas/con.formula"), hostile("formulas/a.formula", b"/etc/passwd", stat.S_IFLNK | 0o777),
        hostile("vocabulary/v.csv", b"term\n" + b"a" * (3 << 20)), hostile("formulas/a.formula", twice="formulas/A.formula"), hostile("syntagma.toml"), hostile("ledger.sqlite"), hostile("formulas/a.py"), hostile("formulas/a.formula", b"\xff\xfe"),
        b"PK\x03\x04nothing", b"", hostile("formulas/a.formula")[:-30], hostile("formulas/a.formula", said=b"other"),
    ],
)  # fmt: skip
def test_a_strangers_pack_is_refused_whole(here, pack):
    (here / "p.zip").write_bytes(pack)
    before = {p: p.read_bytes() for p in here.parent.rglob("*") if p.is_file()}
    done = run(here, "pack", "import", "p.zip")
    assert done.returncode == 1 and not done.stdout, done.stderr
    assert before == {p: p.read_bytes() for p in here.parent.rglob("*") if p.is_file()}


# Bundles


@pytest.fixture
def kept(here):
    for n in range(3):
        (here / "one.jsonl").write_text(
            json.dumps(
                {
                    "text": f"A secret ferry {n}",
                    "model": "curlew-still",
                    "formula": "poster",
                    "fills": {"subject": ["car ferry", "car ferry", "night purser"][n]},
                }
            )
        )
        good(
            here,
            "library",
            "add",
            str(picture(here / f"{n}.png", n)),
            "--prompt",
            "one.jsonl",
            "--rating",
            str(n + 1),
        )
    return here


def unzipped(path) -> dict[str, bytes]:
    with zipfile.ZipFile(path) as archive:
        assert archive.testzip() is None
        return {name: archive.read(name) for name in archive.namelist()}


def test_a_bundle_waits_for_terms_and_lets_no_prompt_out(kept):
    done = run(kept, "bundle", "--out", "b.zip")
    assert (
        done.returncode == 2
        and "terms of use of 3 of 3" in done.stderr
        and not list(kept.glob("b.zip*"))
    )
    out = good(
        kept,
        "bundle",
        "--out",
        "b.zip",
        "--use",
        "mine",
        "--size",
        "300x200",
        "--ppi",
        "240",
        "--ground",
        "#ff0000",
        "--rating",
        "2",
    )
    assert "2 results in 2 files, without prompts" in out
    files = unzipped(kept / "b.zip")
    assert list(files) == [
        "01-car-ferry-3x2.png",
        "02-night-purser-3x2.png",
        "contact-sheet.png",
        "list.csv",
        "licence.txt",
    ]
    assert not any(b"secret" in data for data in files.values()) and b"mine" in files["licence.txt"]
    with Image.open(io.BytesIO(files["01-car-ferry-3x2.png"])) as image:
        assert image.size == (300, 200) and round(image.info["dpi"][0]) == 240
    rows = list(csv.DictReader(io.StringIO(files["list.csv"].decode("utf-8-sig"))))
    assert [row["sha256"] for row in rows] == [
        hashlib.sha256(files[row["file"]]).hexdigest() for row in rows
    ]
    good(
        kept,
        "bundle",
        "--out",
        "c.zip",
        "--use",
        "mine",
        "--size",
        "300x200",
        "--ppi",
        "240",
        "--ground",
        "#ff0000",
        "--rating",
        "2",
    )
    assert (kept / "b.zip").read_bytes() == (kept / "c.zip").read_bytes()


def test_a_bundle_with_prompts_says_them(kept):
    good(
        kept,
        "bundle",
        "1",
        "3",
        "--out",
        "b.zip",
        "--use",
        "mine",
        "--prompts",
        "--name",
        "{id}-{subject}",
        "--size",
        "90x60",
        "--size",
        "45x45",
        "--fit",
        "cover",
        "--as",
        "jpeg",
    )
    files = unzipped(kept / "b.zip")
    assert [name for name in files if name.endswith("jpg")] == [
        "90x60/1-car-ferry.jpg",
        "45x45/1-car-ferry.jpg",
        "90x60/3-night-purser.jpg",
        "45x45/3-night-purser.jpg",
    ]
    assert (
        b"A secret ferry 2" in files["list.csv"]
        and b"A secret ferry 0" in files["90x60/1-car-ferry.jpg"]
    )
    with Image.open(io.BytesIO(files["45x45/1-car-ferry.jpg"])) as image:
        assert image.size == (45, 45)


def test_plain_grounds_are_cut_out_and_others_told(kept):
    plain = Image.new("RGB", (60, 60), "#eeeeee")
    plain.paste((120, 30, 20), (20, 20, 40, 40))
    plain.save(kept / "plain.png", icc_profile=b"not a real profile")
    good(kept, "library", "add", "plain.png", "--prompt", "a red square")
    done = run(
        kept,
        "bundle",
        "1",
        "4",
        "--out",
        "b.zip",
        "--use",
        "mine",
        "--cut-out",
        "--ground",
        "transparent",
    )
    assert done.returncode == 0 and "01-car-ferry" in done.stderr and "not plain" in done.stderr
    files = unzipped(kept / "b.zip")
    with Image.open(io.BytesIO(files["02-a-red-square-1x1.png"])) as image:
        assert (
            image.mode == "RGBA"
            and image.getpixel((2, 2))[3] == 0
            and image.getpixel((30, 30)) == (120, 30, 20, 255)
        )
        assert image.info["icc_profile"] == b"not a real profile"


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("--size", "big"), "not a size"), (("--ground", "plaid"), "not a ground"), (("--name", "{nothing}"), "can't be part of a file name"), (("--name", "same"), "gives every file the same name"), (("--rating", "5"), "nothing in the library matches"), (("--ppi", "0"), "pixels to an inch"),
    ],
)  # fmt: skip
def test_wrong_bundles(kept, words, said):
    done = run(kept, "bundle", "--out", "b.zip", "--use", "mine", *words)
    assert (
        done.returncode == (1 if said.startswith("nothing in the library") else 2)
        and said in done.stderr
        and not list(kept.glob("b.zip*"))
    )


# Data sets


def lines(path) -> list[dict]:
    return [json.loads(line) for line in path.read_text().splitlines()]


@pytest.mark.long
def test_pairs_are_apart_balanced_and_the_same_again(tmp_path):
    good(tmp_path, "dataset", "poster", "photograph", "--count", "120", "--out", "d.jsonl")
    train, test = lines(tmp_path / "d-train.jsonl"), lines(tmp_path / "d-test.jsonl")
    assert (len(train), len(test)) == (108, 12)
    for slot in ("subject", "setting", "action"):
        assert not {r["fills"].get(slot, "").lower() for r in train} & {
            r["fills"].get(slot, "").lower() for r in test
        } - {""}

    def rest(r):
        return frozenset(
            (k, v) for k, v in r["fills"].items() if k not in ("subject", "setting", "action")
        )

    shared = {(r["formula"], rest(r)) for r in train} & {(r["formula"], rest(r)) for r in test}
    assert all(not own - {("kind", "realistic photograph")} for _, own in shared)
    every = train + test
    assert len({r["instruction"] for r in every}) == len({r["prompt"] for r in every}) == 120
    ways = [r["way"] for r in every]
    assert (
        {ways.count(way) for way in set(ways)} <= {11, 12, 13}
        and len(set(ways)) == 10
        and abs(sum(r["formula"] == "poster" for r in every) - 60) <= 1
    )
    assert (
        max(
            sum(r["fills"].get("subject") == s for r in every)
            for s in {r["fills"].get("subject") for r in every}
        )
        <= 8
    )
    before = (tmp_path / "d-train.jsonl").read_bytes()
    good(tmp_path, "dataset", "poster", "photograph", "--count", "120", "--out", "d.jsonl")
    assert (tmp_path / "d-train.jsonl").read_bytes() == before
    assert "no duplicates, near-duplicates, leaks or broken lines" in good(
        tmp_path, "dataset", "check", "d-train.jsonl", "d-test.jsonl"
    )


def test_what_is_asked_is_answered(tmp_path):
    out = good(tmp_path, "dataset", "to-camera", "--count", "20", "--json", "--test", "0")
    for record in printed(out):
        for slot in record["said"]:
            if slot == "line":
                assert (
                    record["fills"]["line"] in record["instruction"]
                    and record["fills"]["line"] in record["prompt"]
                )
        assert record["split"] == "train" and record["fills"]["line"] in record["prompt"]


def test_the_check_finds_what_was_planted(tmp_path):
    good(tmp_path, "dataset", "poster", "--count", "40", "--out", "d.jsonl")
    train, test = (tmp_path / f"d-{name}.jsonl" for name in ("train", "test"))
    good_lines = train.read_text().splitlines()
    one = json.loads(good_lines[0])
    planted = [
        *good_lines, good_lines[3], "{not json", '{"instruction": "x"}', json.dumps({**one, "prompt": one["prompt"].replace(", ", " and ", 1), "instruction": "another question entirely"}),
        json.dumps({**one, "instruction": "Tell me", "prompt": "Sure! Here is your prompt: a boat"}),
    ]  # fmt: skip
    train.write_text("\n".join(planted) + "\n")
    test.write_text(
        test.read_text() + json.dumps({**json.loads(good_lines[5]), "split": "test"}) + "\n"
    )
    done = run(tmp_path, "dataset", "check", "d-train.jsonl", "d-test.jsonl", "--json")
    assert done.returncode == 1
    found = printed(done.stdout)
    said = {
        finding["message"].partition(" × ")[2]: int(finding["message"].partition(" × ")[0])
        for finding in found["findings"]
        if " × " in finding["message"]
    }
    assert (
        sum(finding["code"] == "mistake" for finding in found["findings"]) == 2
        and said["the same pair twice"] == 2
        and said["the answer chats instead of giving a prompt"] == 1
    )
    assert (
        said["an answer of the test set is in the training set"] == 1
        and said["answers that are nearly the same"] >= 1
    )
    assert found["kept"] == [
        {"words": "bold simple shapes, clear space at the top for lettering", "kept": 43, "of": 44}
    ]


def test_chat_messages_prices_and_rows_of_others(tmp_path):
    (tmp_path / "rows.csv").write_text(
        "by,subject,medium\nInes,car ferry,linocut\n,my own boat,etching\n"
    )
    done = run(
        tmp_path,
        "dataset",
        "poster",
        "--count",
        "10",
        "--out",
        "c.jsonl",
        "--layout",
        "chat",
        "--system",
        "Write prompts.",
        "--rows",
        "rows.csv",
        "--price-training",
        "8",
        "--price-use",
        "1",
        "--price-general",
        "3",
        "--test",
        "0",
    )
    assert done.returncode == 0, done.stderr
    assert (
        "1 row of rows.csv stays out" in done.stderr
        and "training pays for itself after" in done.stderr
    )
    messages = [line["messages"] for line in lines(tmp_path / "c-train.jsonl")]
    assert [m["role"] for m in messages[0]] == [
        "system",
        "user",
        "assistant",
    ] and "my own boat" in messages[0][2]["content"]
    assert (
        "stays out"
        not in run(
            tmp_path,
            "dataset",
            "poster",
            "--count",
            "10",
            "--out",
            "c.jsonl",
            "--rows",
            "rows.csv",
            "--agreed",
            "--test",
            "0",
        ).stderr
    )


# Campaigns

BUSINESS = """name = "the mill bakery"
does = "bakes rye bread"
site = "a slate-roofed bakery"
budget = 60
avoid = ["moon"]

[models]
still = "curlew-still"

[[offer]]
name = "rye loaves"
kind = "food"
what = "a round rye loaf"
claim = "bakes rye"
because = "it keeps for a week"
new = true
since = "on Monday"

[[offer]]
name = "the jug"
what = "an enamel jug"
detail = "a chipped enamel rim"

[[audience]]
name = "commuters"
wants = "breakfast in two minutes"
who = "a nurse in a buttoned coat"
doing = "eating a roll"
where = "on a railway platform at night"

[[place]]
name = "the feed"
kind = "feed"
size = "1080x1350"
seen = "on the way to work"

[[place]]
name = "the shop"
kind = "shop"
ratio = "1:1"
"""


@pytest.fixture
def bakery(here):
    (here / "bakery.campaign.toml").write_text(BUSINESS)
    return here


def plan(folder) -> list[dict[str, str]]:
    with open(folder / "bakery.plan.csv", encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def test_a_plan_has_reasons_that_are_true_and_keeps_to_the_budget(bakery):
    good(bakery, "campaign", "plan", "bakery")
    rows = plan(bakery)
    launch = next(row for row in rows if row["what"] == "launch: rye loaves")
    assert (
        launch["why"]
        == "Rye loaves are new, and nobody can want what they have not seen. The feed is seen on the way to work, by people who do not know it yet. Rye loaves begin on Monday, and people have to know by then."
    )
    assert not any(row["what"].startswith("launch: the jug") for row in rows)  # it is not new
    assert {row["ratio"] for row in rows if row["place"] == "the feed"} == {"4:5"}
    spent = sum(float(row["cost"].split()[0]) for row in rows if row["status"] == "open")
    assert spent <= 60 and any(row["status"] == "later" for row in rows)
    found = json.loads(good(bakery, "campaign", "plan", "bakery", "--json"))
    assert {one["at"]: one["message"] for one in found["findings"]}["cover"].startswith(
        "not planned: no place of this kind"
    ) and len(found["items"]) == len(rows)


def test_what_a_person_decides_stays_and_only_what_is_touched_is_made_anew(bakery):
    good(bakery, "campaign", "approve", "bakery", "launch", "catalogue", "use")
    good(bakery, "campaign", "remove", "bakery", "detail")
    assert [row["status"] for row in plan(bakery) if row["what"].startswith("detail")] == [
        "removed"
    ] * 2
    out = good(bakery, "campaign", "make", "bakery")
    assert "4 pieces, 4 written" in out
    pages = {p: p.read_bytes() for p in (bakery / "bakery").rglob("*.md")}
    records = lines(bakery / "bakery/prompts.jsonl")
    assert len({r["text"] for r in records}) == len(records) and not any(
        "moon" in r["text"] for r in records
    )
    use = [r for r in records if r["row"]["kind"] == "use"]
    assert len(use) == 3 and all(
        "a nurse in a buttoned coat eating a roll, on a railway platform at night" in r["text"]
        and "sun" not in r["text"]
        for r in use
    )
    assert "0 written, 4 unchanged" in good(bakery, "campaign", "make", "bakery")
    assert (
        pages == {p: p.read_bytes() for p in (bakery / "bakery").rglob("*.md")}
        and not (bakery / "bakery/new.jsonl").read_text()
    )
    (bakery / "bakery.campaign.toml").write_text(
        BUSINESS.replace("an enamel jug", "a blue enamel jug")
    )
    assert "1 written, 3 unchanged" in good(bakery, "campaign", "make", "bakery")
    changed = [p.name for p, data in pages.items() if p.read_bytes() != data]
    assert changed and all("jug" in name or name == "index.md" for name in changed)
    assert "\nBakes rye bread.\n" in (bakery / "bakery/index.md").read_text()
    assert all("blue enamel jug" in r["text"] for r in lines(bakery / "bakery/new.jsonl"))
    page = next(p for p in pages if "launch" in p.name)
    page.write_text(page.read_text() + "\nMine.\n")
    assert "somebody edited it" in run(
        bakery, "campaign", "make", "bakery"
    ).stderr and page.read_text().endswith("Mine.\n")


def test_a_copy_of_the_plan_comes_back(bakery):
    good(bakery, "campaign", "plan", "bakery", "--out", "copy.xlsx")
    book = load_workbook(bakery / "copy.xlsx")
    sheet = book["bakery"]
    names = [cell.value for cell in sheet[1]]
    sheet.cell(2, names.index("status") + 1, "approved")
    sheet.cell(2, names.index("pictures") + 1, "1")
    sheet.cell(2, names.index("note") + 1, "before Easter")
    book.save(bakery / "copy.xlsx")
    good(bakery, "campaign", "import", "bakery", "copy.xlsx")
    row = plan(bakery)[0]
    assert (row["status"], row["pictures"], row["note"], row["cost"]) == (
        "approved",
        "1",
        "before Easter",
        "4 credits",
    )
    good(bakery, "campaign", "make", "bakery", "--out", "made")
    assert (
        len(lines(bakery / "made/prompts.jsonl")) == 1
        and "before Easter" in next((bakery / "made").rglob("launch*.md")).read_text()
    )
    assert (
        "1 row in the sheet one" in run(bakery, "sheet", "new", "one", "made/prompts.jsonl").stderr
    )


def test_a_page_shows_pictures_that_are_kept(bakery):
    good(bakery, "campaign", "approve", "bakery", "launch")
    good(bakery, "campaign", "make", "bakery")
    assert "data:image" not in (bakery / "bakery/index.html").read_text()
    (bakery / "one.jsonl").write_text((bakery / "bakery/prompts.jsonl").read_text().splitlines()[0])
    good(bakery, "library", "add", str(picture(bakery / "x.png", 4)), "--prompt", "one.jsonl")
    good(bakery, "campaign", "make", "bakery")
    assert "data:image/jpeg" in (bakery / "bakery/index.html").read_text()


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ('kind = "feed"', 'kind = "fed"', "not a kind of place"), ('name = "the mill bakery"', "title = 1", "a business has no key"), ('new = true', 'new = "yes"', "takes true or false"), ('budget = 60', 'budget = "much"', "budget takes"),
        ('claim = "bakes rye"', 'claim = "bakes rye"\nseason = ["spring"]', "no season is called"), ('name = "the jug"', 'name = "rye loaves"', "two of [[offer]]"), ('still = "curlew-still"', 'still = "whimbrel-motion"', "makes no stills"),
    ],
)  # fmt: skip
def test_wrong_businesses(bakery, old, new, said):
    (bakery / "bakery.campaign.toml").write_text(BUSINESS.replace(old, new, 1))
    done = run(bakery, "campaign", "plan", "bakery")
    assert (
        done.returncode in (1, 2)
        and said in done.stderr
        and not (bakery / "bakery.plan.csv").exists()
    )


def test_a_campaign_begins_with_a_file_to_fill_in(here):
    assert "bakery.campaign.toml" in good(here, "campaign", "new", "bakery")
    assert run(here, "campaign", "new", "bakery").returncode == 2
    assert "no campaign is called" in run(here, "campaign", "plan", "bakrey").stderr
    assert "nothing to make" in run(here, "campaign", "make", "bakery").stderr
    (here / "bakery.campaign.toml").write_text(BUSINESS)
    assert "approved yet" in run(here, "campaign", "make", "bakery").stderr


def test_at_a_terminal_it_asks(tmp_path):
    child = pexpect.spawn(
        PROGRAM,
        ["campaign", "new", "cafe"],
        cwd=tmp_path,
        env=environment(tmp_path),
        encoding="utf-8",
        timeout=30,
        dimensions=(30, 100),
    )
    for question, said in (
        ("called", 'the "Ounce" tea room'),
        ("do, in", "serves tea\\coffee"),
        ("you see ", "a glasshouse"),
        ("small things", "urn; cup; spoon; cake"),
        ("represent it", ""),
        ("changes there", "the tide comes up"),
    ):
        child.expect(question)
        child.expect("25h")
        child.send(said + "\r")
    child.expect(pexpect.EOF)
    business = tomllib.loads((tmp_path / "cafe.campaign.toml").read_text())
    assert business == {
        "name": 'the "Ounce" tea room',
        "does": "serves tea\\coffee",
        "site": "a glasshouse",
        "things": "urn; cup; spoon; cake",
        "changes": "the tide comes up",
    }
