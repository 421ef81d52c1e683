"""What came from a stranger can do nothing but be read: files, links, names of files, live cells, streams that never end, and calls that no reader expects."""

import csv
import json
import os
import subprocess
import sys
import zipfile

import pytest
from openpyxl import load_workbook

from tests.commands.program import PROGRAM, environment, good, printed, run
from tests.hostile import PROFILE, image

LIVE = '=HYPERLINK("http://evil.example","x")'


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", ".")
    return tmp_path


def started(folder, *words, **options):
    return subprocess.run(
        [PROGRAM, *words],
        cwd=folder,
        env={**environment(folder), "SYNTAGMA_TRACE": ""},
        capture_output="stdout" not in options,
        text=True,
        timeout=120,
        **options,
    )


# Files


def kept(folder):
    (folder / "a.png").write_bytes(image("png"))
    good(folder, "library", "add", "a.png", "--prompt", "A red fox", "--label", "all")
    record = printed(good(folder, "library", "show", "1", "--json"))
    return next((folder / "library").rglob("*.png")), record


@pytest.mark.parametrize(
    "call", [["bundle", "1", "--out", "b.zip", "--use", "ours"], ["library", "backup", "all.zip"]]
)
def test_a_link_in_a_library_is_not_followed(here, call, tmp_path_factory):
    file, _ = kept(here)
    secret = tmp_path_factory.mktemp("elsewhere") / "secret.png"
    secret.write_bytes(image("png") + b"the secret")
    file.unlink()
    file.symlink_to(secret)
    done = run(here, *call)
    assert done.returncode == 3 and "is a link" in done.stderr
    assert not any(
        b"the secret" in path.read_bytes()
        for path in here.rglob("*")
        if path.is_file() and not path.is_symlink()
    )


def test_a_picture_of_a_term_outside_of_the_library_is_not_packed_or_shown(here):
    kept(here)
    (here.parent / "secret.png").write_bytes(image("png"))
    good(here, "term", "new", "medium", "pulp print")
    good(here, "term", "picture", "medium", "pulp print", "a.png")
    import sqlite3

    base = sqlite3.connect(here / "library.sqlite")
    base.execute("update pictures set file = '../../secret.png'")
    base.commit()
    for call in (["pack", "p", "--out", "p.zip"], ["term", "medium", "--page", "t.html"]):
        done = run(here, *call)
        assert done.returncode == 3 and "is outside" in done.stderr, call


@pytest.mark.parametrize("name", ["../../evil", "/tmp/evil", "a/../../evil"])
def test_a_campaign_is_written_into_this_folder_alone(here, name):
    done = run(here, "campaign", "new", name)
    assert (
        done.returncode == 2
        and "outside this folder" in done.stderr
        and not list(here.parent.glob("evil*"))
    )


def test_a_file_that_is_no_text_is_told_by_its_name(here):
    (here / "themes").mkdir(exist_ok=True)
    (here / "themes/bad.toml").write_bytes(b"x\xff")
    done = run(here, "pack", "p", "--out", "p.zip")
    assert done.returncode == 1 and "themes/bad.toml is not UTF-8" in done.stderr


# Code


@pytest.mark.long
@pytest.mark.parametrize(
    "module", ["json.py", "jinja2.py", "syntagma/__init__.py", "resource.py", "sitecustomize.py"]
)
def test_a_template_runs_nothing_that_lies_in_the_folder(here, module):
    path = here / module
    path.parent.mkdir(exist_ok=True)
    path.write_text(f"open({str(here / 'ran')!r}, 'w').close()\n")
    (here / "page.md.j2").write_text("# {{ formula }}\n")
    done = started(here, "brief", "poster", "--template", "page.md.j2")
    assert done.returncode == 0 and "# poster" in done.stdout and not (here / "ran").exists(), (
        done.stderr
    )


@pytest.mark.long
def test_a_template_has_as_much_time_as_its_work_takes(here, monkeypatch):
    from syntagma.app.handing_on import brief

    real = subprocess.run

    def slowly(call, **options):
        assert options["timeout"] > 60  # a busy machine may take that long
        return real(call, **options)

    monkeypatch.setattr(brief.subprocess, "run", slowly)
    (here / "page.md.j2").write_text("# {{ formula }}\n")
    assert "# poster" in good(here, "brief", "poster", "--template", "page.md.j2")
    (here / "page.md.j2").write_text(
        "{% for a in range(99999) %}{% for b in range(99999) %}{% endfor %}{% endfor %}"
    )
    assert "more time or memory" in run(here, "brief", "poster", "--template", "page.md.j2").stderr


# Live cells


def cells(path):
    if path.suffix == ".csv":
        with open(path, newline="", encoding="utf-8-sig") as file:
            return [
                (cell, "f" if cell[:1] in "=+@" and cell else "s")
                for row in csv.reader(file)
                for cell in row
            ]
    return [
        (str(cell.value), cell.data_type)
        for sheet in load_workbook(path).worksheets
        for row in sheet.iter_rows()
        for cell in row
        if cell.value is not None
    ]


@pytest.mark.parametrize("ending", ["csv", "xlsx"])
def test_no_column_of_a_shared_file_becomes_a_formula(here, ending):
    record = {"text": "A hen.", "model": "curlew-still", "row": {LIVE: LIVE, "@SUM(1)": "x"}}
    (here / "r.jsonl").write_text(json.dumps(record) + "\n")
    good(here, "sheet", "new", "s", "r.jsonl", "--out", f"s.{ending}")
    found = cells(here / f"s.{ending}")
    assert any(LIVE in cell for cell, _ in found) and not any(kind == "f" for _, kind in found)
    (here / "t.csv").write_text(
        f'medium,subject,"{LIVE.replace(chr(34), chr(34) * 2)}"\nlinocut,hen,x\n'
    )
    good(here, "compose", "poster", "--rows", "t.csv", "--out", f"made.{ending}")
    assert not any(kind == "f" for _, kind in cells(here / f"made.{ending}"))


def test_what_a_formula_is_about_is_no_formula_of_a_spreadsheet(here):
    (here / "formulas/theirs.formula").write_text(
        f"+++\nabout = '{LIVE}'\n[slots]\nsubject = {{ facet = \"subject\", ask = '{LIVE}', about = '{LIVE}' }}\n+++\na print of [a subject]\n"
    )
    good(here, "form", "theirs", "--out", "f.xlsx")
    live = [
        cell
        for cell, kind in cells(here / "f.xlsx")
        if kind == "f" and "HYPERLINK" in cell and not cell.startswith("=IF") and "IF(" not in cell
    ]
    assert not live
    sheet = load_workbook(here / "f.xlsx")["form"]
    assert sheet["A1"].data_type == "s" and all(
        cell.data_type != "f" for row in sheet["A2:E3"] for cell in row
    )


def test_a_list_that_goes_along_with_pictures_holds_no_live_cell(here):
    (here / "a.png").write_bytes(image("png"))
    good(here, "library", "add", "a.png", "--prompt", LIVE)
    good(here, "bundle", "1", "--out", "b.zip", "--use", "ours", "--prompts")
    with zipfile.ZipFile(here / "b.zip") as archive:
        (here / "list.csv").write_bytes(
            archive.read(next(name for name in archive.namelist() if name.endswith("list.csv")))
        )
    assert any(LIVE in cell for cell, _ in cells(here / "list.csv")) and not any(
        kind == "f" for _, kind in cells(here / "list.csv")
    )


# Without bound


@pytest.mark.parametrize(
    "text",
    [
        ".".join(["a"] * 199) + " = 1\n",
        "[" + ".".join(["a"] * 120) + "]\n",
        "x = 1\n  [[ " + " . ".join(['"a"'] * 90) + " ]]\n",
    ],
)
def test_a_key_of_hundreds_of_parts_is_refused_before_it_is_read(here, text):
    from syntagma.core.notation import toml
    from syntagma.core.notation.toml import NoToml

    with pytest.raises(NoToml, match="nested too deep"):
        toml.read_toml(text)
    assert toml.read_toml("a.b.c = 1\nd = 'a.b.c'\n") == {"a": {"b": {"c": 1}}, "d": "a.b.c"}
    (here / "models/x.toml").write_text(text)
    assert run(here, "pack", "p", "--out", "p.zip").returncode == 1


@pytest.mark.parametrize("ending", ["csv", "xlsx"])
def test_a_table_of_twenty_thousand_columns_is_refused(here, ending):
    from tests.hostile import workbook

    names = ["text", *(f"c{n}" for n in range(20_000 if ending == "csv" else 2_000))]
    (here / f"t.{ending}").write_bytes(
        ",".join(names).encode() + b"\nA hen.\n"
        if ending == "csv"
        else workbook([names, ["A hen."]])
    )
    for call in (["check", f"t.{ending}"], ["compose", "poster", "--rows", f"t.{ending}"]):
        done = run(here, *call)
        assert done.returncode in (1, 2) and "at most 1,000" in done.stderr


def test_a_stream_without_end_is_no_text(here):
    for text, said in ((b"\0" * 100_000, "not text"), (b"a" * ((64 << 20) + 10), "never ends")):
        done = run(here, "read", "-", given=text)
        assert done.returncode == 1 and said in done.stderr


def test_variants_of_a_family_are_not_all_kept(here):
    from syntagma.app.families import variants
    from syntagma.app.families.family import Family
    from syntagma.app.families.spec import Design, FamilySpec, read_vary
    from syntagma.app.workspace.workspace import Workspace

    wish = FamilySpec(
        "poster",
        {"medium": "linocut", "subject": "hen"},
        [read_vary("parameter.seed=1..300")],
        Design("full"),
        ("curlew-still",),
    )
    family = Family(Workspace.load(here), wish)
    assert (
        sum(len(block.combinations) for block in family.blocks()) == 300
        and len(family.variants._made) <= variants.MOST
    )


# Statuses


@pytest.mark.parametrize(("call", "status"), [
    (["theme", "new", "x", "--lean", "light:nan"], 2), (["theme", "new", "x", "--lean", "light:inf"], 2), (["expand", "poster", "subject=a", "medium=b", "--vary=--"], 2),
    (["formula", "learn", "x", "u.txt"], 0), (["formula", "learn", "x", "--save", "u2.txt"], 0), (["film", "prompts", "u.csv", "--model", "godwit-motion"], 0), (["film", "prompts", "u.fountain", "--model", "godwit-motion"], 0), (["check", "u.formula"], 1), (["expand", "plan.toml"], 1),
    (["compose", "a [subject", "subject=a\u2028b"], 1), (["sheet", "new", "a\u2028b", "u.txt"], 0), (["compose", "u\u2028v", "x=y"], 2), (["service", "add", "a\u2028b", "--no-secret"], 2),
])  # fmt: skip
def test_odd_words_are_no_defect(here, call, status):
    (here / "u.txt").write_text(
        "a\u2028 fox in fog, red\nb fox\u2028 in fog\nc \u2028fox\nd fox in\u2028 fog\n"
    )
    (here / "u2.txt").write_text(
        "".join(
            f"A linocut of a {who}, fog, red ink\n"
            for who in ("tin\u2028 bucket", "wet\u2029hen", "glass\u0085 jar", "very\x1eold goat")
        )
    )
    (here / "u.csv").write_text("scene,shot,seconds,size,action\n1,1,4,wide\u2028 shot,a\u2028b\n")
    (here / "u.fountain").write_text(
        "INT. HUT\u2028 - NIGHT\n\nMOTH\u2028 sleeps.\n\n@BOY\u2028\nHi\u2028 there\n"
    )
    (here / "u.formula").write_text('+++\nabout = "a\u2028b"\nx\n+++\na [\u2028subject\n')
    (here / "plan.toml").write_text('a = "x\u2028y"\nb \u2028 = 1\n')
    done = run(here, *call)
    assert done.returncode == status and len(done.stderr.splitlines()) < 40, done


@pytest.mark.parametrize(("shell", "status"), [
    ("{} term >&-", 3), ("{} term 2>&-", 0), ("{} read - <&-", 3), ("{} expand --help >/dev/full", 3), ("{} --help >/dev/full", 3), ("{} term >/dev/full", 3),
    ("{} term | true", 0), ("{} term lighting | head -1", 0), ("{} expand --help | true", 0),
])  # fmt: skip
def test_streams_that_are_closed_full_or_left(here, shell, status):
    done = subprocess.run(
        ["bash", "-c", f"{shell.format(PROGRAM)}; exit ${{PIPESTATUS[0]}}"],
        cwd=here,
        env={**environment(here), "SYNTAGMA_TRACE": ""},
        capture_output=True,
        text=True,
        timeout=60,
    )
    assert (
        done.returncode in (status, 2 if "read" in shell else status)
        and "defect" not in done.stderr
        and "Traceback" not in done.stderr
        and "Exception" not in done.stderr
    ), done


@pytest.mark.parametrize(("call", "said"), [
    (["bundle", "--out", "x.zip", "--fit", "insde"], "did you mean “inside”?"), (["sheet", "shw", "s"], "did you mean: syntagma sheet show s"),
    (["term", "--media", "film"], "write image or video"), (["term", "--json=3"], "--json takes no value"), (["theme", "new"], "NAME is missing"),
    (["theme", "new", "a", "b"], "one word too many"), (["library", "add"], "FILE or SHEET is missing"), (["term", "--media"], "--media needs a value"),
])  # fmt: skip
def test_a_wrong_call_is_told(here, call, said):
    done = run(here, *call)
    assert done.returncode == 2 and said in done.stderr, done.stderr


def test_a_service_ends_at_once_when_it_is_told_to(here):
    process = subprocess.Popen(
        [PROGRAM, "service", "simulate", "--port", "0", "--stop-after", "60"],
        cwd=here,
        env=environment(here),
        stderr=subprocess.PIPE,
        text=True,
    )
    assert "http" in process.stderr.readline()
    process.terminate()
    assert process.wait(10) == 0
    process.stderr.close()


def test_the_page_of_judging_knows_its_own_host_and_no_depths(here):
    import http.client
    import threading

    from syntagma.app.results.judged import judged
    from syntagma.app.results.judging import JudgeServer, Judging
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.library import Library

    kept(here)
    library = Library(here)
    judging = Judging(library, judged(Workspace.load(here), library, "all"), False)
    server = JudgeServer(judging, "page")
    threading.Thread(
        target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True
    ).start()

    def asked(host, method="GET", path="", body=None):
        link = http.client.HTTPConnection("127.0.0.1", server.server_port, timeout=10)
        link.putrequest(method, f"/{server.token}/{path}", skip_host=True)
        link.putheader("Host", host.format(server.server_port))
        link.putheader("Content-Length", str(len(body or b"")))
        link.endheaders(body)
        return link.getresponse().status

    try:
        assert [
            asked(host)
            for host in (
                "127.0.0.1:{}",
                "localhost:{}",
                "127.0.0.1:evil",
                "127.0.0.1",
                "evil:{}",
                "127.0.0.1:1",
            )
        ] == [200, 200, 404, 404, 404, 404]
        assert (
            asked("127.0.0.1:{}", "POST", "say", b"[" * 9_000) == 400
            and asked("127.0.0.1:{}", "POST", "say", b"\xff") == 400
        )
    finally:
        server.shutdown()
        server.server_close()


def test_a_profile_of_a_stranger_is_read_with_no_file_of_ours(here):
    (here / "models/theirs.toml").write_text(PROFILE)
    assert run(here, "check").returncode == 0 and os.path.exists(sys.executable)


@pytest.mark.parametrize(
    "call",
    [
        ["compare", "{}", "a red fox"],
        ["shorten", "{}", "--steps", "2"],
        ["rewrite", "{}", "--formula", "poster"],
    ],
)
def test_a_prompt_of_hundreds_of_parts_is_read_and_no_more(here, call):
    done = run(here, *(word.replace("{}", ", ".join(["fog", "a red fox"] * 300)) for word in call))
    assert done.returncode == 1 and "600 parts, too many" in done.stderr


def test_records_that_are_nested_without_end_are_damage(here):
    import sqlite3

    kept(here)
    (here / "r.jsonl").write_text(json.dumps({"text": "A hen.", "model": "curlew-still"}) + "\n")
    good(here, "sheet", "new", "s", "r.jsonl", "--out", "s.csv")
    deep = '{"x":' * 3000 + "1" + "}" * 3000
    for base, change, calls in (
        ("library.sqlite", "update kept set record = ?", [["library", "show", "1"], ["library", "page", "g.html"]]), ("ledger.sqlite", "update given set cells = ?", [["sheet", "import", "s", "s.csv"]]), ("ledger.sqlite", "update rows set body = ?", [["sheet", "show", "s"], ["send", "s", "--dry-run"]]),
    ):  # fmt: skip
        with sqlite3.connect(here / base) as one:
            one.execute(change, (deep,))
        for call in calls:
            done = run(here, *call)
            assert done.returncode == 3 and "can't be" in done.stderr, (call, done)
    (here / "ferry.campaign.toml").write_text(
        'name = "x"\nsite = "a shed"\n[[offer]]\nname = "loaves"\nkind = "food"\nwhat = "a loaf"\nnew = true\n[[place]]\nname = "feed"\nkind = "feed"\nratio = "1:1"\n'
    )
    good(here, "campaign", "approve", "ferry", "all")
    good(here, "campaign", "make", "ferry")
    (here / "ferry/made.json").write_text(deep)
    assert "it records what was made" in run(here, "campaign", "make", "ferry").stderr
