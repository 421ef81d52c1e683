"""sheet, send, collect, service: run against the stand-in, whose own books are the witness; and against other services of other habits."""

import base64
import json
import os
import shutil
import sqlite3
import subprocess
import time
from types import SimpleNamespace

import pytest
from openpyxl import load_workbook

from syntagma.app.batches.requests import DONE, _chosen
from syntagma.app.batches.sheets import read_sheet_file
from syntagma.app.batches.standin import standin
from syntagma.app.workspace.workspace import Workspace
from tests.commands.copies import again, edited
from tests.commands.odd_services import AT_ONCE, PNG, POLLED, Other, model, one, serving, shown
from tests.commands.program import good, killed, printed, run

MODELS = ("curlew-still", "whimbrel-motion")


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", ".")
    rows = [
        {
            "text": f"A car ferry number {n} on a wet quay, warm lamps.",
            "model": MODELS[n % 2],
            "parameters": {"seconds": 4} if n % 2 else {},
        }
        for n in range(6)
    ]
    (tmp_path / "rows.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    return tmp_path


def ours(faults: str = "", **options):
    return serving(standin(Workspace.load(), 0, faults, 3, options.pop("takes", 0.05), **options))


def begun(folder, *approve):
    good(folder, "sheet", "new", "s", "rows.jsonl")
    good(folder, "sheet", "approve", "s", *(approve or ("--all",)))


def collected(folder, address, times=40):
    for _ in range(times):
        done = run(folder, "collect", "s", "--at", address, "--json")
        found = printed(done.stdout)
        if not found["under_way"] and not found["unclear"]:
            return found
        time.sleep(0.05)
    return found


# The sheet


def test_a_sheet_is_made_given_out_and_shown(here):
    done = run(here, "sheet", "new", "s", "rows.jsonl", "--out", "s.xlsx")
    assert done.returncode == 0 and "6 rows in the sheet s, 72 credits" in done.stderr
    book = load_workbook(here / "s.xlsx")
    headings = [cell.value for cell in book.active[1]]
    assert headings[:6] == ["id", "status", "takes", "text", "negative", "model"] and {
        "cost",
        "findings",
        "note",
        "seconds",
        "seen",
    } <= set(headings)
    assert book.active.freeze_panes == "B2" and {
        rule.formula1.split("!")[0] for rule in book.active.data_validations.dataValidation
    } == {"choices"}
    rows = shown(here)
    assert (
        all(row["id"][0] == "r" and row["status"] == "open" for row in rows)
        and len({row["id"] for row in rows}) == 6
    )
    assert (
        "a sheet called “s” exists already" in run(here, "sheet", "new", "s", "rows.jsonl").stderr
    )
    assert [row["text"] for row in shown(here, "s", "--where", "cost>4 and text~number 3")] == [
        "A car ferry number 3 on a wet quay, warm lamps."
    ]
    assert (
        "no column is called “price”"
        in run(here, "sheet", "show", "s", "--where", "price>4").stderr
    )


def test_a_copy_comes_back_with_what_was_changed_of_it(here):
    good(here, "sheet", "new", "s", "rows.jsonl")

    def edit(rows):
        rows[0]["text"] += " Rain."
        rows[1]["status"], rows[2]["status"] = "removed", "approved"
        rows[3]["seconds"], rows[4]["takes"], rows[5]["seconds"] = "8", "3", "7"
        rows.append(
            dict.fromkeys(rows[0], "") | {"text": "A lighthouse in fog.", "model": "curlew-still"}
        )

    rows = edited(here, "c.csv", edit)
    done = run(here, "sheet", "import", "s", "c.csv")
    now = {row["id"]: row for row in shown(here)}
    assert done.returncode == 0 and "‹+ Rain.+›" in done.stderr.replace(
        "‹+ +›‹+Rain.+›", "‹+ Rain.+›"
    ), done.stderr
    assert now[rows[0]["id"]]["text"].endswith("Rain.") and [
        now[rows[n]["id"]]["status"] for n in (1, 2)
    ] == ["removed", "approved"]
    assert (
        now[rows[3]["id"]]["cost"] == {"amount": 40, "currency": "credits"}
        and now[rows[4]["id"]]["takes"] == 3
    )
    assert (
        "seconds “7” is not one of 4, 6, 8, 10" in done.stderr
        and now[rows[5]["id"]]["parameters"]["seconds"] == 4
    )
    assert len(now) == 7 and any(row["text"] == "A lighthouse in fog." for row in now.values())


def test_columns_are_known_in_any_case_and_others_keep_their_names(tmp_path):
    (tmp_path / "c.csv").write_text("ID, Status ,Client\n1a,removed,The Ferry\n")
    assert read_sheet_file(str(tmp_path / "c.csv")) == [
        {"id": "1a", "status": "removed", "Client": "The Ferry"}
    ]


@pytest.mark.parametrize(("takes", "ungated", "file", "why"), [
    ([], False, "", "to arrive"), ([("a.png", False)], False, "", "chosen: syntagma sheet choose"), ([("a.png", False), ("b.png; c.png", True)], False, "b.png", ""),
    ([("a.png", False)], True, "a.png", ""), ([], True, "", "to arrive"),
])  # fmt: skip
def test_what_a_row_waits_for(takes, ungated, file, why, tmp_path):
    row = SimpleNamespace(id="1a", further={"clip": "2"})
    ledger = SimpleNamespace(
        rows=lambda _: [row],
        takes=lambda *_: [
            SimpleNamespace(state=DONE, file=name, chosen=chosen) for name, chosen in takes
        ],
    )
    got, told = _chosen(Workspace.load(tmp_path), ledger, "s", {"of": "2"}, ungated)
    assert got == file and told.endswith(why) and bool(told) != bool(file)


def test_a_row_by_the_beginning_of_its_id(here):
    good(here, "sheet", "new", "s", "rows.jsonl")
    names = [row["id"] for row in shown(here)]
    good(here, "sheet", "approve", "s", names[0][:-1])
    assert [row["status"] for row in shown(here)] == [
        "approved",
        "open",
        "open",
        "open",
        "open",
        "open",
    ]
    wrong = run(here, "sheet", "approve", "s", names[0] + "x").stderr
    assert "no row is called" in wrong and f"did you mean “{names[0]}”?" in wrong


def test_an_edit_after_approval_opens_the_row_and_an_old_copy_approves_nothing(here):
    good(here, "sheet", "new", "s", "rows.jsonl")
    good(here, "sheet", "show", "s", "--out", "old.csv")
    first = shown(here)[0]["id"]
    edited(
        here,
        "new.csv",
        lambda rows: rows[0].update(text="Another text altogether.", status="approved"),
    )
    good(here, "sheet", "import", "s", "new.csv")
    assert shown(here)[0]["status"] == "approved"  # of exactly what was seen
    edited(here, "third.csv", lambda rows: rows[0].update(text="A third text."))
    done = run(here, "sheet", "import", "s", "third.csv")
    assert (
        f"{first} was approved; it has changed, so it is open again" in done.stderr
        and shown(here)[0]["status"] == "open"
    )
    again(here, "old.csv", lambda rows: rows[0].update(status="approved"))
    done = run(here, "sheet", "import", "s", "old.csv")
    row = shown(here)[0]
    assert (
        done.returncode == 1
        and "changed since" in done.stderr
        and (row["status"], row["text"]) == ("open", "A third text.")
    )


def test_two_copies_in_conflict(here):
    good(here, "sheet", "new", "s", "rows.jsonl")
    for name, text in (("a.csv", "Hers."), ("b.csv", "His.")):
        edited(here, name, lambda rows, text=text: rows[0].update(text=text, note=f"from {text}"))
    good(here, "sheet", "import", "s", "a.csv")
    done = run(here, "sheet", "import", "s", "b.csv")
    assert done.returncode == 1 and all(
        said in done.stderr for said in ("given out", "Hers.", "His.", "neither change was taken")
    )
    assert shown(here)[0]["text"] == "Hers."


def test_what_a_spreadsheet_breaks_is_mended_or_told(here):
    (here / "rows.jsonl").write_text(
        json.dumps(
            {"text": 'She says "go" at 1/2 past', "model": "curlew-still", "negative": "=1+1"}
        )
        + "\n"
        + json.dumps({"text": "A hen.", "model": "curlew-still"})
        + "\n"
    )
    good(here, "sheet", "new", "s", "rows.jsonl")
    before = shown(here)

    def broken(rows):
        rows[0]["text"] = "She says “go” at 1/2 past"
        rows[0]["negative"] = "#NAME?"
        rows[1]["id"] = rows[1]["id"][:7]

    edited(here, "c.csv", broken)
    done = run(here, "sheet", "import", "s", "c.csv")
    assert (
        "changed quotation marks were restored" in done.stderr
        and "ran the cell as a formula" in done.stderr
        and "no row of this sheet" in done.stderr
        and "cut?" in done.stderr
    )
    assert shown(here) == before


def test_strike_and_approve_are_undone(here):
    begun(here)
    first = shown(here)[0]["id"]
    good(here, "sheet", "remove", "s", first)
    assert shown(here)[0]["status"] == "removed"
    done = run(here, "sheet", "approve", "s", "--all")
    assert "1 removed row skipped" in done.stderr and shown(here)[0]["status"] == "removed"
    good(here, "sheet", "restore", "s", first)
    assert shown(here)[0]["status"] == "open"
    good(here, "sheet", "approve", "s", first[:8])
    assert shown(here)[0]["status"] == "approved"


def test_redraw_puts_other_picks_in_place(here):
    good(
        here,
        "expand",
        "poster",
        "--count",
        "4",
        "--draw",
        "3",
        "--model",
        "curlew-still",
        "--out",
        "p.jsonl",
    )
    good(here, "sheet", "new", "p", "p.jsonl")
    rows = shown(here, "p")
    done = run(here, "sheet", "redraw", "p", rows[1]["id"])
    after = shown(here, "p")
    assert (
        done.returncode == 0
        and after[1]["text"] != rows[1]["text"]
        and after[1]["id"] == rows[1]["id"]
        and [r["text"] for r in after[2:]] == [r["text"] for r in rows[2:]]
    )


# Sending


def test_sent_collected_and_the_books_agree(here):
    begun(here)
    with ours() as server:
        told = run(here, "send", "s", "--yes", "--budget", "100", "--at", server.address)
        assert (
            told.returncode == 0 and "72 credits at most" in told.stdout and "6 sent" in told.stderr
        ), told.stderr
        found = collected(here, server.address)
        rows = shown(here)
        assert found["done"] == 6 and all(
            (here / row["files"][0]).read_bytes().startswith(b"\x89PNG") for row in rows
        )
        assert [row["charged"]["amount"] for row in rows] == [4, 20] * 3 and server.books.report()[
            "sum"
        ] == 72
        assert (
            run(here, "send", "s", "--yes", "--budget", "100", "--at", server.address).returncode
            == 1
        )  # nothing is left
        assert len(server.books.tasks) == 6


def test_the_budget_is_never_passed(here):
    begun(here)
    with ours() as server:
        done = run(here, "send", "s", "--yes", "--budget", "30", "--at", server.address)
        assert (
            done.returncode == 1
            and "would be over the budget of 30" in done.stderr
            and server.books.report()["sum"] <= 30
        )
        (here / "syntagma.toml").write_text("budget = 50\n")
        done = run(here, "send", "s", "--yes", "--budget", "1000", "--at", server.address)
        assert (
            "over the project's budget of 50" in done.stderr and server.books.report()["sum"] <= 50
        )


def test_what_was_approved_is_what_is_sent(here):
    begun(here)
    (here / "models").mkdir(exist_ok=True)
    shipped = Workspace.load().models()["curlew-still"][0][1].read_text("utf-8")
    (here / "models" / "curlew-still.toml").write_text(shipped.replace("amount = 4", "amount = 9"))
    good(here, "service", "add", "127.0.0.1:8787", "--no-secret")
    clips = [row["id"] for row in shown(here) if row["model"] == "whimbrel-motion"]
    doubled = lambda rows: [row | {"takes": "2"} if row["id"] in clips else row for row in rows]  # noqa: E731
    edited(here, "c.csv", doubled)
    good(here, "sheet", "import", "s", "c.csv")
    good(here, "sheet", "approve", "s", *clips)
    done = run(here, "send", "s", "--dry-run", "--json")
    assert [row["takes"] for row in printed(done.stdout)] == [2, 2, 2] and [
        row["status"] for row in shown(here)
    ] == ["open", "approved"] * 3


def test_send_says_what_it_is_about_to_do_and_asks(here):
    begun(here)
    with ours() as server:
        assert "nobody can be asked here" in run(here, "send", "s", "--at", server.address).stderr
        assert "needs a budget" in run(here, "send", "s", "--yes", "--at", server.address).stderr
        good(here, "send", "s", "--yes", "--budget", "100", "--first", "2", "--at", server.address)
        assert (
            len(server.books.tasks) == 2
            and sum(row["status"] == "approved" for row in shown(here)) == 4
        )


def test_a_service_that_is_down_leaves_everything_as_it_was(here):
    begun(here)
    with ours() as server:
        address = server.address
    done = run(here, "send", "s", "--yes", "--budget", "100", "--at", address)
    assert (
        done.returncode == 1
        and done.stderr.count("can't be reached") >= 1
        and "0 sent" in done.stderr
    )
    assert {row["status"] for row in shown(here)} == {"queued"} and all(
        "charged" not in row for row in shown(here)
    )


def test_a_wrong_key_stops_the_run(here):
    begun(here)
    with ours(key="right") as server:
        done = run(here, "send", "s", "--yes", "--budget", "100", "--at", server.address)
        assert (
            done.returncode == 1 and "refuses the key for" in done.stderr and not server.books.tasks
        )
        host = server.address.removeprefix("http://")
        (here / "key.txt").write_text("right\n")
        good(here, "service", "add", host, "--file", str(here / "key.txt"))
        assert (
            run(here, "send", "s", "--yes", "--budget", "100", "--at", server.address).returncode
            == 0
            and len(server.books.tasks) == 6
        )


@pytest.mark.long
@pytest.mark.parametrize(
    "faults", ["drop", "500,garbled", "429,slow", "late,twice,forget", "expire,short", "all"]
)
def test_under_faults_nothing_is_charged_twice(here, faults):
    begun(here)
    with ours(faults) as server:
        for _ in range(12):
            run(here, "send", "s", "--yes", "--budget", "1000", "--at", server.address)
            if (
                collected(here, server.address)["done"]
                + sum(row["status"] in ("refused", "failed", "expired") for row in shown(here))
                == 6
            ):
                break
        charges = [one["reference"].rpartition("/")[0] for one in server.books.report()["charges"]]
        assert len(charges) == len(set(charges)) and {row["status"] for row in shown(here)} <= {
            "done",
            "refused",
            "failed",
            "expired",
        }
        base = sqlite3.connect(here / "ledger.sqlite")
        assert sum(
            charged or 0 for (charged,) in base.execute("select charged from takes")
        ) == pytest.approx(server.books.report()["sum"])


@pytest.mark.long
def test_killed_while_it_sends(here):
    rows = [{"text": f"A hen number {n}.", "model": "curlew-still"} for n in range(40)]
    (here / "rows.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    begun(here)
    with ours("drop,garbled,slow") as server:
        call = ["send", "s", "--yes", "--budget", "1000", "--at", server.address]
        for times in (1, 2, 4, 8, 12):  # requests of that process, the last of them not made
            killed(here, "socket.connect", "127.0.0.1", times, *call)
        for _ in range(10):
            run(here, "send", "s", "--yes", "--budget", "1000", "--at", server.address)
            if collected(here, server.address)["done"] == 40:
                break
        charges = [one["reference"].rpartition("/")[0] for one in server.books.report()["charges"]]
        assert len(charges) == len(set(charges)) == 40 and {
            row["status"] for row in shown(here)
        } == {"done"}


def test_without_key_or_look_up_it_stays_unclear_until_somebody_settles_it(here):
    begun(here)
    (here / "models").mkdir(exist_ok=True)
    (here / "models" / "bare.toml").write_text(
        (Workspace.load().models()["curlew-still"][0][1])
        .read_text("utf-8")
        .replace('key = { header = "Idempotency-Key", hours = 24 }\n', "")
        .replace('find = { path = "/tasks?reference={reference}" }\n', "")
    )
    (here / "one.jsonl").write_text(
        json.dumps({"text": "A hen.", "model": "bare"})
        + "\n"
        + json.dumps({"text": "A hare.", "model": "bare"})
        + "\n"
    )
    good(here, "sheet", "new", "one", "one.jsonl")
    good(here, "sheet", "approve", "one", "--all")
    with ours("drop") as server:
        server.faults.chance, server.faults.after = 1.0, lambda: True
        good(here, "service", "add", server.address, "--no-secret")
        (here / "models" / "bare.toml").write_text(
            (here / "models" / "bare.toml")
            .read_text()
            .replace("http://127.0.0.1:8787", server.address)
        )
        run(here, "sheet", "restore", "one", "--all")
        good(here, "sheet", "approve", "one", "--all")
        done = run(here, "send", "one", "--yes", "--budget", "100")
        assert done.returncode == 1 and "2 unclear" in done.stderr and len(server.books.tasks) == 2
        server.faults.names = frozenset()
        run(here, "send", "one", "--yes", "--budget", "100")
        assert len(server.books.tasks) == 2  # never again by itself
        rows = shown(here, "one")
        task = next(iter(server.books.tasks))
        good(here, "sheet", "settle", "one", f"{rows[0]['id']}.1", "--task", task)
        good(here, "sheet", "settle", "one", f"{rows[1]['id']}.1", "--lost")
        for _ in range(40):
            printed(run(here, "collect", "one", "--json").stdout)
            if shown(here, "one")[0]["status"] == "done":
                break
            time.sleep(0.05)
        assert [row["status"] for row in shown(here, "one")] == ["done", "failed"]


def test_a_copy_of_the_ledger_sends_nothing_until_it_is_reconciled(here):
    begun(here, "--where", "model=curlew-still")
    with ours() as server:
        good(here, "send", "s", "--yes", "--budget", "100", "--first", "1", "--at", server.address)
        _settled(here)
        copy = (here / "ledger.sqlite").read_bytes()
        good(here, "send", "s", "--yes", "--budget", "100", "--first", "1", "--at", server.address)
        for name in ("ledger.sqlite-wal", "ledger.sqlite-shm"):
            (here / name).unlink(missing_ok=True)
        (here / "ledger.sqlite").write_bytes(copy)  # yesterday's
        done = run(here, "send", "s", "--yes", "--budget", "100", "--at", server.address)
        assert (
            done.returncode != 0
            and "may be a copy of the ledger" in done.stderr
            and len(server.books.tasks) == 2
        )
        assert (
            "added here" in run(here, "collect", "s", "--reconcile", "--at", server.address).stderr
        )
        good(here, "send", "s", "--yes", "--budget", "100", "--at", server.address)
        assert len(server.books.tasks) == 3 and collected(here, server.address)["done"] == 3


def _settled(folder):
    base = sqlite3.connect(folder / "ledger.sqlite")
    base.execute("pragma wal_checkpoint(truncate)")
    base.close()


def test_secrets_stand_nowhere(here):
    begun(here)
    secret = "s3cret-of-the-line-0815"
    os.environ["LANTERN_KEY"] = secret
    try:
        with ours(key=secret) as server:
            good(here, "service", "add", server.address, "--env", "LANTERN_KEY")
            said = [run(here, *words) for words in (
                ["send", "s", "--dry-run"], ["send", "s", "--yes", "--budget", "100", "--at", server.address], ["collect", "s", "--at", server.address], ["sheet", "show", "s", "--json"],
                ["sheet", "log", "s", shown(here)[0]["id"], "--json"], ["service"], ["sheet", "show", "s", "--out", "out.xlsx"],
            )]  # fmt: skip
            assert len(server.books.tasks) == 6
            signed = [task.sign for task in server.books.tasks.values()]
    finally:
        del os.environ["LANTERN_KEY"]
    texts = [one.stdout + one.stderr for one in said]
    files = [
        path.read_bytes() for path in here.rglob("*") if path.is_file() and path.suffix != ".png"
    ]
    assert not any(secret in text for text in texts) and not any(
        secret.encode() in data for data in files
    )
    assert not any(sign in text for sign in signed for text in texts)


def test_what_came_from_somebody_can_bind_nothing(here):
    (here / "models").mkdir(exist_ok=True)
    base = (Workspace.load().models()["curlew-still"][0][1]).read_text("utf-8")
    (here / "models" / "theirs.toml").write_text(
        base.replace("http://127.0.0.1:8787", "https://api.example")
    )
    (here / "services.toml").write_text('[services."api.example"]\nenv = "HOME"\n')
    (here / "one.jsonl").write_text(json.dumps({"text": "A hen.", "model": "theirs"}) + "\n")
    good(here, "sheet", "new", "one", "one.jsonl")
    good(here, "sheet", "approve", "one", "--all")
    done = run(here, "send", "one", "--yes", "--budget", "10")
    assert (
        done.returncode == 2
        and "a host that you have not allowed" in done.stderr
        and "service add api.example" in done.stderr
    )
    assert "never type the secret itself" in run(here, "service", "add", "api.example").stderr


# Services of other habits


@pytest.mark.parametrize(
    ("answer", "status", "why"),
    [
        ((200, {}, {"images": [{"b64": base64.b64encode(PNG).decode()}], "cost": 1.5}), "done", ""),
        (
            (200, {}, {"error": {"message": "no hens"}}),
            "unclear",
            "no hens",
        ),  # 200 with an error in it: nobody says whether it was charged
        ((200, {}, {"error": {"message": "no hens"}, "cost": 0}), "failed", "no hens"),
        ((400, {}, {"errors": [{"detail": "no hens"}]}), "refused", "no hens"),
        ((200, {}, b"<html>busy</html>"), "unclear", "can't be read"),
        ((200, {"Content-Length": "900"}, b'{"images": ['), "unclear", "broke off"),
        ((500, {}, {}), "unclear", "answered 500"),
        (
            (307, {"Location": "https://elsewhere.example/jobs"}, {}),
            "unclear",
            "redirects to another host",
        ),
        ((404, {}, {}), "queued", ""),
        (
            (200, {}, {"images": [{"b64": base64.b64encode(b"a picture").decode()}]}),
            "unclear",
            "a picture",
        ),
    ],
)
def test_a_service_that_answers_at_once(here, answer, status, why):
    with serving(Other(lambda *asked: answer)) as server:
        model(here, server.address, 'submit = { method = "POST", path = "/make" }\n' + AT_ONCE)
        row, _ = one(here, 1)
    assert row["status"] == status and why in row.get("why", ""), row
    if status == "done":
        assert (here / row["files"][0]).read_bytes() == PNG and row["charged"]["amount"] == 1.5
    posts = [asked for asked in server.asked if asked[0] == "POST"]
    assert len(posts) == 1 and json.loads(posts[0][3]) == {"prompt": "A hen."}


@pytest.mark.parametrize(
    ("result", "status"),
    [
        ((200, {"Content-Type": "image/png"}, PNG), "done"),
        (
            (
                200,
                {"Content-Length": None, "Transfer-Encoding": "chunked"},
                b"%x\r\n%s\r\n0\r\n\r\n" % (len(PNG), PNG),
            ),
            "done",
        ),
        ((302, {"Location": "/moved.png"}, b""), "done"),
        ((200, {"Content-Type": "image/png"}, b"<html>no</html>"), "sent"),  # wrong type
        ((200, {"Content-Length": "9999"}, PNG), "sent"),  # larger than said
        ((410, {}, b""), "sent"),
    ],
)
def test_results_by_address(here, result, status):
    def answers(method, path, body):
        if method == "POST":
            return 201, {}, {"job": 17, "status": "running"}
        if path.startswith("/jobs/"):
            return (
                200,
                {},
                {
                    "job": 17,
                    "status": "OK",
                    "output": {"href": "/out.png", "until": "Thu, 01 Jan 2099 00:00:00 GMT"},
                },
            )
        return result if path == "/out.png" else (200, {}, PNG)

    with serving(Other(answers)) as server:
        model(here, server.address, 'submit = { method = "POST", path = "/jobs" }\n' + POLLED)
        row, sent = one(here, 3)
    assert sent.returncode == 0 and row["status"] == status, row
    assert next(asked[1] for asked in server.asked if asked[0] == "GET") == "/jobs/17"


@pytest.mark.parametrize(
    ("posted", "states", "status"),
    [
        (
            (202, {"Location": "/jobs/abc"}, b""),
            [{"ready": False}, {"ready": True, "files": ["/x.png"]}],
            "done",
        ),  # named by its address alone; states are true and false
        (
            (200, {}, {"n": 5, "ready": "wait", "cost": "1.50 EUR"}),
            [
                {"ready": "wait"},
                {"ready": "wait"},
                {"ready": "TRUE", "files": "/x.png", "cost": "1.50 EUR"},
            ],
            "done",
        ),
        ((200, {}, {"n": 5}), [{"ready": "true", "files": []}], "sent"),
        ((200, {}, {"n": 5}), [{"ready": "hm"}], "sent"),  # a word that nobody knows
        ((409, {}, {}), [], "at work"),
        ((200, {}, {"n": ""}), [], "unclear"),
    ],
)
def test_states_of_other_kinds(here, posted, states, status):
    left = list(states)

    def answers(method, path, body):
        if method == "POST":
            return posted
        if path.startswith("/jobs/"):
            return 200, {}, left.pop(0) if len(left) > 1 else left[0]
        return 200, {}, PNG

    with serving(Other(answers)) as server:
        model(
            here,
            server.address,
            'submit = { method = "POST", path = "/jobs" }\nkey = {}\nstate = { path = "/jobs/{task}" }\n[service.answer]\ntask = "/n"\nstate = "/ready"\nresults = "/files"\ncharged = "/cost"\ndone = ["true"]\nwaiting = ["false", "wait"]\n',
        )
        if status == "at work":  # the same key, asked again and again
            killed(here, "socket.connect", "127.0.0.1", 3, "send", "o", "--yes", "--budget", "10")
            row = shown(here, "o")[0]
        else:
            row, _ = one(here, 5)
    assert row["status"] == ("unclear" if status == "at work" else status), row
    if status == "done" and "EUR" in str(posted):
        assert row["charged"] == {"amount": 1.5, "currency": "credits"}


def test_a_redirect_takes_no_secret_along(here):
    def other(method, path, body):
        return 200, {}, PNG

    with serving(Other(other)) as elsewhere:

        def answers(method, path, body):
            if method == "POST":
                return (
                    201,
                    {},
                    {"job": 1, "status": "ok", "output": [{"href": f"{elsewhere.address}/x.png"}]},
                )
            return (
                200,
                {},
                {"job": 1, "status": "ok", "output": [{"href": f"{elsewhere.address}/x.png"}]},
            )

        with serving(Other(answers)) as server:
            model(here, server.address, 'submit = { method = "POST", path = "/jobs" }\n' + POLLED)
            os.environ["OTHER_KEY"] = "geheim-4711"
            try:
                good(here, "service", "add", server.address, "--env", "OTHER_KEY")
                one(here, 2)
            finally:
                del os.environ["OTHER_KEY"]
    assert any("geheim-4711" in str(headers) for _, _, headers, _ in server.asked)
    assert elsewhere.asked and not any(
        "geheim-4711" in str(headers) for _, _, headers, _ in elsewhere.asked
    )


def test_429_is_tried_again_when_it_says(here):
    seen = []

    def answers(method, path, body):
        seen.append(time.time())
        return (
            (429, {"Retry-After": "1"}, {})
            if len(seen) == 1
            else (200, {}, {"images": [{"b64": base64.b64encode(PNG).decode()}]})
        )

    with serving(Other(answers)) as server:
        model(
            here,
            server.address,
            'turned_away = [429]\nsubmit = { method = "POST", path = "/make" }\n' + AT_ONCE,
        )
        row, _ = one(here, 1)
    assert row["status"] == "done" and seen[1] - seen[0] > 0.9


# Cancelling


def test_cancelling(here):
    begun(here, "--where", "model=curlew-still")
    rows = [row["id"] for row in shown(here) if row["status"] == "approved"]
    with ours(takes=30) as server:
        good(here, "send", "s", "--yes", "--budget", "100", "--at", server.address)
        done = run(here, "collect", "s", "--cancel", f"{rows[0]}.1", "--at", server.address)
        assert (
            "is cancelled" in done.stderr
            and next(row for row in shown(here) if row["id"] == rows[0])["status"] == "cancelled"
        )
        assert sum(task.charged for task in server.books.tasks.values()) == 8


def test_results_are_called_as_the_settings_say_and_a_statement_is_compared(here):
    (here / "syntagma.toml").write_text('results = "pictures/{model}/{sheet} {take}"\n')
    begun(here, "--where", "model=curlew-still")
    with ours() as server:
        good(here, "send", "s", "--yes", "--budget", "100", "--at", server.address)
        collected(here, server.address)
        files = [file for row in shown(here) for file in row.get("files", ())]
        assert len(files) == 3 and all(
            file.startswith("pictures/curlew-still/s-r") and (here / file).is_file()
            for file in files
        )
        tasks = list(server.books.tasks)
        (here / "bill.csv").write_text(f"Task,Charged\n{tasks[0]},4\n{tasks[1]},5.5\nt99,1\n")
        done = run(here, "collect", "s", "--statement", "bill.csv", "--at", server.address)
    assert (
        "5.5 was charged; the ledger had 4" in done.stderr
        and "t99: 1 was charged, but the ledger has no such task" in done.stderr
        and "bill" not in done.stdout
    )
    assert sorted(row["charged"]["amount"] for row in shown(here) if row.get("charged")) == [
        4,
        4,
        5.5,
    ]


@pytest.mark.skipif(
    not shutil.which("soffice"),
    reason="not run: LibreOffice is not installed (Debian: libreoffice-calc)",
)
@pytest.mark.parametrize("ending", ["xlsx", "csv"])
def test_through_libreoffice(here, ending):
    texts = [
        "She says \"go\", 'now'",
        "=1+1 hens",
        "1/2 past",
        "007",
        "+49 ferries",
        "two\nlines",
        "é 灯台 — …",
        "@moth, -3 degrees",
    ]
    (here / "rows.jsonl").write_text(
        "".join(json.dumps({"text": text, "model": "curlew-still"}) + "\n" for text in texts)
    )
    good(here, "sheet", "new", "s", "rows.jsonl", "--out", f"s.{ending}")
    before = shown(here)
    out = here / "back"
    subprocess.run(
        [
            "soffice",
            "--headless",
            "--convert-to",
            ending,
            "--outdir",
            str(out),
            str(here / f"s.{ending}"),
        ],
        check=True,
        capture_output=True,
        env={**os.environ, "HOME": str(here)},
        timeout=180,
    )
    done = run(here, "sheet", "import", "s", f"back/s.{ending}")
    assert shown(here) == before, done.stderr
