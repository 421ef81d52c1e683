"""What was there is still there, and what was asked for is what comes: rows, columns, parameters, partial files, levels, ranges."""

import json
import os
import subprocess
import time

import pytest

from tests.commands.program import PROGRAM, environment, printed, run
from tests.hostile import LAUGHS, SHEET, packed, workbook

SECONDS = 10


def quick(folder, *words, **options):
    """A call that may not take long, whatever comes of it: so many seconds of work."""
    work = time.process_time()
    done = run(folder, *words, **options)
    assert time.process_time() - work < SECONDS, words
    return done


# Files of strangers: the file, the call, its exit status, what is said.
STRANGERS = [
    ("t.j2", '{{ cycler.__init__.__globals__.os.popen("id").read() }}', ["brief", "poster", "--template", "t.j2"], 1, "is unsafe"),
    ("t.j2", "{{ 1/0 }}", ["brief", "poster", "--template", "t.j2"], 1, "division by zero"),
    ("t.j2", '{% include "x" %}', ["brief", "poster", "--template", "t.j2"], 1, "can't include other files"),
    ("t.j2", '{{ "a" * 99999999999 }}', ["brief", "poster", "--template", "t.j2"], 1, "more memory"),
    ("models/m.toml", '[[refused]]\npattern = "(a+)+$"\n', ["compose", "poster", "medium=x", f"subject={'a' * 400}!", "--model", "m"], 0, ""),
    ("models/m.toml", "[[refused]]\npattern = '(a)\\1'\n", ["compose", "poster", "medium=x", "subject=y", "--model", "m"], 1, "can't be matched safely"),
    ("models/m.toml", '[parameter.ratio]\nat = "after"\nwrite = "{a}{b}{c}{d}{e}{f}{g} {value}"\n', ["check", "long.txt", "--model", "m"], 1, ""),
    ("models/m.toml", '[stress]\npattern = "{marks}{text}{marks}"\nstep = 1e-9\n', ["compose", "poster", "medium=x", "subject=y", "--model", "m"], 1, "step"),
    ("models/m.toml", '[stress]\npattern = "{marks}{text}{marks}"\nstep = 0.001\nrange = [0.5, 5]\n', ["model", "m"], 1, "endless marks"),
    ("models/m.toml", "a = " + "[" * 500 + "]" * 500, ["model", "m"], 1, "nested too deep"),
    ("models/m.toml", "a = " + "9" * 5000, ["model", "m"], 1, "too many digits"),
    ("models/m.toml", "[price]\namount = nan\n", ["model", "m"], 1, "is not a number"),
    ("p.json", '{"x":' * 20_000, ["check", "p.json"], 1, "nested too deep"),
    ("p.json", f'[{{"text": "a fox", "n": {"9" * 5000}}}]', ["check", "p.json"], 1, "too many digits"),
    ("p.json", '[{"text": "a fox", "n": 1e309}]', ["check", "p.json"], 1, "is not a number"),
    ("p.json", '[{"text": "a fox", "n": NaN}]', ["check", "p.json"], 1, "NaN is not a number"),
    ("p.jsonl", '{"text": "a \\ud800 fox"}\n', ["check", "p.jsonl"], 1, "half of a character"),
    ("plan.toml", 'formula = "poster"\ndifferent = 2.0\nvary = ["light"]\n', ["expand", "plan.toml"], 1, "“2.0” is not a valid distance"),
    ("a.formula", "+++\n[stress]\nlight = nan\n+++\nlead [a subject]\n", ["compose", "a.formula", "subject=x"], 1, "nan is not a number"),
    ("a.formula", "+++\n[parameters]\nratio = \"0:0\"\n+++\nlead [a subject]\n", ["compose", "a.formula", "subject=x"], 1, "has no shape"),
    ("vocabulary/sky.csv", 'term\n"low\ncloud"\nhigh cloud\n', ["term", "sky"], 0, "line end"),
    ("p.xlsx", packed(worksheet=SHEET % (b" " * 150_000_000)), ["check", "p.xlsx"], 1, "too large for a workbook"),
    ("p.xlsx", packed(worksheet=LAUGHS + SHEET % b"<row r='1'><c r='A1' t='inlineStr'><is><t>&a8;</t></is></c></row>"), ["check", "p.xlsx"], 1, "entities"),
    ("p.xlsx", packed(worksheet=SHEET % b"<row r='1048576'><c r='XFD1048576'><v>1</v></c></row>"), ["check", "p.xlsx"], 1, "rows"),
    ("p.xlsx", packed(workbook=b"<workbook xmlns='http://schemas.openxmlformats.org/spreadsheetml/2006/main'><sheets/></workbook>"), ["check", "p.xlsx"], 1, "p.xlsx"),
    ("p.xlsx", b"PK\x03\x04", ["compose", "poster", "--rows", "p.xlsx"], 1, "p.xlsx"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("name", "data", "call", "status", "said"),
    STRANGERS,
    ids=[f"{c[2][0]} {c[0]} {n}" for n, c in enumerate(STRANGERS)],
)
def test_files_of_strangers(tmp_path, name, data, call, status, said):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "long.txt").write_text("a b " * 100)
    path = tmp_path / name
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    done = quick(tmp_path, *call)
    assert done.returncode == status and said in done.stderr, done.stderr
    assert not status or len([line for line in done.stderr.splitlines() if line.strip()]) <= 5


def test_a_chain_of_bases(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "models").mkdir()
    for n in range(600):
        (tmp_path / f"models/m{n}.toml").write_text(f'base = "m{n + 1}"\n')
    assert (
        quick(tmp_path, "compose", "poster", "medium=a", "subject=b", "--model", "m0").returncode
        == 1
    )


@pytest.mark.parametrize("call", [
    ["read", "{}"], ["check", "{}"], ["shorten", "{}", "--model", "dunlin-still"], ["compose", "poster", "--rows", "{}"], ["compose", "./{}"], ["expand", "{}"],
    ["term", "import", "{}", "--facet", "sky"], ["brief", "poster", "--import", "{}"], ["brief", "poster", "--template", "{}"], ["formula", "learn", "x", "{}"],
])  # fmt: skip
@pytest.mark.parametrize("what", ["pipe", "device", "folder", "loop"])
def test_what_is_no_file(tmp_path, call, what):
    name = {"expand": "x.toml", "read": "x.txt", "learn": "x.txt"}.get(
        call[0], "x.formula" if "./{}" in call else "x.csv"
    )
    path = tmp_path / name
    {
        "pipe": os.mkfifo,
        "folder": os.mkdir,
        "device": lambda p: os.symlink("/dev/zero", p),
        "loop": lambda p: os.symlink(p, p),
    }[what](path)
    done = quick(tmp_path, *(word.replace("{}", name) for word in call))
    assert done.returncode == 3 and name in done.stderr and len(done.stderr.splitlines()) == 2, (
        done.stderr
    )


@pytest.mark.long
@pytest.mark.parametrize("call", [
    ["read", "a red fox in fog"], ["rewrite", "a red fox, fog", "--formula", "poster", "--pick"], ["shorten", "a red fox, fog, low moon", "--to", "4w"],
    ["compare", "a fox", "a hen"], ["model", "rank", "poster"], ["compose", "poster", "medium=x", "--from", "a red fox in fog"],
])  # fmt: skip
def test_a_broken_profile_stops_only_what_needs_it(tmp_path, call):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "models").mkdir()
    (tmp_path / "models/mine.toml").write_text("text = 5\n")
    done = run(tmp_path, *call)
    assert (
        done.returncode == 0
        and done.stderr.count("the model mine can't be read, so it is left out") == 1
    )
    assert (
        run(tmp_path, "compose", "poster", "medium=a", "subject=b", "--model", "mine").returncode
        == 1
    )
    assert run(tmp_path, "check").returncode == 1


@pytest.mark.parametrize("ending", ["csv", "jsonl", "xlsx"])
@pytest.mark.parametrize("call", [
    ["read", "{}", "--json"], ["rewrite", "{}", "--model", "avocet-still"], ["shorten", "{}", "--to", "8w"], ["check", "{}", "--json"], ["shorten", "{}", "--model", "dunlin-still"],
    ["formula", "learn", "x", "{}"],
])  # fmt: skip
def test_every_row_comes_or_is_told(tmp_path, call, ending):
    texts = [
        f"a red fox in fog, {n} gulls, low moon" for n in ("two", "three", "four", "five", "six")
    ]
    bad = {"csv": '"a"b,1', "jsonl": '{"text": 5}', "xlsx": ""}[ending]
    if ending == "xlsx":
        (tmp_path / "p.xlsx").write_bytes(
            workbook([["text", "name"], *([t, "x"] for t in texts), [bad, "y"]])
        )
    else:
        rows = [f'"{t}",1' if ending == "csv" else json.dumps({"text": t}) for t in texts]
        (tmp_path / f"p.{ending}").write_text(
            "\n".join([*(["text,name"] if ending == "csv" else []), *rows[:3], bad, *rows[3:]])
            + "\n"
        )
    done = run(
        tmp_path,
        *(word.replace("{}", f"p.{ending}") for word in call),
        *(["--column", "text"] if call[0] in ("read",) else []),
    )
    line = {"csv": 5, "jsonl": 4, "xlsx": 7}[ending]
    assert done.returncode == 1 and f"p.{ending}:{line}" in done.stderr, done.stderr
    assert call[0] == "formula" or all(
        f"{n} gulls" in done.stdout for n in ("two", "three", "four", "five", "six")
    )


def test_one_line_that_can_not_be_done_does_not_end_a_file(tmp_path):
    (tmp_path / "p.txt").write_text("a woman, dancing\n!!!\na red fox, fog\n")
    done = run(tmp_path, "read", "p.txt", "--json")
    assert done.returncode == 0 and done.stdout.count('"line"') == 3
    done = run(tmp_path, "rewrite", "p.txt", "--model", "avocet-still")
    assert (
        done.returncode == 1
        and "p.txt:2" in done.stderr
        and "red fox" in done.stdout
        and "2 of 3 prompts worked" in done.stderr
    )


MENDED = [
    ("p.csv", 'text,name\n"a apple pie, fog",a apple pie\n', 'text,name\n"an apple pie, fog",a apple pie\n'),
    ("p.csv", "name,text\r\na old,a old ferry\r\n", "name,text\r\na old,an old ferry\r\n"),
    ("p.csv", 'text\n"say ""a old"" twice, a old lamp"\n', 'text\n"say ""an old"" twice, an old lamp"\n'),
    ("p.json", '[ {"name": "a old ferry", "text": "a old ferry"} ]', '[ {"name": "a old ferry", "text": "an old ferry"} ]'),
    ("p.jsonl", '{"text":"a old f\\u00eate","x":"a old f\\u00eate"}\n', '{"text":"an old f\\u00eate","x":"a old f\\u00eate"}\n'),
    ("p.txt", "  a old ferry \r\n\r\nbanana, a apple\n", "  an old ferry \r\n\r\nbanana, an apple\n"),
    ("p.txt", "a and " * 500 + "fog\n", None),
]  # fmt: skip


@pytest.mark.parametrize(("name", "before", "after"), MENDED, ids=range(len(MENDED)))
def test_mending_touches_nothing_else(tmp_path, name, before, after):
    (tmp_path / name).write_bytes(before.encode())
    done = quick(tmp_path, "check", name, "--mend", "--model", "curlew-still")
    now = (tmp_path / name).read_bytes().decode()
    if after is None:
        assert now == before
    else:
        assert (
            now == after
            and f"{2 if name == 'p.txt' else 1} mended, written to {name}" in done.stderr
        )
    assert "0 mended" in run(tmp_path, "check", name, "--mend", "--model", "curlew-still").stderr


REWRITE = [
    ("a red fox, fog --seed 7 --size big", ["--formula", "photograph"], ["“7” is kept beside the text", "“big” is kept beside the text"]),
    ("a red fox, fog @moth http://a.b/c.png", ["--order", "camera"], ["@moth is left out", "http://a.b/c.png is left out"]),
    ("a red fox, fog, no text, no logo", ["--order", "camera"], ["text, logo"]), ("a red fox. Avoid: blur", ["--model", "avocet-still"], ["the parameter leave-out of the request"]),
    ("Subject: a red fox\nLight: low moon\nNegative: text, logo", ["--formula", "photograph"], ["text, logo"]),
    ('{"subject": "a fox", "light": "lo', ["--order", "camera"], ["not complete JSON"]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "options", "told"), REWRITE, ids=range(len(REWRITE)))
def test_rewrite_tells_what_does_not_go_along(tmp_path, text, options, told):
    done = run(tmp_path, "rewrite", text, *options)
    assert all(words in done.stderr for words in told), done.stderr
    assert "text, logo" not in done.stdout and "blur" not in done.stdout


def test_prose_behind_json_comes_along(tmp_path):
    done = run(
        tmp_path, "rewrite", '{"subject": "a red fox"} in a wet field at dusk', "--order", "camera"
    )
    assert "red fox" in done.stdout and "wet field" in done.stdout


FORMULAE = [
    "=1+1",
    "+cmd",
    "-5 EV",
    "@moth",
    "\tx",
    "'=a",
    "''@b",
    "-5",
    "+3.5",
    "plain",
    "'quoted'",
]


def test_cells_that_a_spreadsheet_would_run(tmp_path):
    rows = "\n".join(f'ferry,linocut,"{cell}"' for cell in FORMULAE)
    (tmp_path / "r.csv").write_text(f"subject,medium,note\n{rows}\n")
    plain = run(
        tmp_path, "compose", "poster", "--rows", "r.csv", "--out", "plain.csv", "--plain-csv"
    )
    once = run(tmp_path, "compose", "poster", "--rows", "r.csv", "--out", "o.csv")
    notes = [line.rsplit(",", 1)[1] for line in (tmp_path / "o.csv").read_text().splitlines()[1:]]
    assert notes == [
        "'=1+1",
        "'+cmd",
        "'-5 EV",
        "'@moth",
        "'\tx",
        "'=a",
        "''@b",
        "-5",
        "+3.5",
        "plain",
        "'quoted'",
    ]
    assert (
        "7 cells that a spreadsheet would run" in once.stderr and "spreadsheet" not in plain.stderr
    )
    run(tmp_path, "compose", "poster", "--rows", "o.csv", "--out", "again.csv")
    assert (tmp_path / "again.csv").read_bytes() == (tmp_path / "o.csv").read_bytes()
    raw = [line.rsplit(",", 1)[1] for line in (tmp_path / "plain.csv").read_text().splitlines()[1:]]
    assert raw[:5] == ["=1+1", "+cmd", "-5 EV", "@moth", "\tx"]


ESCAPES = [
    ["shorten", "p.txt", "--model", "dunlin-still", "--marked"], ["shorten", "p.txt", "--to", "5w"], ["check", "p.txt", "--model", "curlew-still"], ["brief", "poster", "--import", "p.txt"],
    ["term", "sky"], ["compose", "bad.formula"], ["check", "bad.formula"], ["compose", "poster", "medium=x", "subject=\x1b[31mred"], ["model", "\x1b[31m"], ["read", "p.txt"],
    ["formula", "./good.formula"], ["compose", "./good.formula", "subject=x"],
]  # fmt: skip


@pytest.mark.parametrize(
    "call", ESCAPES, ids=lambda call: " ".join(call)[:30].replace("\x1b", "ESC")
)
def test_no_escape_code_of_others_reaches_the_terminal(tmp_path, call):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "vocabulary").mkdir()
    (tmp_path / "vocabulary/sky.csv").write_text("term,gloss\nlow cloud,grey \x1b[31m\x9b31m\n")
    (tmp_path / "p.txt").write_text(
        "a red fox \x1b]0;x\x07 in fog, on a wet quay, lit by low moon, a a fox\n"
    )
    (tmp_path / "bad.formula").write_text("lead [a \x1b[31msubject\n")
    (tmp_path / "good.formula").write_text("lead [a subject] \x1b[31m in ink\n")
    done = run(tmp_path, *call, screen=True)
    assert not [c for c in done.screen + done.stderr if c in "\x1b\x07\x9b"]


LEVELS = [
    "--vary",
    "light=sodium quay lamps,candlelight,hard noon sun",
    "--vary",
    "medium=linocut,etching,woodcut",
]


@pytest.mark.parametrize(
    "design",
    [["--design", "cover"], ["--design", "full"], ["--design", "spread", "--count", "3"], []],
)
def test_a_level_that_can_not_come_is_told(tmp_path, design):
    base = ["expand", "poster", "subject=x", "setting=farmhouse kitchen", *LEVELS, *design]
    done = run(tmp_path, *base)
    assert (
        "light: “hard noon sun” can't be used, because" in done.stderr
        and '--allow "hard noon sun"' in done.stderr
    )
    kept = run(tmp_path, *base, "--allow", "hard noon sun")
    assert "“hard noon sun” comes in no member" not in kept.stderr
    assert design == ["--design", "spread", "--count", "3"] or "hard noon sun" in kept.stdout
    assert "no axis has the choice “noon”" in run(tmp_path, *base, "--allow", "noon").stderr


IMPOSSIBLE = [
    (["expand", "[a subject]", "--vary", "subject=a,b,c", "--design", "random", "--count", "100000"], 0, "100,000 were asked for, but at most 3 are possible"),
    (["expand", "[a subject]", "--vary", "subject=a,b,c", "--design", "mixed", "--count", "1000000"], 0, "at most 3 are possible"),
    (["expand", "poster", "subject=x", *[w for s in ("light", "palette", "medium", "mood") for w in ("--vary", s)], "--design", "spread", "--count", "100000"], 2, "of memory"),
    (["expand", "poster", "subject=x", *[w for s in ("light", "palette", "medium", "mood") for w in ("--vary", s)], "--design", "mixed", "--count", "1000000"], 2, "hours"),
    (["expand", "poster", "--count", "1000000000"], 2, "is not a valid number of prompts"),
    (["expand", "poster", "subject=x", "--vary", "light", "--different", "2"], 2, "is not a valid distance"), (["expand", "poster", "subject=x", "--vary", "light=a,b", "--without", "99999"], 2, "can't leave out member 99,999"),
    (["expand", "poster", "subject=x", "--vary", "light=a,b", "--refill"], 2, "--refill replaces members"), (["expand", "poster", "subject=x", "--vary", "light=a,b", "--model", "dunlin-still,dunlin-still"], 2, "is given twice"),
    (["compose", "poster", "medium=a", "subject=b", "--look", "two-inks,two-inks"], 2, "is given twice"), (["compose", "poster", "medium=a", "subject=b", "--parameter", "ratio=0:0"], 2, "has no shape"),
    (["compose", "poster", "medium=a", "subject=b", "--parameter", "count=-1"], 2, "count=-1 is below the minimum"), (["expand", "poster", "subject=x", "--vary", "light=a,b", "--effort", "nan"], 2, "is not a valid effort"),
    (["compose", "poster", "medium=a", "subject=b", "--stress", "light=nan"], 2, "is not a valid weight"), (["expand", "poster", "subject=x", "--vary", "light=a,a,b"], 0, "light: “a” was given twice"),
    (["term", "new", "sky", "low\ncloud"], 2, "line end"), (["model", "rank", "poster", "medium=x"], 2, "subject: this slot must be filled"),
    (["compose", "poster", "medium=a", "subject=b", "--model", "whimbrel-motion", "--parameter", "seconds=1e999"], 1, "seconds"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("call", "status", "said"), IMPOSSIBLE, ids=[f"{c[2]} {n}" for n, c in enumerate(IMPOSSIBLE)]
)
def test_what_can_not_be_had_is_told_at_once(tmp_path, call, status, said):
    done = quick(tmp_path, *call)
    assert done.returncode == status and said in done.stderr, done.stderr
    assert len(done.stderr.splitlines()) <= 6


def test_columns_of_rows_say_what_options_say(tmp_path):
    (tmp_path / "r.csv").write_text(
        "subject,shot,seconds,model,stress,reference,note\na fox,wide shot,8,whimbrel-motion,subject=1.2,,x\na hen,wide shot,4,,,,y\na cow,wide shot,0,,,,z\n"
    )
    done = run(
        tmp_path,
        "compose",
        "film-shot",
        "--rows",
        "r.csv",
        "--pick",
        "--model",
        "whimbrel-motion",
        "--json",
    )
    first, second = printed(done.stdout)
    assert (first["parameters"]["seconds"], second["parameters"]["seconds"]) == (8, 4) and first[
        "cost"
    ]["amount"] == 2 * second["cost"]["amount"]
    assert (
        first["stress"] == {"subject": 1.2}
        and first["row"] == {"note": "x"}
        and "r.csv:4:1: seconds=0 is below the minimum" in done.stderr
    )


def test_what_is_asked_for_is_what_comes(tmp_path):
    assert (
        "pick"
        not in run(tmp_path, "expand", "photograph", "subject=pick", "--vary", "light:2").stdout
    )
    full = run(
        tmp_path,
        "expand",
        "photograph",
        "subject=harbour pilot",
        "--vary",
        "light=candlelight,hard noon sun",
        "--detail",
        "rich",
    ).stdout
    assert (
        "Shot on" in full
        and full.splitlines()[0].split(", lit")[0] == full.splitlines()[1].split(", lit")[0]
    )
    assert (
        ",."
        not in run(
            tmp_path, "expand", "three-shots", "place=wet quay", "--vary", "hero=pilot,purser"
        ).stdout
    )
    assert (
        run(
            tmp_path,
            "compose",
            "[a subject], black rocks far below, lit by [lighting]",
            "subject=gull",
            "lighting=dusk",
        ).stdout
        == "A gull, black rocks far below, lit by dusk\n"
    )
    ideas = run(
        tmp_path,
        "compose",
        "photograph",
        "--ideas",
        "3",
        "--from",
        "a night purser on a wet quay",
        "--json",
    )
    assert all("subject" not in idea["fills"] for idea in printed(ideas.stdout))
    varied = run(
        tmp_path,
        "expand",
        "--text",
        "A gull on black rocks, lit by a low moon",
        "--vary",
        "lighting=candlelight,hard noon sun",
    )
    assert varied.stdout.splitlines()[1:] == [
        "A gull on black rocks, lit by candlelight",
        "A gull on black rocks, lit by a hard noon sun",
    ]
    tags = run(
        tmp_path,
        "compose",
        "product-still",
        "product=coffee grinder",
        "surface=oiled oak",
        "ground=plain white",
        "--model",
        "dunlin-still",
    )
    assert "oiled oak surface, plain white background" in tags.stdout


def test_a_folder_that_looks_like_a_workspace(tmp_path):
    (tmp_path / "formulas").mkdir()
    (tmp_path / "formulas/mine.formula").write_text("lead [a subject]\n")
    assert "`syntagma start .` makes it one" in run(tmp_path, "compose", "mine", "subject=x").stderr
    run(tmp_path, "start", ".")
    assert run(tmp_path, "compose", "mine", "subject=x").stdout == "An x\n"


PROFILE = """[text]
register = "nested"
[stress]
pattern = "^^{text}^^"
[request]
what = "{text.lead.subject}"
light = "{text.light}"
"""


def test_weight_that_is_on_or_off_and_fields_of_nested_text(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "models").mkdir()
    (tmp_path / "models/nest.toml").write_text(PROFILE)
    (tmp_path / "models/marks.toml").write_text('[stress]\npattern = "^^{text}^^"\n')
    made = run(
        tmp_path,
        "expand",
        "poster",
        "medium=x",
        "--vary",
        "subject=ferry,urn",
        "light=dusk",
        "--model",
        "nest",
        "--json",
    )
    assert [r["request"] for r in printed(made.stdout)] == [
        {"what": "ferry", "light": "dusk"},
        {"what": "urn", "light": "dusk"},
    ]
    assert (
        "lit by ^^dusk^^"
        in run(
            tmp_path,
            "compose",
            "poster",
            "medium=x",
            "subject=y",
            "light=dusk",
            "--stress",
            "light=1.4",
            "--model",
            "marks",
        ).stdout
    )
    pieces = printed(
        run(
            tmp_path,
            "read",
            "a ^^red fox^^ on slack-water sands, low-key",
            "--model",
            "marks",
            "--json",
        ).stdout
    )[0]["pieces"]
    assert [(p["text"], p["stress"]) for p in pieces if "stress" in p] == [("a ^^red fox^^", 1.2)]
    made = run(tmp_path, "model", "new", "clips", "--media", "video", "--accepts", "seconds=4..12")
    assert (
        made.returncode == 0 and "range = [4, 12]" in (tmp_path / "models/clips.toml").read_text()
    )


LONG = {
    "run-on": "redfox" * 800,
    "very": "very " * 10_000,
    "spaces": "a fox" + " " * 10_000 + "in fog",
    "camera": "camera (" * 8_000,
    "commas": "," * 20_000,
}


@pytest.mark.parametrize("name", LONG)
def test_long_text_is_read_in_time(tmp_path, name):
    (tmp_path / "p.txt").write_text(LONG[name] + "\na red fox, fog\n")
    done = quick(tmp_path, "read", "p.txt", "--json")
    assert printed(done.stdout)[-1]["text"] == "a red fox, fog"


def test_a_full_disk_keeps_what_is_finished(tmp_path):
    import resource

    axes = [
        word
        for slot in ("light", "palette", "mood")
        for word in ("--vary", f"{slot}={','.join(f'{slot}{n}' for n in range(60))}")
    ]
    call = [
        "expand",
        "poster",
        "subject=x",
        "medium=y",
        *axes,
        "--design",
        "full",
        "--all",
        "--out",
        "big.txt",
    ]
    small = lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (2_000_000, 2_000_000))  # noqa: E731
    done = subprocess.run(
        [PROGRAM, *call],
        cwd=tmp_path,
        env=environment(tmp_path),
        capture_output=True,
        text=True,
        preexec_fn=small,
        timeout=60,
    )
    assert done.returncode == 3 and "what is finished is in big.txt.partial" in done.stderr
    left = (tmp_path / "big.txt.partial").stat().st_size
    assert left > 1_000_000
    assert (
        run(tmp_path, *call, "--resume").returncode == 0
        and (tmp_path / "big.txt").read_text().count("\n") == 216_000
    )


def test_answers_that_are_no_text(tmp_path):
    done = run(tmp_path, "compose", "poster", "subject=x", "--ask", given=b"lino\xff\xfe\n\n")
    assert done.returncode == 0 and "lino" in done.stdout


def test_what_was_learned_for_one_formula_is_not_picked_for_others(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "vocabulary").mkdir()
    (tmp_path / "vocabulary/subject.csv").write_text(
        "term,tags,formulas\nclockwork tram,object,mine\n"
    )
    assert (
        "clockwork tram"
        not in run(tmp_path, "expand", "poster", "medium=x", "--vary", "subject").stdout
    )
    (tmp_path / "formulas").mkdir()
    (tmp_path / "formulas/mine.formula").write_text("lead [a subject]\n")
    assert "A clockwork tram" in run(tmp_path, "expand", "mine", "--vary", "subject").stdout


def test_marks_that_can_not_be_read_are_told_and_kept(tmp_path):
    (tmp_path / "own").mkdir()
    (tmp_path / "own/marks.csv").write_text(f'facet,term,star,note\nlens,"{"x" * 200_000}",yes,\n')
    before = (tmp_path / "own/marks.csv").read_bytes()
    assert run(tmp_path, "term", "star", "candlelight").returncode == 3
    done = run(tmp_path, "compose", "poster", "medium=linocut", "subject=x")
    assert (
        done.returncode == 0
        and done.stderr.count("your stars and notes can't be read, so it is left out") == 1
    )
    assert (tmp_path / "own/marks.csv").read_bytes() == before


def test_a_tokenizer_lies_beside_its_profile(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "models").mkdir()
    (tmp_path / "models/mine.toml").write_text(
        '[limits]\ntext = { most = 9, unit = "tokens", tokenizer = "../../etc/passwd" }\n'
    )
    assert "it is not in the profile's folder" in run(tmp_path, "model", "mine").stderr


def test_mistakes_without_number_are_told_in_a_screen_or_two(tmp_path):
    (tmp_path / "b.formula").write_text("lead " + "[" * 6000 + "\n" + "x {y} " * 3000)
    done = quick(tmp_path, "check", "b.formula")
    assert done.returncode == 1 and "and 8,940 more" in done.stdout and len(done.stdout) < 60_000


@pytest.mark.parametrize(("model", "text"), [
    ("curlew-still", "Masterpiece, silver hair, standing on a rooftop at night, long coat. /shape 2x3\n"), ("dunlin-still", "masterpiece, <silver hair @1.3>, standing on a rooftop at night, long coat\n"),
])  # fmt: skip
def test_a_prompt_of_another_hand_is_moved_to_a_model(tmp_path, model, text):
    """Weights, ratios and settings in other notations are never parts, and go where the model has them."""
    done = run(
        tmp_path,
        "rewrite",
        "masterpiece, (silver hair:1.3), standing on a rooftop at night, long coat, 2:3, Steps: 30",
        "--model",
        model,
    )
    assert (
        done.returncode == 0
        and done.stdout == text
        and "steps: " in done.stderr
        and "no parameter “steps”, so “30” is left out" in done.stderr
    )
