"""Hostile files of every type that is read, given to every command that takes such a file, in one process.

    python -m tests.hostile [CALLS] [SEED]

It makes so many calls and tells what no call may do: raise, take more than five seconds of work, let an escape code through, lose a row.
"""

import io
import json
import os
import random
import signal
import sys
import tempfile
import time
import traceback
import zipfile
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path
from typing import NamedTuple

from tests.commands.program import run

SECONDS = 5
ESC = "\x1b[31m\x07"

PROFILE = (Path(__file__).parents[1] / "src/syntagma/data/models/curlew-still.toml").read_text(
    "utf-8"
)
FORMULA = (Path(__file__).parents[1] / "src/syntagma/data/formulas/poster.formula").read_text(
    "utf-8"
)
LOOK = (Path(__file__).parents[1] / "src/syntagma/data/looks/newsprint.formula").read_text("utf-8")
THEME = (Path(__file__).parents[1] / "src/syntagma/data/themes/night.toml").read_text("utf-8")
PLAN = 'formula = "poster"\ndesign = "single"\nvary = ["light:3"]\n[fills]\nsubject = "car ferry"\nmedium = "linocut"\n'
KNOWN = '[moth]\nwords = "a brown dog called Moth"\npicture = "moth.png"\n'
PROMPTS = [
    "A linocut of a car ferry, on a wet quay, lit by sodium quay lamps",
    "a red fox, fog, low moon",
    '{"subject": "a tea urn"}',
]
RECORD = {
    "text": PROMPTS[0], "formula": "poster", "model": "curlew-still", "fills": {"medium": "linocut", "subject": "car ferry"},
    "parameters": {"ratio": "2:3"}, "references": [{"role": "style", "value": "a.png"}], "stress": {"subject": 1.2}, "negative": "text",
}  # fmt: skip
ROWS = "medium,subject,setting,wish\nlinocut,car ferry,wet quay,\netching,,,a red fox in fog\n"
VOCABULARY = (
    "term,number,gloss,tags,clashes\nwet slate,mass,dark,night; sea,#day\npaper moons,many,,,\n"
)
RULES = 'never "sodium quay lamps" with "low moon behind scud"\n'
SHOTS = (
    "scene,shot,seconds,size,move,who,action,setting,hour,light from,facing,light,line,first frame,last frame,screen side,eyeline,wardrobe,props,continuous,reverse of,takes\n"
    '1,1,4,wide shot,slow push-in,moth,MOTH runs.,wet quay,night,east,north,single bare bulb,,"MOTH at the door",,left,right,MOTH: red collar,MOTH: stick,,,2\n'
    '1,2,,close-up,,moth; a boy,pick,,,,,,"BOY (dry): Here. Come here. | MOTH (V.O.): Why?",,"MOTH asleep","MOTH left, a boy right",,,,yes,,\n1,3,60,,,,,,,,,,,,,,,,,,2,\n'
)  # fmt: skip
SCRIPT = "Title: Slack\n\n# One\n\nINT. HUT - NIGHT #2A#\n\n!1 WIDE [[shot 1; size: wide shot]]\n\nMOTH sleeps. /* not yet */\n\nBOY (V.O.)\n(quiet)\nMoth?\n\nGIRL ^\nMoth!\n\n> FADE OUT.\n"
FILM = 'title = "x"\nrate = 25\nmounts = ["newsprint"]\n[say]\nMoth = "MOTT"\n[wears.moth]\n1 = "a coat"\n'
SENT = '{"text": "x", "model": "godwit-motion", "film": {"kind": "clip", "seconds": 4, "shots": [{"shot": "1/1", "key": "a", "said": [], "atoms": [0, 1]}]}}\n'
COPY = "id,status,takes,text,negative,model,seed,cost,findings,note,seen\nr1,approved,2,another hen,,curlew-still,4,4 credits,,why,\n,open,1,a hare,,curlew-still,,,,,\nr9,removed,1,gone,,,,,,,"
ANSWER = "Here are your prompts:\n1. A linocut of a car ferry. Bold simple shapes, clear space at the top for lettering\n2. nothing\n"
TEMPLATE = "# {{ formula }}\n{% for p in phrases %}{{ p.words }}\n{% endfor %}"
CAMPAIGN = 'name = "x"\nsite = "a shed"\nthings = "a; b; c; d"\nbudget = 9\n[look]\nfills = { palette = "ink blue" }\n[[offer]]\nname = "loaves"\nkind = "food"\nwhat = "a loaf"\nnew = true\nsince = "now"\n[[place]]\nname = "feed"\nkind = "feed"\nsize = "3x4"\n[[place]]\nname = "page"\nkind = "web"\nratio = "3:2"\n'
KINDS = '[kind.odd]\nper = ["offer"]\nat = ["feed"]\nformula = "photograph"\nfills = { main = "{offer.what}" }\nwhy = ["{offer.Name|are|is} odd."]\nvary = ["light"]\n'
PAIRS = '{"instruction": "a hen", "prompt": "A linocut of a hen", "formula": "poster", "fills": {"subject": "hen"}, "split": "test"}\n{"messages": [{"role": "user", "content": "a fox"}, {"role": "assistant", "content": "A fox, fog"}]}\n'
SETTINGS = 'model = "curlew-still"\n'

# What is put into good files: each breaks some reader somewhere.
TOKENS = [
    b"\0", b"\xff\xfe", b"\xef\xbb\xbf", ESC.encode(), b"\xc2\x9b31m", b"\r", b"\n", b"\t", b"'", b'"', b'"""', b"\\", b"[", b"]", b"{", b"}", b"[[", b"]]",
    b"=", b"=cmd|' /C calc'!A0", b"+++\n", b"#", b"-", b"~", b"!", b"{{", b"}}", b"{%", b",", b";", b"1e309", b"-1e309", b"nan", b"inf", b"9" * 5000, b"0",
    b"-1", b"1.5", b"true", b"null", b"[]", b"{}", b'"\\ud800"', b"\\ud83d", b"\xed\xa0\x80", "é".encode(), "灯台".encode(), "\u2028".encode(), "\u202e".encode(),
    "\u0301".encode() * 50, b"{a}{b}{c}{d} {value}", b"(a+)+$", b"{value}", b"..", b"../../etc/passwd", b"/dev/zero", b"@moth", b"a" * 3000, b" " * 3000,
    b"very " * 400, b"a and " * 100, b"[" * 3000, b'{"x":' * 3000, b"\n" * 3000, b'""' * 500, b"0x", b"1_0", b"1979-05-27", b"light", b"base = \"curlew-still\"\n",
    b"[parameter.x]\n", b"[stress]\nstep = 1e-9\n", b"`", b"```", b"<", b">", b"%", b"%s", b"&amp;", b"\x7f", b"\x08", b"a, a, a", b"--x y", b"/shape 0:0",
]  # fmt: skip


class Kind(NamedTuple):
    """A type of file: its name, good contents, and the calls that take it ({} is the file)."""

    name: str
    good: bytes
    calls: list[list[str]]


def kinds() -> list[Kind]:
    lines = "\n".join(PROMPTS).encode()
    table = (
        b'text,name,negative\n"A linocut of a car ferry, on a wet quay",one,text\na red fox,two,\n'
    )
    prompts = [
        ["read", "{}"], ["read", "{}", "--json"], ["rewrite", "{}", "--formula", "poster", "--pick"], ["rewrite", "{}", "--model", "knot-motion"],
        ["rewrite", "{}", "--order", "camera", "--json"], ["shorten", "{}", "--to", "8w"], ["shorten", "{}", "--steps", "2", "--json"], ["compare", "{}", "a red fox"],
        ["formula", "learn", "tried", "{}"], ["formula", "learn", "tried", "{}", "{}", "--json"], ["check", "{}"], ["check", "{}", "--json", "--model", "curlew-still"],
        ["check", "{}", "--mend", "--out", "mended.txt"], ["check", "{}", "--request", "--model", "whimbrel-motion"], ["shorten", "{}", "--model", "dunlin-still"],
        ["shorten", "{}", "--model", "dunlin-still", "--json"], ["compose", "poster", "medium=linocut", "--from", "{}", "--pick"],
        ["sheet", "new", "s", "{}"], ["sheet", "new", "s", "{}", "--out", "made.xlsx"],
    ]  # fmt: skip
    rows = [
        ["compose", "poster", "--rows", "{}"],
        ["compose", "photograph", "--rows", "{}", "--pick", "--out", "made.csv"],
        ["term", "import", "{}", "--facet", "sky"],
    ]
    own = [
        ["term"], ["compose", "poster", "medium=a", "subject=b"], ["read", "a red fox in fog"], ["check"], ["model", "rank", "poster"], ["formula"],
        ["rewrite", "a red fox, fog", "--formula", "poster", "--pick"], ["compare", "a fox", "a hen"], ["shorten", "a red fox, fog, low moon", "--steps", "2"],
    ]  # fmt: skip
    film = [
        ["film", "prompts", "{}", "--model", "godwit-motion", "--out", "t.jsonl", "--out", "t.html", "--out", "t.srt", "--out", "t.otio"], ["film", "check", "{}", "--model", "whimbrel-motion"],
        ["film", "prompts", "{}", "--model", "knot-motion", "--json"], ["film", "prompts", "{}", "--filled"], ["film", "prompts", "{}", "--list", "made.csv"], ["film", "prompts", "{}", "--list", "made.xlsx", "--filled"],
        ["film", "prompts", "{}", "--model", "whimbrel-motion", "--set", "1/2/1=Longer than it was before.", "--out", "t.fountain"],
    ]  # fmt: skip
    pictures = [
        ["library", "add", "{}", "--prompt", "a red fox"], ["bundle", "--out", "b.zip", "--use", "mine", "--size", "40x40", "--cut-out", "--ground", "transparent"], ["library", "add", "{}"], ["library", "add", "{}", "--prompt", "a fox", "--sign", "signed", "--bare", "bare"], ["read", "{}"], ["read", "{}", "--json"], ["read", "{}"], ["duplicates", "{}", "{}"],
        ["compose", "poster", "medium=linocut", "subject=x", "--like", "{}"], ["term", "picture", "medium", "linocut", "{}"],
    ]  # fmt: skip
    kept = [
        ["library"], ["library", "find", "fox", "--rating", "2"], ["library", "show", "1"], ["compose", "--kept", "1", "medium=linocut"], ["library", "remove", "1"], ["library", "money", "label"], ["library", "backup", "all.zip"],
        ["library", "page", "g.html"], ["judge", "x", "--page", "j.html"], ["effects", "x"], ["term", "medium", "--page", "t.html"], ["bundle", "--out", "b.zip", "--use", "mine", "--size", "40x40", "--cut-out"], ["bundle", "1", "--out", "b.zip", "--use", "mine", "--prompts"], ["library", "add", "good.png", "--prompt", "a hen"],
    ]  # fmt: skip
    campaign = [
        ["campaign", "approve", "x", "all"],
        ["campaign", "plan", "x", "--json"],
        ["campaign", "make", "x"],
        ["campaign", "plan", "x", "--out", "made.xlsx"],
    ]
    judged = [
        ["judge", "x", "--import", "{}"],
        ["judge", "x", "--pairs", "--import", "{}", "--judge", "Cy"],
    ]
    return [
        Kind("shots.csv", SHOTS.encode(), film), Kind("shots.xlsx", workbook([row.split(",")[:8] for row in SHOTS.split("\n")[:2]]), film), Kind("script.fountain", SCRIPT.encode(), film),
        Kind("good-shots.toml", FILM.encode(), [["film", "prompts", "good-shots.csv", "--model", "godwit-motion"]]),
        Kind("sent.jsonl", SENT.encode(), [["film", "prompts", "good-shots.csv", "--model", "godwit-motion", "--sent", "{}"]]),
        Kind("ledger.sqlite", ledger(), [["sheet"], ["sheet", "show", "s"], ["sheet", "show", "s", "--out", "made.csv"], ["sheet", "approve", "s", "--all"], ["sheet", "log", "s", "r"], ["send", "s", "--dry-run"], ["send", "s", "--yes", "--budget", "9", "--at", "http://127.0.0.1:9"], ["collect", "s", "--at", "http://127.0.0.1:9"], ["collect", "--reconcile", "--anyway", "--at", "http://127.0.0.1:9"], ["sheet", "settle", "s", "r1.1", "--lost"], ["sheet", "import", "s", "copy.csv"]]),
        Kind("own/halted.json", b'{"http://127.0.0.1:9": "it charged too much"}', [["service"], ["service", "resume", "127.0.0.1:9"], ["send", "s", "--yes", "--budget", "9", "--at", "http://127.0.0.1:9"]]),
        Kind("bill.csv", b"task,charged\nt1,4\nt2,5.5\n", [["collect", "s", "--statement", "{}"]]),
        Kind("own/services.toml", b'[services."127.0.0.1:1"]\nenv = "X"\n', [["service"], ["service", "add", "api.example", "--env", "Y"], ["send", "s", "--dry-run"]]),
        Kind("copy.csv", COPY.encode(), [["sheet", "import", "s", "{}"]]), Kind("copy.xlsx", workbook([row.split(",") for row in COPY.split("\n")]), [["sheet", "import", "s", "{}"]]),
        Kind("takes.csv", b"clip,file,seconds,speech end,chosen\n1/1,a.mp4,4,3,yes\n", [["film", "prompts", "good-shots.csv", "--model", "whimbrel-motion", "--results", "{}", "--out", "t.otio"]]),
        *(Kind(f"a.{kind}", image(kind), pictures) for kind in ("png", "jpg", "webp")),
        Kind("library.sqlite", library(), kept), Kind("judged.csv", b"judge,kind,picture,other,value,slot,phrase,at,id\nAda,rating,1,,3,,,,a\nBo,pair,1,2,left,,,,b\n", judged),
        Kind("judged.xlsx", workbook([["judge", "kind", "picture", "value"], ["Ada", "rating", "1", "4"]]), judged),
        Kind("family.jsonl", FAMILY.encode(), [["effects", "{}"], ["effects", "{}", "--json"], ["duplicates", "{}"], ["library", "add", "good.png", "--prompt", "{}"], ["sheet", "new", "t", "{}"]]),
        Kind("x.campaign.toml", CAMPAIGN.encode(), campaign), Kind("x.plan.csv", plan_of_x(), campaign), Kind("campaign.toml", KINDS.encode(), campaign),
        Kind("copy.plan.csv", plan_of_x(), [["campaign", "import", "x", "{}"]]), Kind("x/made.json", b'{"%s": {"mark": "x", "path": "a.md", "records": [{"text": "a"}], "page": "y"}}' % plan_of_x().split(b"\n")[1][:10], [["campaign", "approve", "x", "all"], ["campaign", "make", "x"]]),
        Kind("pairs-train.jsonl", PAIRS.encode(), [["dataset", "check", "{}"], ["dataset", "check", "{}", "{}", "--json"], ["dataset", "check", "{}", "--formula", "poster"]]),
        Kind("stranger.zip", pack(), [["pack", "show", "{}"], ["pack", "import", "{}"], ["pack", "import", "{}", "--replace", "all", "--people"], ["pack", "show", "{}", "--json"]]),
        Kind("form.xlsx", form(), [["compose", "poster", "--rows", "{}"]]), Kind("facets.toml", b'[subject]\nask = "Who?"\nparticipant = true\n', [["form", "poster", "--out", "f.html"], ["pack", "p", "--out", "p.zip"]]),
        Kind("prompts.txt", lines, prompts), Kind("prompts.csv", table, prompts), Kind("prompts.json", json.dumps([RECORD, "a red fox"]).encode(), prompts),
        Kind("prompts.jsonl", f"{json.dumps(RECORD)}\n{json.dumps({'text': 'a red fox'})}\n".encode(), prompts),
        Kind("prompts.xlsx", workbook([["text", "name"], ["A linocut of a car ferry", "one"], ["a red fox", "two"]]), prompts),
        Kind("rows.csv", ROWS.encode(), rows), Kind("rows.xlsx", workbook([["medium", "subject"], ["linocut", "car ferry"]]), rows),
        Kind("one.formula", FORMULA.encode(), [
            ["compose", "./{}", "medium=linocut", "subject=ferry"], ["compose", "./{}", "--pick", "--detail", "rich"], ["check", "{}"], ["expand", "./{}", "--count", "3"],
            ["rewrite", "a red fox, fog", "--formula", "./{}"], ["brief", "./{}"], ["model", "rank", "./{}"], ["compose", "./{}", "--json", "--ask"], ["shorten", "a fox", "--written-with", "./{}"],
            ["form", "./{}", "--out", "f.xlsx", "--blank-rows", "2"], ["form", "./{}", "--out", "f.html"], ["dataset", "./{}", "--count", "2", "--json"],
        ]),
        Kind("one.look.formula", LOOK.encode(), [["compose", "poster", "medium=a", "subject=b", "--look", "./{}"]]),
        Kind("plan.toml", PLAN.encode(), [["expand", "{}"], ["expand", "{}", "--dry-run"], ["expand", "{}", "--out", "made.jsonl"]]),
        Kind("theme.toml", THEME.encode(), [["compose", "poster", "--theme", "./{}"], ["compose", "photograph", "--ideas", "3", "--theme", "./{}"]]),
        Kind("answer.txt", ANSWER.encode(), [["brief", "poster", "--import", "{}"], ["brief", "poster", "--import", "{}", "--json", "--model", "curlew-still"]]),
        Kind("rules.txt", RULES.encode(), [["expand", "poster", "subject=x", "medium=y", "--vary", "light=sodium quay lamps,candlelight", "--rules", "{}"]]),
        Kind("models/mine.toml", PROFILE.encode(), [
            *own, ["compose", "poster", "medium=a", "subject=b", "--model", "mine", "--stress", "subject=1.3"], ["model", "mine"], ["model", "try", "mine"], ["model"],
            ["check", "good.txt", "--model", "mine"], ["shorten", "good.txt", "--model", "mine"], ["check", "good.txt", "--request", "--model", "mine"], ["read", "good.txt", "--model", "mine"],
            ["expand", "poster", "subject=x", "--vary", "medium:2", "--model", "mine", "--json"], ["check", "good.txt", "--mend", "--out", "-", "--model", "mine"],
        ]),
        Kind("vocabulary/subject.csv", VOCABULARY.encode(), [*own, ["term", "subject"], ["term", "find", "wet"], ["term", "subject", "--out", "made.xlsx"], ["compose", "poster", "--pick"], ["term", "new", "subject", "low cloud"]]),
        Kind("formulas/mine.formula", FORMULA.encode(), own), Kind("looks/mine.formula", LOOK.encode(), [*own, ["look"], ["look", "mine"]]),
        Kind("themes/mine.toml", THEME.encode(), [*own, ["theme"], ["theme", "mine"]]),
        Kind("known.toml", KNOWN.encode(), [*own, ["compose", "poster", "medium=a", "subject=@moth"]]), Kind("syntagma.toml", SETTINGS.encode(), own),
        Kind("own/marks.csv", b"facet,term,star,note\nlens,85mm lens,yes,\n", [["term", "lens"], ["compose", "photograph", "--pick"], ["term", "star", "50mm lens"], ["term", "note", "50mm lens", "x"]]),
    ]  # fmt: skip


FAMILY = "".join(
    json.dumps(
        {
            "text": f"prompt {n}",
            "fills": {"light": f"l{n % 2}"},
            "design": {
                "name": "full",
                "index": n,
                "changes": {"light": ["l0", "l1"]} if n % 2 else {},
            },
        }
    )
    + "\n"
    for n in range(4)
)


@cache
def image(kind: str) -> bytes:
    """A small picture that says something of itself."""
    from PIL import Image

    from syntagma.formats.metadata.pictures import signed
    from syntagma.formats.metadata.xmp import Properties

    out = io.BytesIO()
    made = Image.new("RGB", (24, 16), (90, 40, 30))
    made.paste((200, 190, 120), (4, 4, 14, 12))
    made.save(out, {"jpg": "JPEG"}.get(kind, kind.upper()))
    return signed(
        out.getvalue(),
        Properties("A fox", "A red fox in snow", "Ada", "curlew-still", credit="ours"),
    )


@cache
def library() -> bytes:
    """A library with two results in it, and a judgement."""
    from syntagma.storage.library import Judgement, Library

    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "a.png").write_bytes(image("png"))
        made = Library(Path(folder))
        made.keep(
            Path(folder, "a.png"),
            {
                "text": "A red fox",
                "rating": 3,
                "record": {"fills": {"medium": "linocut"}, "formula": "poster"},
            },
            ["x"],
            [("medium", "linocut")],
        )
        made.judge(Judgement("Ada", "x", "rating", 1, "4"))
        made.base.execute("pragma journal_mode=delete")
        made.base.close()
        return (Path(folder) / "library.sqlite").read_bytes()


@cache
def plan_of_x() -> bytes:
    """The plan of the business CAMPAIGN, all of it approved."""
    from syntagma.app.handing_on.campaigns import kinds_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.campaign import planned, read_business

    rows = [
        f"{piece.id},approved,9,launch,feed,2,8 credits,so,note"
        for piece in planned(read_business(CAMPAIGN, "x"), kinds_of(Workspace(None))).pieces
    ]
    return "\n".join(
        ["piece,status,priority,what,place,pictures,cost,why,note", *rows, ""]
    ).encode()


@cache
def pack() -> bytes:
    """A good pack with a formula, terms and somebody known in it."""
    from syntagma.app.handing_on.pack_file import Pack, write_pack

    out = io.BytesIO()
    write_pack(
        out,
        Pack(
            {"name": "p", "version": "1"},
            {
                "formulas/theirs.formula": FORMULA.encode(),
                "vocabulary/subject.csv": VOCABULARY.encode(),
                "known.toml": KNOWN.encode(),
                "themes/theirs.toml": THEME.encode(),
                "models/theirs.toml": PROFILE.encode(),
            },
        ),
    )
    return out.getvalue()


@cache
def form() -> bytes:
    """A form with two rows filled in."""
    from openpyxl import load_workbook

    from syntagma.app.handing_on.forms import table_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.formats.form_sheet import write_form

    out = io.BytesIO()
    write_form(out, table_of(Workspace(None), "poster")[0], "x", "y", 2)
    book = load_workbook(io.BytesIO(out.getvalue()))
    book["form"]["D5"], book["form"]["B5"] = "car ferry", "linocut"
    made = io.BytesIO()
    book.save(made)
    return made.getvalue()


@cache
def ledger() -> bytes:
    """A ledger with a sheet of two rows in it."""
    from syntagma.core.sheets import SheetRow
    from syntagma.storage.ledger import Ledger

    with tempfile.TemporaryDirectory() as room:
        before = os.environ.get("SYNTAGMA_HOME")
        os.environ["SYNTAGMA_HOME"] = room
        made = Ledger(Path(room))
        made.add_rows(
            "t",
            [
                SheetRow(
                    "r1",
                    "curlew-still",
                    "a hen",
                    cost=4.0,
                    currency="credits",
                    status="approved",
                    takes=2,
                )
            ],
        )
        made.queue("t", "r1", (1, 2), 4.0, "credits", "curlew-still")
        made.end(
            "t",
            made.begin("t", "r1.1", "b", 4.0, "credits").name,
            "unclear",
            "unclear",
            why="no answer",
        )
        made.end("t", made.begin("t", "r1.2", "b", 4.0, "credits").name, "sent", "sent", "t1")
        made.add_rows(
            "s",
            [
                SheetRow(
                    "r1",
                    "curlew-still",
                    "a hen",
                    parameters={"seed": 4},
                    cost=4.0,
                    currency="credits",
                ),
                SheetRow("r2", "curlew-still", "a hare", status="approved"),
            ],
        )
        made.base.execute("pragma journal_mode=delete")
        made.close()
        os.environ.pop("SYNTAGMA_HOME") if before is None else os.environ.update(
            SYNTAGMA_HOME=before
        )
        return (Path(room) / "ledger.sqlite").read_bytes()


def workbook(rows: list[list[object]]) -> bytes:
    from openpyxl import Workbook

    book, made = Workbook(), io.BytesIO()
    for row in rows:
        book.active.append(row)
    book.save(made)
    return made.getvalue()


def packed(**parts: bytes) -> bytes:
    """A good workbook with some of its parts replaced (worksheet=…, workbook=…)."""
    made = io.BytesIO()
    names = {
        "worksheet": "xl/worksheets/sheet1.xml",
        "workbook": "xl/workbook.xml",
        "types": "[Content_Types].xml",
    }
    with (
        zipfile.ZipFile(io.BytesIO(workbook([["text"], ["a red fox"]]))) as old,
        zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        for entry in old.infolist():
            part = next(
                (p for p, name in names.items() if name == entry.filename and p in parts), None
            )
            new.writestr(entry.filename, parts[part] if part else old.read(entry))
    return made.getvalue()


SHEET = b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>%s</sheetData></worksheet>'
LAUGHS = (
    b"<!DOCTYPE x [<!ENTITY a 'ha'>"
    + b"".join(
        b"<!ENTITY a%d '%s'>" % (n, b"&a%s;" % (str(n - 1).encode() if n else b"") * 10)
        for n in range(9)
    )
    + b"]>"
)


@cache
def workbooks() -> list[bytes]:
    """Workbooks that cost more than they look, or are none."""
    good = workbook([["text"], ["a red fox"]])
    return [
        packed(worksheet=SHEET % (b" " * 150_000_000)),
        packed(
            worksheet=LAUGHS
            + SHEET % b"<row r='1'><c r='A1' t='inlineStr'><is><t>&a8;</t></is></c></row>"
        ),
        packed(worksheet=SHEET % b"<row r='1048576'><c r='XFD1048576'><v>1</v></c></row>"),
        packed(
            worksheet=SHEET
            % b"".join(
                b"<row r='%d'><c r='XFD%d'><v>1</v></c></row>" % (n, n) for n in range(1, 3000)
            )
        ),
        packed(worksheet=b"<worksheet>"),
        packed(
            workbook=b'<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheets/></workbook>'
        ),
        packed(types=b""),
        good[: len(good) // 2],
        good[:100] + b"\0" * 200 + good[300:],
        b"PK\x03\x04",
        packed(
            worksheet=SHEET
            % b"<row r='1'><c r='A1'><f>A2</f></c></row><row r='2'><c r='A2'><f>1+1</f></c></row>"
        ),
    ]


def mutated(good: bytes, rnd: random.Random) -> bytes:
    """A good file with some things done to it."""
    data = bytearray(good)
    for _ in range(rnd.choice((1, 1, 1, 2, 3, 6))):
        at, stop = sorted((rnd.randrange(len(data) + 1), rnd.randrange(len(data) + 1)))
        how = rnd.randrange(8)
        if how < 4:
            data[at:at] = rnd.choice(TOKENS)
        elif how == 4:
            data[at : at + rnd.choice((1, 3, 40))] = b""
        elif how == 5:
            data[at : at + 1] = rnd.choice(TOKENS)
        elif how == 6:
            data[at:at] = data[at : min(stop, at + 500)]
        elif data:
            data[at % len(data)] ^= 1 << rnd.randrange(8)
    return bytes(data)


def in_the_way(path: Path, what: str) -> None:
    """Something at `path` that is not a file."""
    if what == "pipe":
        os.mkfifo(path)
    elif what == "folder":
        path.mkdir()
    elif what == "large":
        with open(path, "wb") as file:
            file.truncate(300 << 20)
    else:
        os.symlink(
            {
                "device": "/dev/zero",
                "terminal": "/dev/tty",
                "nothing": "nowhere",
                "itself": path.name,
            }[what],
            path,
        )


PLACES = ("pipe", "folder", "device", "terminal", "nothing", "itself", "large")


class Complaint(NamedTuple):
    """What a call did that none may do."""

    what: str
    call: list[str]
    seed: str
    said: str


class _Late(BaseException):
    """A call took too long."""


def judged(folder: Path, call: list[str], seed: str, given: bytes = b"") -> Complaint | None:
    """Make a call; what it did that none may do."""

    def late(*_: object) -> None:
        raise _Late

    before = [signal.signal(one, late) for one in (signal.SIGPROF, signal.SIGALRM)]
    signal.setitimer(signal.ITIMER_PROF, SECONDS)  # of work, on a busy machine too
    signal.setitimer(
        signal.ITIMER_REAL, 12 * SECONDS
    )  # and a call that waits for ever is late as well
    try:
        done = run(folder, *call, given=given, screen=random.Random(seed).random() < 0.5)
    except _Late:
        return Complaint("too long", call, seed, traceback.format_exc()[-1500:])
    except Exception:
        return Complaint("raises", call, seed, traceback.format_exc()[-1500:])
    finally:
        for timer, one, old in zip(
            (signal.ITIMER_PROF, signal.ITIMER_REAL),
            (signal.SIGPROF, signal.SIGALRM),
            before,
            strict=True,
        ):
            signal.setitimer(timer, 0)
            signal.signal(one, old)
    if bad := [
        c
        for c in done.stderr + done.screen
        if (c < " " and c not in "\n\t") or "\x7f" <= c <= "\x9f" or "\u202a" <= c <= "\u202e"
    ]:
        return Complaint(f"lets {bad[0]!r} through", call, seed, (done.stderr + done.screen)[:400])
    if done.returncode not in (0, 1, 2, 3) or (
        done.returncode and not done.stderr.strip() and not done.stdout.strip()
    ):
        return Complaint(
            f"ends with {done.returncode}, and says {done.stderr[:80]!r}",
            call,
            seed,
            done.stdout[:200],
        )
    return None


WORDS = (
    "a an the of in on at by with and or to from lit shot dancing running parking hiking boots woman fox ferry light soft very no without , . ; : ! ? \" “ ” ' ( ) [ ] - – "
    "dancing, it she he his is are was who that while then 35mm f/2.8 16:9 0-2s 0:01 /x --y z=1 @moth a.png http://x A THE Moth red gold close-up says “Go,” 1. 2) * 3 - \n \n\n"
).split(" ")  # fmt: skip


def words(rnd: random.Random) -> str:
    """Words that stand where no sentence has them."""
    return "".join(
        rnd.choice(WORDS) + rnd.choice((" ", " ", " ", ", ", "", "\n"))
        for _ in range(rnd.randrange(1, 14))
    )


TEXT_CALLS = [
    ["read", "{}"], ["read", "{}", "--json"], ["rewrite", "{}", "--formula", "photograph", "--pick"], ["rewrite", "{}", "--model", "knot-motion"],
    ["rewrite", "{}", "--model", "avocet-still", "--json"], ["shorten", "{}", "--steps", "4"], ["compare", "{}", "a red fox, {}"], ["expand", "--text", "{} fox", "--vary", "fox=hen,cat"],
    ["compose", "photograph", "--from", "{}", "--pick"], ["rewrite", "{} fox", "--swap", "fox={}"], ["rewrite", "{}", "--set", "subject={}"], ["compose", "[a subject] x {}", "subject={}"],
    ["compose", "poster", "medium={}", "subject={}", "--json"], ["compose", "poster", "medium={}", "--json", "--ask"], ["term", "find", "{}"],
    ["compose", "poster", "subject=a", "medium=b", "--parameter", "ratio={}"], ["compose", "poster", "subject=a", "medium=b", "--reference", "style={}", "--model", "whimbrel-motion"],
]  # fmt: skip


def lost_rows(folder: Path, rnd: random.Random, seed: str) -> Complaint | None:
    """A file of good and bad rows: every one comes or is reported with its line."""
    ending = rnd.choice(("csv", "jsonl", "txt", "xlsx"))
    count, path = rnd.randrange(2, 9), folder / f"rows.{ending}"
    good = [f"a red fox number {n}, fog" for n in range(count)]
    bad = {n for n in range(count) if rnd.random() < 0.4} if ending != "txt" else set()
    kinds = {
        "csv": ['"a"b', "x,y,z,w", ',"only a name"'],
        "jsonl": [
            '{"text":',
            '{"text": 5}',
            "[1]",
            '{"text": "\\ud800"}',
            '{"text": 1e999}',
            "nul",
        ],
        "xlsx": ["", "=A1"],
    }
    cells = [rnd.choice(kinds[ending]) if n in bad else text for n, text in enumerate(good)]
    if ending == "csv":
        path.write_text(
            "text,name\n"
            + "".join(f"{c}\n" if n in bad else f'"{c}",{n}\n' for n, c in enumerate(cells)),
            "utf-8",
        )
    elif ending == "jsonl":
        path.write_text(
            "".join(
                f"{c}\n" if n in bad else json.dumps({"text": c}) + "\n"
                for n, c in enumerate(cells)
            ),
            "utf-8",
        )
    elif ending == "txt":
        path.write_bytes("".join(f"{c}\n" for c in cells).encode() + b"a f\xe9te, fog\n")
    else:
        path.write_bytes(workbook([["text", "name"], *([c, "x"] for c in cells)]))
    call = rnd.choice(
        (
            ["check", path.name, "--json"],
            ["shorten", path.name, "--model", "curlew-still", "--json"],
            ["rewrite", path.name, "--order", "camera", "--json"],
            ["read", path.name, "--json", "--column", "text"],
        )
    )
    if ending == "txt":
        call = [word for word in call if word not in ("--column", "text")]
    done = run(folder, *call)
    first = 1 if ending in ("jsonl", "txt") else 2
    for n in range(count):
        came = f"number {n}" in done.stdout
        told = f"{path.name}:{n + first}" in done.stderr or (
            cells[n] and json.dumps(cells[n])[1:-1] in done.stdout
        )
        if (n in bad and not told) or (n not in bad and not came):
            return Complaint(
                f"loses row {n + first}",
                call,
                seed,
                path.read_bytes().decode("utf-8", "replace")[:600] + done.stderr[-600:],
            )
    if bad and done.returncode == 0 and ending != "jsonl":
        return Complaint(
            f"ends with {done.returncode} though rows can't be read", call, seed, done.stderr[-600:]
        )
    return None


def complaints(
    calls: int, seed: int, tell: Callable[[int], None] = lambda done: None
) -> Iterator[Complaint]:
    """Make so many calls; what they did that none may do."""
    every, special = kinds(), workbooks()
    for number in range(calls):
        rnd, name = random.Random(f"{seed} {number}"), f"{seed} {number}"
        with tempfile.TemporaryDirectory() as room:
            folder = Path(room)
            (folder / "syntagma.toml").write_text("")
            (folder / "good.txt").write_text("\n".join(PROMPTS))
            (folder / "good-shots.csv").write_text(SHOTS)
            (folder / "good.png").write_bytes(image("png"))
            (folder / "known.toml").write_text(KNOWN)
            (folder / "x.campaign.toml").write_text(CAMPAIGN)
            (folder / "x.plan.csv").write_bytes(plan_of_x())
            (folder / "ledger.sqlite").write_bytes(ledger())
            (folder / "copy.csv").write_text(COPY)
            if rnd.random() < 0.08:
                found = lost_rows(folder, rnd, name)
            elif rnd.random() < 0.25:
                said = (
                    words(rnd)
                    if rnd.random() < 0.9
                    else mutated(words(rnd).encode(), rnd)
                    .replace(b"\0", b"")
                    .decode("utf-8", "replace")
                )
                found = judged(
                    folder, [word.replace("{}", said) for word in rnd.choice(TEXT_CALLS)], name
                )
            else:
                kind = rnd.choice(every)
                path = folder / kind.name
                path.parent.mkdir(parents=True, exist_ok=True)
                path.unlink(missing_ok=True)
                if rnd.random() < 0.05 and kind.name != "syntagma.toml":
                    in_the_way(path, rnd.choice(PLACES))
                elif kind.name.endswith(".xlsx") and rnd.random() < 0.5:
                    path.write_bytes(rnd.choice(special))
                else:
                    path.write_bytes(mutated(kind.good, rnd))
                call = [word.replace("{}", kind.name) for word in rnd.choice(kind.calls)]
                found = judged(folder, call, name)
            if found:
                yield found
        tell(number)


def main() -> None:
    calls, seed = (
        (int(word) for word in [*sys.argv[1:], "1000", "1"][:2])
        if len(sys.argv) < 3
        else map(int, sys.argv[1:3])
    )
    began, found = time.monotonic(), 0
    for one in complaints(
        calls,
        seed,
        lambda n: n % 500 or print(f"{n} calls, {time.monotonic() - began:.0f} s", flush=True),
    ):
        found += 1
        print(f"\n== {one.what}: {' '.join(one.call)}  (seed {one.seed})\n{one.said}", flush=True)
    print(f"{calls} calls in {time.monotonic() - began:.0f} s: {found} complaints")
    sys.exit(1 if found else 0)


if __name__ == "__main__":
    main()
