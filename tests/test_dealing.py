"""Dealing with services, by itself: the purse, what is done where two calls meet, and what a ledger, a sheet and a merge make of odd things."""

import json
import sqlite3
import time
from pathlib import Path
from zlib import crc32

import pytest
from filelock import FileLock

from syntagma.app.batches import requests, sending, services, settling, sheets
from syntagma.app.batches.collecting import Collector
from syntagma.app.batches.settling import NoMoney, Purse
from syntagma.app.batches.sheets import Sheet, opened, read_sheet_file, write_sheet_file
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Refused, Trouble
from syntagma.core.sheets import (
    BadCondition,
    SheetRow,
    condition,
    merged,
    row_ids,
    status_given,
    status_of,
)
from syntagma.service.answers import Told
from syntagma.service.client import Listing, Outcome, Unreadable
from syntagma.storage import ledger as rooms
from syntagma.storage.ledger import Differs, Ledger, Meanwhile, OverBudget
from tests.commands.odd_services import PNG, Other, serving, shown
from tests.commands.program import good, run

PROFILE = 'media = "image"\n[price]\namount = 4\n[reference.style]\nkinds = ["path"]\nmost = 3\n[request]\nsay = "{text}"\n"like each style" = "{value}"\n[service]\naddress = "http://127.0.0.1:9"\nevery = 0.01\npatience = 1\nreference = "/mark"\nsubmit = { method = "POST", path = "/work" }\nstate = { path = "/work/{task}" }\nfind = { path = "/work?mark={reference}" }\nlisted = { path = "/work" }\nkey = {}\n[service.answer]\ntask = "/no"\nresults = "/things"\naddress = "/at"\n'


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.setenv("SYNTAGMA_HOME", str(tmp_path / "own"))
    good(tmp_path, "start", ".")
    (tmp_path / "models").mkdir(exist_ok=True)
    (tmp_path / "models/odd.toml").write_text(PROFILE)
    good(tmp_path, "service", "add", "127.0.0.1:9", "--no-secret")
    monkeypatch.chdir(tmp_path)
    return tmp_path


@pytest.fixture
def ledger(folder):
    made = Ledger(folder)
    made.add_rows(
        "s",
        [
            SheetRow(
                f"r{n}",
                "odd",
                f"A heron {n}.",
                request={"say": f"A heron {n}."},
                cost=4.0,
                currency="credits",
                takes=2,
                status="approved",
            )
            for n in range(3)
        ],
    )
    for n in range(3):
        made.queue("s", f"r{n}", (1,), 4.0, "credits", "odd")
    yield made
    made.close()


def take(ledger, row="r0"):
    return next(
        one
        for one in ledger.in_state(("queued", "waiting", "sending", "unclear", "sent", "done"), "s")
        if one["row"] == row
    )


# The purse


def test_a_purse_reserves_and_settles(ledger):
    halted = []
    purse = Purse(ledger, 10.0, None, lambda host, why: halted.append(host))
    for row in ("r0", "r1"):
        purse.begin(take(ledger, row), "body", 4.0, "credits")
    with pytest.raises(NoMoney, match="budget of 10"):
        purse.begin(take(ledger, "r2"), "body", 4.0, "credits")
    purse.settle({**take(ledger, "r0"), "reserved": 4.0}, "h", 1.0)
    assert purse.spent == {"credits": 5.0} and not halted
    purse.begin(take(ledger, "r2"), "body", 4.0, "credits")
    purse.settle({**take(ledger, "r1"), "reserved": 4.0}, "h", None)
    purse.settle({**take(ledger, "r1"), "reserved": 0.0}, "free", 3.0, priced_by=False)
    assert not halted and purse.spent["credits"] == 8.0
    purse.settle({**take(ledger, "r2"), "reserved": 4.0}, "h", 4.5)
    assert halted == ["h"] and "charged 4.5 credits for r2.1" in purse.over["h"]


def test_a_purse_without_a_cap_needs_no_price(ledger):
    assert Purse(ledger).begin(take(ledger), "body", None, "").name == "r0.1/1"
    with pytest.raises(NoMoney, match="has no price"):
        Purse(ledger, project=5.0).begin(take(ledger, "r1"), "body", None, "")
    with pytest.raises(NoMoney, match="project's budget of 5"):
        Purse(ledger, project=5.0).begin(take(ledger, "r1"), "body", 6.0, "credits")


# The ledger


def test_a_take_is_begun_only_as_what_it_is(ledger):
    first = ledger.begin("s", "r0.1", "one", 4.0, "credits")
    with pytest.raises(Meanwhile):
        ledger.begin("s", "r0.1", "one", 4.0, "credits")
    with pytest.raises(Meanwhile):
        ledger.begin("s", "r9.1", "one", 4.0, "credits")
    with pytest.raises(Differs):
        ledger.begin("s", "r0.1", "another", 4.0, "credits", doubt=True)
    assert (
        ledger.begin("s", "r0.1", "one", 9.0, "credits", doubt=True) == first
        and take(ledger)["reserved"] == 9.0
    )
    ledger.end("s", first.name, "unsent", "queued")
    assert ledger.begin("s", "r0.1", "one", 4.0, "credits") == first
    ledger.end("s", first.name, "unsent", "queued")
    other = ledger.begin(
        "s", "r0.1", "another", 4.0, "credits"
    )  # it was edited, and certainly never arrived
    assert other.key != first.key and other.name == "r0.1/2"
    with pytest.raises(OverBudget):
        ledger.begin("s", "r1.1", "one", 4.0, "credits", most=7.0)


def test_what_is_spent_is_what_may_have_been(ledger):
    attempt = ledger.begin("s", "r0.1", "b", 4.0, "credits", run="run1")
    assert (
        ledger.spent() == {"credits": 4.0}
        and ledger.spent(run="run1") == {"credits": 4.0}
        and ledger.spent("t") == {}
    )
    for state, charged, spent in (
        ("sent", None, 4.0),
        ("failed", None, 4.0),
        ("done", 1.5, 1.5),
        ("refused", 0.0, 0.0),
        ("queued", None, 0.0),
    ):
        ledger.set_take("s", "r0.1", state=state, charged=charged)
        assert (
            ledger.spent().get("credits", 0.0) == spent
            and sum(one.spent for one in ledger.takes("s")) == spent
        )
    assert (
        not ledger.set_take("s", "r0.1", "no", ("sent",), state="done")
        and ledger.events("s", "r0")[-1][1] != "no"
    )
    assert attempt.key and ledger.sent_on(rooms.now()[:10], "odd") == 1


def test_what_never_went_out_is_taken_back(ledger):
    assert ledger.withdraw("s", "r0") and not ledger.takes("s", "r0") and ledger.withdraw("s", "r0")
    ledger.begin("s", "r1.1", "b", 4.0, "credits")
    assert not ledger.withdraw("s", "r1")


@pytest.mark.parametrize(
    ("attempt", "adopted"),
    [
        ("r0.1/1", True),
        ("r0.2/1", True),
        ("r0.3/1", False),
        ("r0.x/1", False),
        ("r9.1/1", False),
        ("r1.1/1", False),
    ],
)
def test_what_a_ledger_takes_in(ledger, attempt, adopted):
    ledger.begin("s", "r1.1", "b", 4.0, "credits")
    assert ledger.adopt("s", attempt, "t7", "odd") == adopted and not ledger.adopt(
        "s", attempt, "t7", "another"
    )
    assert ledger.bearing("task", "t7") == (
        [("s", attempt.partition("/")[0], "odd")] if adopted else []
    )


def test_a_ledger_that_can_t_be_used(folder, ledger, monkeypatch):
    with pytest.raises(Trouble, match="no sheet is called “x”"):
        ledger.rows("x")
    with sqlite3.connect(folder / "ledger.sqlite") as base:
        base.execute("update rows set body = '[]' where id = 'r0'")
    with pytest.raises(Trouble, match="can't be used"), ledger.whole():
        ledger.rows("s")
    with sqlite3.connect(folder / "ledger.sqlite") as base:
        base.execute("update meta set value = '99' where name = 'version'")
    with pytest.raises(Trouble, match="newer version"):
        Ledger(folder)
    (folder / "ledger.sqlite").write_bytes(b"no ledger")
    for path in folder.glob("ledger.sqlite-*"):
        path.unlink()
    with pytest.raises(Trouble, match="can't be read as a ledger"):
        Ledger(folder)
    (folder / "ledger.sqlite").unlink()
    with pytest.raises(Trouble, match="this workspace has no sheets yet"):
        Ledger(folder, read_only=True)


def test_a_ledger_knows_whether_it_is_a_copy(folder, ledger):
    assert ledger.is_copy() == ""
    ledger.begin("s", "r0.1", "b", 4.0, "credits")
    assert ledger.is_copy() == ""
    witness = next((folder / "own/ledgers").iterdir())
    known = witness.read_text()
    witness.unlink()
    assert "not registered in your own folder" in ledger.is_copy()
    witness.write_text("99")
    assert "something was sent" in ledger.is_copy()
    witness.write_text(known)
    (folder / "own/machine").write_text("another")
    assert "another machine" in ledger.is_copy()
    ledger.is_true()
    assert ledger.is_copy() == ""
    with ledger.whole(), pytest.raises(ZeroDivisionError), ledger.step():
        ledger.base.execute("delete from rows")
        raise ZeroDivisionError
    assert Ledger(folder).row("s", "r0")


# Where two calls meet


def collector(folder, ledger):
    return Collector(Workspace.load(folder), ledger)


def test_a_take_that_another_call_has_is_left_to_it(folder, ledger, monkeypatch):
    from syntagma.storage import files

    ledger.begin("s", "r0.1", "b", 4.0, "credits")
    ledger.set_take("s", "r0.1", state="sent", task="t1")
    with collector(folder, ledger) as one:
        monkeypatch.setattr(
            one.client("odd"), "ask", lambda task: pytest.fail("asked, though another call has it")
        )
        path = files._locks()
        from hashlib import blake2b

        name = blake2b(
            f"{ledger.path}:take-{crc32(b's:r0.1') % 256}".encode(), digest_size=16
        ).hexdigest()
        with FileLock(path / name, timeout=0):
            import subprocess
            import sys

            script = f"import os; os.environ['SYNTAGMA_HOME'] = {str(folder / 'own')!r}\nfrom syntagma.app.batches.collecting import Collector\nfrom syntagma.app.workspace.workspace import Workspace\nfrom syntagma.storage.ledger import Ledger\nfrom pathlib import Path\nledger = Ledger(Path({str(folder)!r}))\nwith Collector(Workspace.load(Path({str(folder)!r})), ledger) as one:\n    one.client('odd').ask = lambda task: 1 / 0\n    print(one.look('s').under_way)\n"
            done = subprocess.run(
                [sys.executable, "-c", script],
                cwd=folder,
                capture_output=True,
                text=True,
                timeout=60,
            )
            assert done.stdout.strip() == "1", done.stderr


def test_what_another_call_found_meanwhile_stays(folder, ledger):
    ledger.begin("s", "r0.1", "b", 4.0, "credits")
    ledger.set_take("s", "r0.1", state="sent", task="t1")
    one = take(ledger)
    ledger.set_take("s", "r0.1", state="done", file="x.png")
    with collector(folder, ledger) as mine:
        mine.again(one, "no answer")
        assert take(ledger)["state"] == "done"
        mine.say("once")
        mine.say("once")
        assert (
            mine.said == ("once",)
            and mine.ask_again("s", "r9.1") is False
            and mine.ask_again("s", "r1.1") is False
        )


def test_a_model_whose_service_is_not_bound_stops_no_other(folder, ledger):
    (folder / "models/other.toml").write_text(PROFILE.replace("127.0.0.1:9", "api.example"))
    ledger.begin("s", "r0.1", "b", 4.0, "credits")
    for state, task in (("sent", "t1"), ("unclear", "")):
        ledger.set_take("s", "r0.1", state=state, task=task, model="other", next_at=0.0)
        with collector(folder, ledger) as one:
            came = one.look("s")
            assert came.hopeful == (state == "sent") and any(
                "you have not allowed" in line for line in came.told
            )


def test_doubts_that_are_too_fresh_or_of_no_attempt(folder, ledger):
    attempt = ledger.begin("s", "r0.1", "b", 4.0, "credits")
    with collector(folder, ledger) as one:
        one.doubts.clear_up("s")
        assert take(ledger)["state"] == "sending"  # somebody waits for it
        ledger.set_take("s", "r1.1", state="unclear")  # of which no request is known
        one.doubts.clear_up("s", alone=True)
        assert (
            take(ledger)["state"] == "unclear"
            and "when the program ended" in take(ledger)["why"]
            and attempt
        )
        ledger.set_take("s", "r0.1", task="t5")
        assert one.doubts.reconcile.__self__ is one.doubts


@pytest.mark.parametrize("how", ["differs", "gone", "meanwhile", "halted", "old"])
def test_what_can_t_be_asked_again(folder, ledger, how, monkeypatch):
    ledger.begin(
        "s",
        "r0.1",
        "another body" if how == "differs" else requests.short_of({"say": "A heron 0."}),
        4.0,
        "credits",
    )
    ledger.set_take("s", "r0.1", state="unclear")
    if how == "gone":
        row = ledger.row("s", "r0")
        ledger.set_row("s", row._replace(references=[{"role": "style", "value": "gone.png"}]), "x")
    if how == "halted":
        services.halt("http://127.0.0.1:9", "too dear")
    with collector(folder, ledger) as one:
        if how == "meanwhile":
            monkeypatch.setattr(ledger, "begin", lambda *a, **k: (_ for _ in ()).throw(Meanwhile()))
        if how == "old":
            one.doubts.clock = lambda: time.time() + 90_000
        monkeypatch.setattr(one.client("odd"), "find", lambda reference: [])
        monkeypatch.setattr(
            one.client("odd"), "listing", lambda: (_ for _ in ()).throw(Unreadable("no"))
        )
        monkeypatch.setattr(
            one.client("odd"), "submit", lambda *_: pytest.fail("it was asked again")
        )
        one.doubts.clear_up("s")
        assert (
            take(ledger)["state"] == "unclear"
            and take(ledger)["tries"] == 1
            and (how != "differs" or "can't be sent again" in one.told[0])
        )


def test_a_doubt_keeps_its_first_reason_and_the_last(folder, ledger):
    attempt = ledger.begin("s", "r0.1", "b", 4.0, "credits")
    with collector(folder, ledger) as one:
        for why in ("no answer came", "the host is gone", "the service is full"):
            one.settle(
                take(ledger), attempt.name, Outcome("unclear", why), doubt=why != "no answer came"
            )
        assert take(ledger)["why"] == "no answer came; last try: the service is full"


def test_a_doubt_is_settled_by_a_list_alone_when_it_is_old_enough(folder, ledger, monkeypatch):
    for row in ("r0", "r1", "r2"):
        attempt = ledger.begin("s", f"{row}.1", "b", 4.0, "credits")
        time.sleep(0.005)
        ledger.end(
            "s",
            attempt.name,
            "sent" if row != "r1" else "unclear",
            "sent" if row != "r1" else "unclear",
            f"t{row}" if row != "r1" else "",
        )
    with collector(folder, ledger) as one:
        client, ours = (
            one.client("odd"),
            lambda row: (one.reference(f"s:{row}.1/1"), Told(f"t{row}")),
        )
        client.service = client.service.__class__(
            **{
                **{name: getattr(client.service, name) for name in client.service.FIELDS},
                "key": None,
            }
        )
        monkeypatch.setattr(
            client, "find", lambda reference: (_ for _ in ()).throw(Unreadable("no"))
        )
        one.doubts.clock = lambda: time.time() + 10
        monkeypatch.setattr(
            client,
            "listing",
            lambda: pytest.fail("the list counts for nothing while a look-up fails"),
        )
        one.doubts.clear_up("s")
        assert take(ledger, "r1")["state"] == "unclear"
        monkeypatch.setattr(client, "find", lambda reference: [])
        lists = iter(
            [
                Listing([ours("r0")]),
                Listing([ours("r0"), ours("r2"), ours("r1")]),
                Listing([ours("r0"), ours("r2")], "odd"),
                Listing([ours("r0"), ours("r2")]),
            ]
        )
        monkeypatch.setattr(client, "listing", lambda: next(lists))
        one.doubts.clock = lambda: time.time() + 10
        for state in ("unclear", "unclear", "unclear", "queued"):
            ledger.set_take("s", "r1.1", next_at=0.0)
            one.doubts.clear_up("s")
            assert take(ledger, "r1")["state"] == state
        ledger.set_take("s", "r2.1", model="nowhere")
        assert one.doubts._host("nowhere") == ""


def test_another_sender_at_the_same_service(folder, monkeypatch):
    real = FileLock

    monkeypatch.setattr("filelock.FileLock", lambda path, timeout: real(path, timeout=0.05))
    with (
        sending._alone("h"),
        pytest.raises(Trouble, match="another sender is using h"),
        sending._alone("h"),
    ):
        pass


def test_a_run_that_is_stopped_or_meets_what_another_did(folder, ledger, monkeypatch):
    with collector(folder, ledger) as one:
        sheet = Sheet(one.workspace, ledger, "s")
        for row in list(sheet.rows.values()):
            sheet.put(row._replace(approval=sheet.seen(row)), "approved")
        sender = sending.Sender(sheet, one, sending.Order())
        monkeypatch.setattr(sender.purse, "begin", lambda *a: (_ for _ in ()).throw(Meanwhile()))
        assert sender.run().sent == 0
        monkeypatch.setattr(sender.purse, "begin", lambda *a: (_ for _ in ()).throw(Differs()))
        assert "can't be sent again" in " ".join(sender.run().told)
        sender.stop()
        assert sender.run().sent == 0 and sender.stopped
        services.halt("http://127.0.0.1:9", "too dear")
        sender.stopped = False
        assert "too dear" in sender.run().ended and services.halted()
        sender.say("x")
        sender.say("x")
        assert sender.told.count("x") == 1


# Services


def test_services_that_can_t_be_read(folder):
    (folder / "own/services.toml").write_text('[services."api.example"]\nenv = 5\n')
    with pytest.raises(Refused):
        services.bindings()
    (folder / "own/services.toml").write_text("services = 5\n")
    assert services.bindings() == {}
    (folder / "own/services.toml").write_text('[services]\n"api.example" = 5\n"http://[bad" = {}\n')
    assert services.bindings() == {}
    (folder / "own/services.toml").unlink()
    services.bind("api.example")
    assert services.unbind("https://api.example") and not services.unbind("api.example")
    (folder / "own/halted.json").write_text("{")
    with pytest.raises(Trouble, match="can't be read"):
        services.halted()
    (folder / "own/halted.json").write_text("[]")
    assert services.halted() == {}


@pytest.mark.parametrize(
    ("service", "at", "said"),
    [
        ("", "", "has no service"),
        ('address = "http://127.0.0.1:9"', "http://api.example", "is not on this machine"),
    ],
)
def test_a_service_that_is_none(folder, service, at, said):
    (folder / "models/odd.toml").write_text(
        f"{f'[service]{chr(10)}{service}' if service else ''}\n{'[service.answer]' + chr(10) + 'results = ' + chr(34) + '/x' + chr(34) if service else ''}\n"
    )
    workspace = Workspace.load(folder)
    with pytest.raises(Trouble, match=said):
        services.service_of(workspace, workspace.model("odd"), at)


@pytest.mark.parametrize(
    ("service", "at", "goes_to"),
    [
        ("http://127.0.0.1:9", "http://127.0.0.1:11", "http://127.0.0.1:11"),
        ("http://127.0.0.1:9", "", "http://127.0.0.1:9"),
        # the stand-in's address is for models on this machine: others keep their own
        ("https://api.elsewhere.test", "http://127.0.0.1:11", "https://api.elsewhere.test"),
    ],
)
def test_where_a_model_sends(folder, service, at, goes_to):
    good(folder, "service", "add", "127.0.0.1:11", "--no-secret")
    good(folder, "service", "add", "api.elsewhere.test", "--no-secret")
    (folder / "models/odd.toml").write_text(PROFILE.replace("http://127.0.0.1:9", service))
    workspace = Workspace.load(folder)
    assert services.service_of(workspace, workspace.model("odd"), at)[0].address == goes_to


def test_an_address_that_is_none(folder):
    from syntagma.core.models.profile import Profile, Service

    with pytest.raises(Trouble, match="which is not an address"):
        services.service_of(
            Workspace.load(folder), Profile(name="x", service=Service(address="http://[bad"))
        )


# Requests and results


def row_of(*references, needs=(), **more):
    return SheetRow(
        "r1",
        "odd",
        "A hen.",
        references=[{"role": "style", "value": one} for one in references],
        request={"like": list(references), "say": "A hen."},
        needs=needs,
        **more,
    )


def test_files_that_go_along(folder, ledger, monkeypatch):
    workspace = Workspace.load(folder)
    (folder / "a.png").write_bytes(PNG)
    assert (
        "by web address" in requests.leaving(workspace, row_of("a.png"))[0].why
        and "by web address" in requests.request_body(workspace, ledger, "s", row_of("a.png"))[1]
    )
    (folder / "models/odd.toml").write_text(
        PROFILE.replace("[service]", '[service]\npictures = "data"')
    )
    workspace = Workspace.load(folder)
    assert [
        one.name
        for one in requests.leaving(
            workspace, row_of("a.png", "https://x.example/b.png", "@moth", "")
        )
    ] == ["a.png"] and requests.leaving(workspace, row_of("a.png"))[0].digest
    body, why = requests.request_body(
        workspace, ledger, "s", row_of("a.png", "https://x.example/b.png")
    )
    assert (
        body["like"][0].startswith("data:image/png")
        and body["like"][1].startswith("https")
        and not why
    )
    monkeypatch.setattr(requests, "MOST", 3)
    assert "too large" in requests.request_body(workspace, ledger, "s", row_of("a.png"))[1]


def test_what_a_row_waits_for_is_put_in(folder, ledger):
    (folder / "models/odd.toml").write_text(
        PROFILE.replace("[service]", '[service]\npictures = "data"')
    )
    workspace = Workspace.load(folder)
    waits = row_of("still.png", needs=[{"of": "2", "file": "still.png"}])
    assert (
        requests.leaving(workspace, waits) == []
        and "no row of this sheet has that name"
        in requests.request_body(workspace, ledger, "s", waits)[1]
    )
    (folder / "still.png").write_bytes(PNG)
    assert requests.request_body(workspace, ledger, "s", waits)[0]["like"][0].startswith("data:")
    last = row_of("end.png", needs=[{"of": "2", "what": "last picture", "file": "../end.png"}])
    assert "waits for the last picture" in requests.request_body(workspace, ledger, "s", last)[1]


def test_results_are_written_over_nothing(folder):
    from syntagma.service.answers import Result

    files = settling.ResultFiles(Workspace.load(folder))
    one = {"sheet": "s", "row": "r1", "number": 1}
    import base64

    first, same = (
        files.written(None, Result(data=base64.b64encode(PNG).decode()), one, "r1.1", None)
        for _ in range(2)
    )
    other = files.written(
        None, Result(data=base64.b64encode(PNG + b"\0" * 4).decode()), one, "r1.1", None
    )
    assert first.path == same.path == "results/s/r1.1.png" and other.path == "results/s/r1.1-2.png"
    (folder / "results/s/r1.2.png").symlink_to("nowhere")
    assert (
        files.written(None, Result(data=base64.b64encode(PNG).decode()), one, "r1.2", None).path
        == "results/s/r1.2-2.png"
    )
    (folder / "elsewhere").mkdir()
    (folder / "results/t").symlink_to(folder / "elsewhere")
    with pytest.raises(settling.Strange, match="is a link"):
        files.written(
            None, Result(data=base64.b64encode(PNG).decode()), {**one, "sheet": "t"}, "r1.1", None
        )


def test_a_result_that_can_be_written_nowhere(folder, monkeypatch):
    import base64

    from syntagma.service.answers import Result

    monkeypatch.setattr(settling, "_put", lambda *_: (_ for _ in ()).throw(OSError(28, "full")))
    monkeypatch.setattr(
        Path, "write_bytes", lambda *_: (_ for _ in ()).throw(OSError(28, "full too"))
    )
    with pytest.raises(OSError, match="full"):
        settling.ResultFiles(Workspace.load(folder)).written(
            None,
            Result(data=base64.b64encode(PNG).decode()),
            {"sheet": "s", "row": "r1", "number": 1},
            "r1.1",
            None,
        )


@pytest.mark.parametrize(("media", "parameters", "file", "said"), [
    ("image", {}, (".mp4", None), "a clip instead of a picture"), ("video", {}, (".png", (4, 4)), "a picture instead of a clip"), ("video", {}, (".png", (4, 4), True), ""), ("video", {}, (".gif", (4, 4)), ""), ("image", {"ratio": "2:3"}, (".png", (20, 30)), ""), ("image", {"ratio": "2:3"}, (".png", (30, 20)), "30 × 20, and 2:3"),
    ("image", {"width": 8, "height": 4}, (".png", (16, 8)), "16 × 8, but 8 × 4"), ("image", {"width": 8, "height": 4}, (".png", (8, 8)), "8 × 8, and 8 × 4"), ("image", {"width": 8}, (".png", (8, 8)), ""), ("image", {"format": "jpg"}, (".png", None), "PNG came instead of JPG"), ("image", {}, (".png", (9, 1)), ""),
])  # fmt: skip
def test_what_came_beside_what_was_asked_for(folder, media, parameters, file, said):
    from syntagma.formats.media_files import Media

    (folder / "models/odd.toml").write_text(
        f'media = "{media}"\n[parameter.ratio]\nvalues = ["2:3", "1:1"]\ndefault = "1:1"\n[parameter.width]\ntype = "integer"\n[parameter.height]\ntype = "integer"\n[parameter.format]\nvalues = ["jpg", "png"]\n'
    )
    row = SheetRow("r1", "odd", "x", parameters=parameters)
    found = settling.remarks(
        Workspace.load(folder).model("odd"), row, [settling.Came("x", "d", Media(*file))]
    )
    assert said in found and bool(said) == bool(found)


# Sheets, copies, conditions


def test_a_sheet_and_what_it_can_t_do(folder, ledger, monkeypatch):
    sheet = Sheet(Workspace.load(folder), ledger, "s")
    with pytest.raises(Trouble, match="no rows were named"):
        sheet.chosen([], "")
    with pytest.raises(Trouble, match="no take"):
        sheet.take_state("r0.9")
    assert sheet.set_status([sheet.rows["r0"]], "removed") == [] and not ledger.takes("s", "r0")
    sheet.put(sheet.rows["r1"]._replace(model="nowhere"), "x")
    assert "no model is called" in sheet.set_status([sheet.rows["r1"]], "approved")[0][1]
    ledger.set_take("s", "r2.1", state="sent", task="t1")
    sheet.load()
    assert "it is sent already" in sheet.set_status([sheet.rows["r2"]], "open")[0][1]
    for settle, said in (
        ({"lost": True}, "is still at the service"),
        ({"accept": True}, "no result to accept"),
    ):
        with pytest.raises(Trouble, match=said):
            sheet.settle("r2.1", **settle)
    ledger.set_take("s", "r2.1", state="unclear", task="", next_at=time.time() + 900)
    assert sheet.settle("r2.1", task="t7") == "sent"
    again = take(ledger, "r2")
    assert (again["task"], again["next_at"], again["why"]) == ("t7", 0.0, "")  # asked at once
    with pytest.raises(Trouble, match="so it can't be chosen"):
        sheet.choose("r2.1")
    ledger.set_take("s", "r2.1", state="done", file="x.png")
    sheet.load()
    sheet.choose("r2.1")
    assert sheet.ledger.takes("s", "r2")[0].chosen
    monkeypatch.setattr(sheets.getpass, "getuser", lambda: (_ for _ in ()).throw(OSError()))
    assert sheets.person() == "somebody"
    with pytest.raises(Trouble, match="this folder is not one"), opened(Workspace(None)):
        pass


def test_a_copy_with_everything_wrong_in_it(folder):
    (folder / "rows.jsonl").write_text(
        "".join(
            json.dumps(
                {"text": f"A heron {n}.", "model": "curlew-still", "parameters": {"seed": 5}}
            )
            + "\n"
            for n in range(6)
        )
    )
    good(folder, "sheet", "new", "s", "rows.jsonl", "--out", "c.csv")
    rows = (folder / "c.csv").read_text().splitlines()
    ids = [line.partition(",")[0] for line in rows[1:]]
    base = sqlite3.connect(folder / "ledger.sqlite")
    base.execute(
        "insert into takes (sheet, row, number, state, task) values ('s', ?, 1, 'sent', 't1')",
        (ids[5],),
    )
    base.commit()
    head = rows[0].split(",")
    cells = [dict(zip(head, line.split(","), strict=True)) for line in rows[1:]]
    (
        cells[0]["model"],
        cells[1]["takes"],
        cells[2]["text"],
        cells[3]["seed"],
        cells[4]["status"],
        cells[5]["text"],
    ) = "nowhere", "0", " ", "", "lovely", "Another heron."
    cells += [
        dict.fromkeys(head, ""),
        dict.fromkeys(head, "") | {"text": "x", "model": "nowhere"},
        dict.fromkeys(head, "") | {"note": "only"},
        dict.fromkeys(head, "") | {"text": "A wren.", "model": "curlew-still", "takes": "3"},
    ]
    (folder / "c.csv").write_text(
        "\n".join([rows[0], *(",".join(cell[name] for name in head) for cell in cells)]) + "\n"
    )
    done = run(folder, "sheet", "import", "s", "c.csv")
    for said in (
        "no model is called “nowhere”",
        "is not a number of takes",
        "its text is blank",
        "can't be set by hand",
        "has been sent, so your changes are in a new row",
        "it has no text",
        "a new row of c.csv is left out: no model is called",
    ):
        assert said in done.stderr, said
    now = shown(folder)
    assert "seed" not in now[3].get("parameters", {}) and len(now) == 8 and now[7]["takes"] == 3
    assert read_sheet_file(str(folder / "c.csv"))[0]["id"] == ids[0]
    (folder / "d.csv").write_text("text\nx\n")
    assert "has no column “id”" in run(folder, "sheet", "import", "s", "d.csv").stderr
    (folder / "e.csv").write_text('id,text\nr1,"x\n')
    assert run(folder, "sheet", "import", "s", "e.csv").returncode == 1
    with Ledger(folder).whole() as _:
        pass
    with (
        opened(Workspace.load(folder)) as ledger,
        pytest.raises(Trouble, match=r"can.t write a sheet as"),
    ):
        write_sheet_file(Sheet(Workspace.load(folder), ledger, "s"), str(folder / "x.pdf"), print)


def test_a_sheet_that_a_workbook_can_t_hold(folder):
    (folder / "rows.jsonl").write_text(
        json.dumps({"text": "A hen. " * 6000, "model": "curlew-still"}) + "\n"
    )
    assert (
        "more than 32,767 characters"
        in run(folder, "sheet", "new", "s", "rows.jsonl", "--out", "s.xlsx").stderr
    )


@pytest.mark.parametrize(("was", "theirs", "taken", "broken"), [
    ("007", "7", None, "become a number"), ("1/2", "2026-02-01 00:00:00", None, "become a date"), ("=1+1 hens", "1+1 hens", None, "leading sign"), ("a\nb", "a\r\nb", None, ""), ("a\nb", "a_x000D_\nb", None, "line ends"), ("a", "b", "b", ""), ("", "x", "x", ""), ("a", "#NAME?", None, "ran the cell"),
])  # fmt: skip
def test_what_a_spreadsheet_did_to_a_cell(was, theirs, taken, broken):
    found = merged(
        {"r1": {"text": was}},
        {"r1": {"text": was}},
        [{"id": "r1", "text": theirs}],
        ["text", "note"],
    )
    assert [change.after for change in found.changes] == ([taken] if taken else []) and (
        found.broken[0][2] if found.broken else ""
    ).find(broken) >= 0


def test_rows_of_a_copy_that_are_odd():
    now = {"r12345": {"text": "a"}, "r2": {"text": "b"}}
    copy = [
        {"id": "", "status": "open"},
        {"id": "r2", "text": "b"},
        {"id": "r2", "text": "c"},
        {"id": "r2", "text": "d"},
        {"id": "r1234", "text": "x"},
        {"id": "zz", "text": "x"},
    ]
    found = merged(now, now, copy, ["text"])
    assert (
        found.twice == ("r2",)
        and found.unknown == ("r1234 (cut? r12345)", "zz")
        and found.gone == ("r12345",)
        and not found.new
        and not found.changes
    )
    mine = merged(
        {"r2": {"text": "a"}}, {"r2": {"text": "x"}}, [{"id": "r2", "text": "x"}], ["text"]
    )
    assert not mine.changes and not mine.conflicts
    assert merged(
        {"r2": {"text": "a"}}, {"r2": {"text": "x"}}, [{"id": "r2", "text": "y"}], ["text"]
    ).conflicts


@pytest.mark.parametrize(
    ("text", "before", "unsent", "status"),
    [
        ("Approved", "open", True, "approved"),
        ("open", "open", True, "open"),
        ("odd", "open", True, "open"),
        ("removed", "approved", False, "approved"),
    ],
)
def test_a_status_that_a_person_sets(text, before, unsent, status):
    found, why = status_given(text, before, unsent)
    assert found == status and bool(why) == (text == "odd" or not unsent)


@pytest.mark.parametrize("text", ["", "cost>", "cost>dear", "price=4", "and", "cost>4 and"])
def test_a_condition_that_says_nothing(text):
    if text in ("cost>",):
        with pytest.raises(BadCondition, match="is not a number"):
            condition(text, ["cost"])
        return
    with pytest.raises(BadCondition):
        condition(text, ["cost"])({"cost": "4"})


@pytest.mark.parametrize(
    ("text", "holds"),
    [
        ("cost>3", True),
        ("cost<=3", False),
        ("cost>=4", True),
        ("cost<4", False),
        ("cost=4", True),
        ("cost!=4", False),
        ("COST = 4 credits", True),
        ("ratio>1", False),
        ("ratio=1/5", True),
    ],
)
def test_a_condition(text, holds):
    assert condition(text, ["cost", "ratio"])({"cost": "4 credits", "ratio": "1/5"}) == holds


def test_small_things_of_rows():
    assert row_ids(["abcdefghijkl"] * 3, ["rabcdefghi"]) == [
        "rabcdefghi-2",
        "rabcdefghi-3",
        "rabcdefghi-4",
    ]
    assert (
        status_of(SheetRow("r", "m", "t"), []) == "open"
        and Outcome("sent").sure is False
        and serving
        and Other
    )


# What is left


def test_a_take_that_is_held_waits(folder, ledger, monkeypatch):
    from syntagma.app.batches import collecting

    ledger.begin("s", "r0.1", "b", 4.0, "credits")
    ledger.set_take("s", "r0.1", state="sent", task="t1")
    monkeypatch.setattr(
        collecting, "held", lambda *a, **k: (_ for _ in ()).throw(Trouble("held", "wait"))
    )
    with collector(folder, ledger) as one:
        assert (
            one.look("s").under_way == 1
            and take(ledger)["next_at"] > time.time() - 1
            and take(ledger)["tries"] == 0
        )
        assert one.statement([{"task": "t1", "charged": "3"}]) == [
            "r0.1: 3 was charged; the ledger had nothing"
        ]


def test_the_same_file_or_task_where_that_is_as_it_should_be(folder, ledger):
    from syntagma.formats.media_files import Media

    ledger.queue("s", "r0", (2,), 4.0, "credits", "odd")
    for name in ("r0.1", "r0.2"):
        ledger.set_take("s", name, digest="d", task="t1", state="sent")
    (folder / "models/far.toml").write_text(PROFILE.replace("127.0.0.1:9", "127.0.0.1:10"))
    good(folder, "service", "add", "127.0.0.1:10", "--no-secret")
    ledger.set_take("s", "r2.1", task="t9", model="far", state="sent")
    with collector(folder, ledger) as one:
        came = settling.Came("x", "d", Media(".png"))
        assert one._anothers(take(ledger), [came]) == ""  # the same request, drawn twice alike
        assert (
            one._own(take(ledger, "r1"), Outcome("sent", "", "t9")).kind == "sent"
        )  # another service counts by itself


def test_other_picks_in_place_of_a_rows(folder, monkeypatch):
    from syntagma.app.batches import sheets

    good(
        folder,
        "expand",
        "poster",
        "--count",
        "2",
        "--draw",
        "3",
        "--model",
        "curlew-still",
        "--out",
        "p.jsonl",
    )
    good(
        folder,
        "expand",
        "poster",
        "subject=fox",
        "medium=linocut",
        "--vary",
        "parameter.seed=1,2",
        "--model",
        "curlew-still",
        "--out",
        "q.jsonl",
    )
    good(
        folder,
        "compose",
        "poster",
        "--pick",
        "--draw",
        "4",
        "--model",
        "curlew-still",
        "--out",
        "c.jsonl",
    )
    for name in ("p", "q", "c"):
        good(folder, "sheet", "new", name, f"{name}.jsonl")
    rows = shown(folder, "p")
    assert (
        "was not picked" not in run(folder, "sheet", "redraw", "p", rows[0]["id"]).stderr
        and shown(folder, "p")[0]["text"] != rows[0]["text"]
    )
    before = shown(folder, "c")[0]
    good(folder, "sheet", "redraw", "c", before["id"])
    assert shown(folder, "c")[0]["text"] != before["text"]
    assert "nothing in" in run(folder, "sheet", "redraw", "q", shown(folder, "q")[0]["id"]).stderr
    monkeypatch.setattr(sheets, "TRIES", 0)
    assert "no picks are left" in run(folder, "sheet", "redraw", "p", rows[1]["id"]).stderr
    with sqlite3.connect(folder / "ledger.sqlite") as base:
        base.execute(
            "insert into takes (sheet, row, number, state) values ('p', ?, 1, 'sent')",
            (rows[1]["id"],),
        )
    assert "has been sent already" in run(folder, "sheet", "redraw", "p", rows[1]["id"]).stderr


def test_prices_of_models_that_build_on_others(folder):
    from syntagma.app.batches.rows_made import worst_price

    (folder / "models/below.toml").write_text(
        PROFILE.replace("127.0.0.1:9", "127.0.0.1:10").replace("amount = 4", "amount = 99")
    )
    (folder / "models/above.toml").write_text(
        'base = "below"\n[price]\namount = 1\n[service]\naddress = "http://127.0.0.1:9"\n'
    )
    (folder / "models/none.toml").write_text('base = "odd"\nwithout = ["price"]\n')
    workspace = Workspace.load(folder)
    assert (
        worst_price(workspace, SheetRow("r", "above", "x")) == 1.0
        and worst_price(workspace, SheetRow("r", "none", "x")) is None
        and worst_price(workspace, SheetRow("r", "curlew-still", "x")) == 4.0
    )
    # two levels up, at the service of the highest: the dearest price of those that send there
    (folder / "models/below.toml").write_text(PROFILE.replace("amount = 4", "amount = 9"))
    (folder / "models/between.toml").write_text('base = "below"\nwithout = ["price"]\n')
    (folder / "models/above.toml").write_text('base = "between"\n[price]\namount = 1\n')
    assert worst_price(Workspace.load(folder), SheetRow("r", "above", "x")) == 9.0


def test_a_sheet_in_a_workbook_has_lists_where_there_are_any(folder):
    (folder / "rows.jsonl").write_text(
        json.dumps(
            {"text": "A hen.", "model": "curlew-still", "parameters": {"seed": 5, "ratio": "2:3"}}
        )
        + "\n"
    )
    good(folder, "sheet", "new", "s", "rows.jsonl", "--out", "s.xlsx")
    with sqlite3.connect(folder / "ledger.sqlite") as base:
        base.execute("insert into given values ('s', 'r-that-is-gone', 'x', '2026-01-01', '{}')")
    rows = folder / "s.csv"
    good(folder, "sheet", "show", "s", "--out", "s.csv")
    rows.write_text(rows.read_text().replace(",open,", ", OPEN,"))
    assert "0 cells changed" in run(folder, "sheet", "import", "s", "s.csv").stderr
    good(folder, "sheet", "show", "s", "--out", "s.csv")
    good(folder, "sheet", "approve", "s", "--all")
    rows.write_text(rows.read_text().replace(",open,", ",removed,"))
    assert "changed on both sides" in run(folder, "sheet", "import", "s", "s.csv").stderr


def test_the_stand_in_and_profiles_that_can_t_be_read(folder):
    from syntagma.app.batches.standin import standin

    (folder / "models/broken.toml").write_text("x")
    server = standin(Workspace.load(folder), 0)
    server.server_close()
    assert (
        server.price("broken", {}) == 1.0
        and server.price("whimbrel-motion", {"clips": [{"length": 8}, "x"]}) == 40.0
    )


def test_the_stand_in_takes_tax_too(folder):
    from syntagma.app.batches.standin import standin

    (folder / "models/taxed.toml").write_text('media = "image"\n[price]\namount = 4\ntax = 0.25\n')
    server = standin(Workspace.load(folder), 0)
    server.server_close()
    assert server.price("taxed", {}) == 5.0


def test_calls_of_sheets_and_services(folder, monkeypatch):
    from syntagma.app.batches import collecting

    (folder / "film.jsonl").write_text(
        json.dumps({"text": "x", "model": "odd", "film": {"pinned": True}}) + "\n"
    )
    assert "it has no prompts to send" in run(folder, "sheet", "new", "f", "film.jsonl").stderr
    (folder / "bad.jsonl").write_text('{"text": \n')
    assert run(folder, "sheet", "new", "f", "bad.jsonl").returncode == 1
    (folder / "rows.jsonl").write_text(
        json.dumps({"text": "A hen. " * 40, "model": "odd", "parameters": {"seed": 1}}) + "\n"
    )
    good(folder, "sheet", "new", "s", "rows.jsonl")
    assert "…" in good(folder, "sheet", "show", "s") and "added" in good(
        folder, "sheet", "log", "s", shown(folder)[0]["id"]
    )
    monkeypatch.setattr(
        collecting.Collector,
        "look",
        lambda self, sheet="": collecting.Collected(under_way=1, hopeful=1),
    )
    monkeypatch.setattr(
        "syntagma.cli.batches.collect.time.sleep",
        lambda seconds: (_ for _ in ()).throw(KeyboardInterrupt()),
    )
    assert (
        "stopped; run the same command to continue" in run(folder, "collect", "s", "--wait").stderr
    )
    monkeypatch.setattr("importlib.util.find_spec", lambda name: None)
    assert "needs Pillow" in run(folder, "service", "simulate").stderr


def test_the_stand_in_that_is_stopped_by_hand(folder, monkeypatch):
    from syntagma.service.standin import Standin

    monkeypatch.setattr(
        Standin,
        "serve_forever",
        lambda self, poll_interval: (_ for _ in ()).throw(KeyboardInterrupt()),
    )
    assert "0 tasks, 0 charged" in run(folder, "service", "simulate", "--port", "0").stderr


@pytest.mark.long
def test_send_from_a_thread(folder, ledger):
    import threading

    told = []
    with sqlite3.connect(folder / "ledger.sqlite") as base:
        base.execute("update rows set status = 'open'")
    good(folder, "sheet", "approve", "s", "--all")
    thread = threading.Thread(
        target=lambda: told.append(
            run(folder, "send", "s", "--yes", "--budget", "99", "--first", "1")
        )
    )
    thread.start()
    thread.join(60)
    assert (
        "can't be reached" in told[0].stderr and "0 sent" in told[0].stderr and not ledger.spent()
    )


def test_odd_things_in_a_ledger_are_damage(folder, ledger):
    ledger.begin("s", "r0.1", "b", 4.0, "credits")
    ledger.give("s", {"r0": {"text": "a"}}, {"r0": "x"})
    assert ledger.given("s")["r0", ""] == {"text": "a"}
    for change, call in (
        ("update attempts set began = x'00'", lambda: ledger.attempts("s")), ("update given set cells = '5'", lambda: ledger.given("s")), ("update meta set value = '²' where name = 'number'", lambda: ledger.is_copy()),
        ("update takes set reserved = 'odd'", lambda: ledger.takes("s")), ("update takes set reserved = 4", None), ("update takes set charged = 'odd'", lambda: ledger.spent()), ("insert into sheets values (x'00', 'y')", lambda: ledger.sheets()),
    ):  # fmt: skip
        ledger.base.execute(change)
        if call is None:
            continue
        with pytest.raises(rooms._Damaged):
            call()
    from syntagma.app.batches.collecting import age

    assert age("yesterday", 0.0) == float("inf")


def test_two_doubts_at_one_service_ask_for_its_list_once(folder, ledger, monkeypatch):
    for row in ("r0", "r1"):
        attempt = ledger.begin("s", f"{row}.1", "b", 4.0, "credits")
        ledger.end("s", attempt.name, "unclear", "unclear")
    ledger.set_take("s", "r2.1", state="unclear", task="t9")
    asked = []
    with collector(folder, ledger) as one:
        client = one.client("odd")
        client.service = client.service.__class__(
            **{
                **{name: getattr(client.service, name) for name in client.service.FIELDS},
                "key": None,
                "find": None,
            }
        )
        monkeypatch.setattr(client, "listing", lambda: asked.append(1) or Listing([], "odd"))
        one.doubts.clock = lambda: time.time() + 10
        one.doubts.clear_up("s")
        assert asked == [1]
        said, whole = one.doubts.reconcile(["odd"], "s")
        assert len(said) == 3 and not whole


def test_what_collecting_says_while_it_waits(folder, ledger, monkeypatch):
    from syntagma.app.batches import collecting

    looks = iter([collecting.Collected(under_way=2, hopeful=2), collecting.Collected(done=2)])
    monkeypatch.setattr(collecting.Collector, "look", lambda self, sheet="": next(looks))
    assert run(folder, "collect", "s", "--wait").returncode == 0
    ledger.set_take("s", "r0.1", state="failed")
    assert "never gave it a task number" in run(folder, "collect", "s", "--retry", "r0.1").stderr
    ledger.set_take("s", "r0.1", state="done", file="x.png", why="it is 1 × 1")
    assert (
        "r0 r0.1: it is 1 × 1" in good(folder, "sheet", "show", "s")
        and "chose r0.1" in run(folder, "sheet", "choose", "s", "r0.1").stderr
    )


def test_a_picture_whose_segments_end_nowhere(tmp_path):
    from syntagma.formats.media_files import NotWhole, media_of

    (tmp_path / "x").write_bytes(b"\xff\xd8\xff\xe0\x00\x08abcdef\xff\xd9\x00\x02")
    with pytest.raises(NotWhole):
        media_of(tmp_path / "x")


def test_a_copy_that_opens_what_it_changes(folder):
    (folder / "rows.jsonl").write_text(
        "".join(json.dumps({"text": f"A heron {n}.", "model": "odd"}) + "\n" for n in range(2))
    )
    good(folder, "sheet", "new", "s", "rows.jsonl")
    good(folder, "sheet", "approve", "s", "--all")
    good(folder, "sheet", "show", "s", "--out", "c.csv")
    (folder / "c.csv").write_text(
        (folder / "c.csv").read_text().replace(",approved,1,A heron 0.", ",open,1,A stork.")
    )
    done = run(folder, "sheet", "import", "s", "c.csv")
    assert "it has changed, so it is open again" in done.stderr and [
        row["status"] for row in shown(folder)
    ] == ["open", "approved"]


def test_picks_that_are_in_the_sheet_already_are_picked_again(folder, monkeypatch):
    from syntagma.core.writing.prompt_writer import Writer

    good(
        folder,
        "expand",
        "poster",
        "--count",
        "2",
        "--draw",
        "3",
        "--model",
        "curlew-still",
        "--out",
        "p.jsonl",
    )
    good(folder, "sheet", "new", "p", "p.jsonl")
    rows, real, calls = shown(folder, "p"), Writer.write, []

    def write(self, fills):
        made = real(self, fills)
        calls.append(1)
        return (
            made._replace(text=rows[1]["text"])
            if len(calls) == 1 and hasattr(made, "_replace")
            else made
        )

    monkeypatch.setattr(Writer, "write", write)
    good(folder, "sheet", "redraw", "p", rows[0]["id"])
    assert shown(folder, "p")[0]["text"] not in (rows[0]["text"], rows[1]["text"])
