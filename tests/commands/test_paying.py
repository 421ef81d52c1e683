"""What is paid for: never twice, never over the budget, never lost, and never unknown without a word. Each service here does one thing wrong."""

import base64
import io
import json
import os
import sqlite3
import subprocess
import sys
import time
from collections import Counter

import pytest

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.records import Record
from tests.commands.odd_services import AT_ONCE, PNG, Other, serving, shown
from tests.commands.program import environment, good, run

KEYED = 'key = {}\nsubmit = { method = "POST", path = "/work" }\n'
PLAIN = 'submit = { method = "POST", path = "/work" }\n'
TASKS = 'state = { path = "/work/{task}" }\nreference = "/mark"\n'
ANSWER = '[service.answer]\ntask = "/no"\nstate = "/phase"\nresults = "/things"\naddress = "/at"\ncharged = "/paid"\nwrong = "/oops"\nlisted = "/all"\nwaiting = ["going"]\ndone = ["over"]\nfailed = ["broken"]\nrefused = ["no"]\n'
FIND, LIST = 'find = { path = "/work?mark={reference}" }\n', 'listed = { path = "/work" }\n'


class Books:
    """A service that keeps books of what it charged: `post(number, body)` says what it answers to each request, after it has charged."""

    def __init__(self, post=None, paid=4, charges=lambda number, body: True, get=None):
        self.post, self.paid, self.charges, self.get = post, paid, charges, get
        self.charged, self.keys, self.number = [], {}, 0

    def __call__(self, method, path, body):
        if method == "POST":
            self.number += 1
            sent = json.loads(body)
            if self.charges(self.number, sent):
                self.charged.append(sent)
            found = self.post and self.post(self.number, sent)
            return found or (
                202,
                {},
                {**self.told(len(self.charged) - 1), "phase": "going", "things": []},
            )
        found = self.get and self.get(path)
        if found:
            return found
        if path.startswith("/thing/"):
            return 200, {}, picture(int(path[7:]))
        if path == "/work" or "?" in path:
            mark = path.partition("=")[2].replace("%3A", ":").replace("%2F", "/")
            return (
                200,
                {},
                {
                    "all": [
                        self.told(n)
                        for n, one in enumerate(self.charged)
                        if not mark or one.get("mark") == mark
                    ]
                },
            )
        return 200, {}, self.told(int(path.rpartition("/")[2][1:]))

    def told(self, number):
        return {
            "no": f"t{number}",
            "phase": "over",
            "mark": self.charged[number].get("mark"),
            "paid": self.paid,
            "things": [{"at": f"/thing/{number}"}],
        }


def picture(number):
    """A PNG that no other number has: bytes behind the pixels do not change the picture."""
    end = PNG.rindex(b"IEND") - 4
    text = b"tEXt" + f"n\0{number}".encode()
    return PNG[:end] + (len(text) - 4).to_bytes(4, "big") + text + b"\0\0\0\0" + PNG[end:]


@pytest.fixture
def there(tmp_path):
    """Make a sheet of some rows for a service, all approved."""

    def make(service, address, rows=5, price="[price]\namount = 4\n", extra="", at_once=3):
        if not (tmp_path / "syntagma.toml").exists():
            good(tmp_path, "start", ".")
        (tmp_path / "models").mkdir(exist_ok=True)
        (tmp_path / "models/odd.toml").write_text(
            f'media = "image"\n{extra}{price}[request]\nsay = "{{text}}"\n[service]\naddress = "{address}"\nevery = 0.02\npatience = 1\nat_once = {at_once}\na_minute = 100000\n{service}'
        )
        lines = [
            {"text": text, "model": "odd"} for text in [f"A heron number {n}." for n in range(rows)]
        ]
        (tmp_path / "rows.jsonl").write_text("".join(json.dumps(line) + "\n" for line in lines))
        good(tmp_path, "service", "add", address, "--no-secret")
        good(tmp_path, "sheet", "new", "s", "rows.jsonl")
        good(tmp_path, "sheet", "approve", "s", "--all")
        return tmp_path

    return make


def send(folder, *words, budget="100"):
    return run(folder, "send", "s", "--yes", "--budget", budget, *words)


def settled(folder, times=6):
    for _ in range(times):
        done = run(folder, "collect", "s")
        if not {row["status"] for row in shown(folder)} & {"sent", "unclear"}:
            break
        time.sleep(0.06)
    return done


def ledger(folder):
    """Row → (state, charged, set aside)."""
    base = sqlite3.connect(folder / "ledger.sqlite")
    return {
        row: (state, charged, reserved)
        for row, state, charged, reserved in base.execute(
            "select row, state, charged, reserved from takes order by rowid"
        )
    }


def states(folder):
    return Counter(row["status"] for row in shown(folder))


def times(books):
    return max(Counter(one["say"] for one in books.charged).values(), default=0)


# Over the budget


def test_a_service_that_charges_more_is_sent_nothing_more_until_somebody_has_looked(there):
    books = Books(paid=12)
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address)
        done = send(folder, budget="20")
        assert (
            done.returncode == 1
            and len(books.charged) == 1
            and "charged 12 credits for" in done.stderr
            and "at most 4 credits had been set aside" in done.stderr
        )
        assert "charged too much" not in done.stderr and "syntagma service resume" in done.stderr
        again = send(folder)
        assert (
            again.returncode != 0
            and len(books.charged) == 1
            and "nothing was sent to" in again.stderr
        )
        assert server.address in good(folder, "service")
        good(folder, "service", "resume", server.address)
        assert "was not halted" in run(folder, "service", "resume", server.address).stderr
        send(folder)
        assert len(books.charged) == 2  # and it charges too much again


def test_what_was_spent_is_corrected_where_a_service_answers_at_once(there):
    def post(number, sent):
        return 200, {}, {"images": [{"b64": base64.b64encode(picture(number)).decode()}], "cost": 1}

    with serving(Other(Books(post))) as server:
        folder = there(PLAIN + AT_ONCE, server.address, rows=6)
        done = send(folder, budget="9")  # four set aside for each, one charged
        assert "6 sent; 6 credits at most" in done.stderr and states(folder) == {"done": 6}


@pytest.mark.parametrize(
    ("paid", "halts"),
    [(-4, False), ("-4.00", False), ("1e30", True), (None, False), ("free", False)],
)
def test_what_can_be_no_charge_is_not_believed(there, paid, halts):
    books = Books(paid=paid)
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        send(folder)
        settled(folder)
        assert len(books.charged) == (1 if halts else 2)
        assert halts or all(
            charged is None and reserved == 4 for _, charged, reserved in ledger(folder).values()
        )
        assert halts or "8 credits" in run(folder, "sheet").stdout  # counts as it was set aside


def test_what_has_no_price_is_not_free(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, price="")
        done = send(folder, budget="1")
        assert (
            done.returncode == 1
            and not books.charged
            and "a take's cost is unknown" in done.stderr
            and "nobody knows" in done.stdout
        )


@pytest.mark.parametrize("cost", [0, 0.5, -3])
def test_a_price_in_a_shared_file_counts_for_nothing(there, cost):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address)
        (folder / "theirs.jsonl").write_text(
            json.dumps({"text": "A stork.", "model": "odd", "cost": cost}) + "\n"
        )
        good(folder, "sheet", "new", "t", "theirs.jsonl")
        assert shown(folder, "t")[0]["cost"] == {"amount": 4, "currency": "credits"}


def test_a_model_of_the_workspace_is_no_cheaper_than_the_one_whose_service_it_takes(there):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address)
        (folder / "models/cheap.toml").write_text('base = "odd"\n[price]\namount = 0\n')
        (folder / "cheap.jsonl").write_text(
            json.dumps({"text": "A stork.", "model": "cheap"}) + "\n"
        )
        good(folder, "sheet", "new", "c", "cheap.jsonl")
        assert shown(folder, "c")[0]["cost"] == {"amount": 4, "currency": "credits"}


def test_a_price_that_changed_after_queuing_opens_the_row(there):
    with serving(Other(Books())) as server:
        address = server.address
        folder = there(PLAIN + TASKS + ANSWER, address)
    send(folder)  # nobody is there: all is queued
    assert states(folder) == {"queued": 5}
    path = folder / "models/odd.toml"
    path.write_text(path.read_text().replace("amount = 4", "amount = 9"))
    done = send(folder)
    assert (
        "changed after you approved it" in done.stderr
        and states(folder) == {"open": 5}
        and not ledger(folder)
    )


def test_a_budget_of_nothing_is_a_budget(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address)
        (folder / "syntagma.toml").write_text("budget = 0\n")
        done = send(folder)
        assert not books.charged and "over the project's budget of 0" in done.stderr


def test_first_counts_takes_of_a_row_each(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=3)
        (folder / "more.csv").write_text("")
        good(folder, "sheet", "show", "s", "--out", "more.csv")
        (folder / "more.csv").write_text(
            (folder / "more.csv").read_text().replace(",approved,1,", ",approved,7,")
        )
        good(folder, "sheet", "import", "s", "more.csv")
        good(folder, "sheet", "approve", "s", "--all")
        send(folder, "--first", "1")
        assert len(books.charged) == 1
        send(folder, "--first", "2")
        assert Counter(one["say"] for one in books.charged) == {
            f"A heron number {n}.": 1 for n in range(3)
        }
        send(folder, budget="1000")
        assert len(books.charged) == 21


def test_free_counts_what_any_sheet_sent_today(there):
    books = Books(paid=0)
    with serving(Other(books)) as server:
        folder = there(
            PLAIN + TASKS + ANSWER, server.address, rows=2, price="[price]\namount = 4\nfree = 3\n"
        )
        send(folder, "--free")
        (folder / "more.jsonl").write_text(
            "".join(json.dumps({"text": f"A stork {n}.", "model": "odd"}) + "\n" for n in range(4))
        )
        good(folder, "sheet", "new", "t", "more.jsonl")
        good(folder, "sheet", "approve", "t", "--all")
        done = run(folder, "send", "t", "--yes", "--budget", "100", "--free")
        assert len(books.charged) == 3 and "today's free prompts are used up" in done.stderr


def test_two_runs_at_once_stay_within_the_budget_of_all(there):
    with serving(
        Other(books := Books(charges=lambda number, body: not time.sleep(0.05)))
    ) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=8)
        (folder / "syntagma.toml").write_text("budget = 14\n")
        call = [sys.executable, "-m", "syntagma", "send", "s", "--yes", "--budget", "100"]
        running = [
            subprocess.Popen(
                call,
                cwd=folder,
                env=environment(folder),
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            for _ in range(2)
        ]
        assert (
            [process.wait(60) for process in running]
            and len(books.charged) == 3
            and times(books) == 1
        )


def test_what_went_is_counted_once(there):
    with serving(
        Other(Books(lambda number, sent: (500, {}, {}) if number > 1 else None))
    ) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=4)
        assert "1 sent; 3 unclear; 16 credits at most" in send(folder).stderr


# Never twice


def answers(*every):
    """What is answered to the first request, the second, …; None where it goes right."""
    return lambda number, sent: every[number - 1] if number <= len(every) else None


@pytest.mark.parametrize(
    "again",
    [
        (429, {}, {}),
        (503, {}, {}),
        (401, {}, {}),
        (402, {}, {}),
        (408, {}, {}),
        (425, {}, {}),
        (404, {}, {}),
        (400, {}, {"oops": "odd"}),
    ],
)
def test_a_take_keeps_its_key_whatever_is_answered(there, again):
    """The first answer is lost after the charge; what is asked again under the same key is answered with something else; then all goes right."""
    books = Books(answers((500, {}, {}), again, again), charges=lambda number, body: number == 1)
    with serving(Other(books)) as server:
        folder = there(KEYED + TASKS + ANSWER, server.address, rows=1)
        send(folder, "--first", "1")
        assert ledger(folder)[shown(folder)[0]["id"]][0] == "unclear"
        for _ in range(3):
            time.sleep(0.08)
            run(folder, "collect", "s")
        keys = [asked[2].get("Idempotency-Key") for asked in server.asked if asked[0] == "POST"]
        bodies = [asked[3] for asked in server.asked if asked[0] == "POST"]
        settled(folder)
    assert (
        len(set(keys)) == 1
        and keys[0]
        and len(set(bodies)) == 1
        and len(keys) >= 3
        and states(folder) == {"done": 1}
    )


@pytest.mark.parametrize("status", [408, 425, 429, 503])
def test_what_is_turned_away_without_a_key_may_have_been_charged(there, status):
    books = Books(lambda number, sent: (status, {"Retry-After": "0"}, {}))
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        for _ in range(3):
            done = send(folder)
        assert times(books) == 1 and states(folder) == {"unclear": 2} and done.returncode == 1
        assert all(
            charged is None and reserved == 4 for _, charged, reserved in ledger(folder).values()
        )


def test_a_profile_may_vouch_for_what_is_turned_away(there):
    books = Books(
        answers((503, {}, {}), (429, {"Retry-After": "0"}, {})),
        charges=lambda number, body: number > 2,
    )
    with serving(Other(books)) as server:
        folder = there(
            "turned_away = [429, 503]\n" + PLAIN + TASKS + ANSWER, server.address, rows=1
        )
        assert (
            send(folder).returncode == 0
            and len(books.charged) == 1
            and states(folder) == {"sent": 1}
        )


@pytest.mark.parametrize("broken", [0, 2, 99])
def test_what_was_turned_away_after_a_charge_is_looked_up_before_it_is_asked_again(
    there, broken, monkeypatch
):
    """The profile says that the service knows keys, and it does not: the look-up alone keeps it from charging twice."""
    from syntagma.app.batches import sending

    monkeypatch.setattr(sending, "LONGEST_WAIT", 0.02)
    books, looked = Books(answers((429, {"Retry-After": "0"}, {}))), []

    def get(path):
        if "?" in path:
            looked.append(path)
            return (500, {}, {}) if len(looked) <= broken else None
        return None

    books.get = get
    with serving(Other(books)) as server:
        folder = there(KEYED + FIND + TASKS + ANSWER, server.address, rows=1)
        done = send(folder)
        assert (
            len(books.charged) == 1
            and states(folder) == ({"unclear": 1} if broken == 99 else {"sent": 1})
            and ("refuses every request" in done.stderr) == (broken == 99)
        )


def test_a_service_that_turns_everything_away_ends_the_run(there, monkeypatch):
    from syntagma.app.batches import sending

    monkeypatch.setattr(sending, "LONGEST_WAIT", 0.02)
    with serving(
        Other(Books(lambda number, sent: (503, {}, {"oops": "closed for good"})))
    ) as server:
        folder = there(KEYED + TASKS + ANSWER, server.address, rows=1)
        done = send(folder)
        assert "refuses every request: closed for good" in done.stderr and done.returncode == 1


def test_nobody_waits_a_day_for_a_service(there):
    with serving(Other(Books(lambda number, sent: (429, {"Retry-After": "86400"}, {})))) as server:
        folder = there("turned_away = [429]\n" + PLAIN + TASKS + ANSWER, server.address, rows=2)
        first, again = send(folder), send(folder)
        assert (
            first.returncode == 0
            and "accepts nothing for another" in again.stderr
            and "1440 minutes" in again.stderr
        )


@pytest.mark.parametrize(
    ("where", "then"),
    [
        ("/other", (404, {}, {})),
        ("/other", (405, {}, {})),
        ("/other", (400, {}, {})),
        ("http://127.0.0.2:9/x", None),
        ("http://[bad", None),
        ("/loop", (307, {"Location": "/loop"}, {})),
    ],
)
def test_after_a_redirect_nobody_knows(there, where, then):
    def post(number, sent):
        return (307, {"Location": where}, {}) if number == 1 or then is None else then

    books = Books(post, charges=lambda number, body: number == 1)
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        for _ in range(3):
            send(folder)
        assert (
            states(folder) == {"unclear": 1}
            and sum(asked[0] == "POST" for asked in server.asked) <= 6
        )
        assert next(iter(ledger(folder).values()))[1:] == (None, 4)


@pytest.mark.parametrize(
    "answer",
    [
        {"phase": "going"},
        {"no": "", "phase": "over"},
        {},
        {"oops": "no hens"},
        {"no": "x" * 70_000},
        {"no": "a\u202eb"},
        {"no": ".."},
    ],
)
def test_an_answer_without_a_task_is_unclear(there, answer):
    books = Books(lambda number, sent: (200, {}, answer))
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        for _ in range(2):
            send(folder)
            run(folder, "collect", "s")
        assert states(folder) == {"unclear": 1} and times(books) == 1


NOTHING_FOUND = {
    "404": (404, {}, {}), "an error inside": (200, {}, {"oops": {"message": "later"}}), "nothing": (200, {}, {"all": []}), "another list": (200, {}, {"items": []}),
    "everybody's": (200, {}, {"all": [{"no": "t9", "mark": "somebody:else", "phase": "over"}]}), "no tasks": (200, {}, {"all": [1, {"x": 2}]}), "500": (500, {}, {}),
}  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("found", NOTHING_FOUND)
@pytest.mark.parametrize("calls", [FIND, LIST, FIND + LIST])
def test_that_nothing_is_found_proves_nothing(there, found, calls):
    books = Books(
        answers((500, {}, {})),
        get=lambda path: NOTHING_FOUND[found] if "?" in path or path == "/work" else None,
    )
    with serving(Other(books)) as server:
        folder = there(PLAIN + calls + TASKS + ANSWER, server.address, rows=3)
        send(folder)
        for _ in range(2):
            settled(folder, 2)
            run(folder, "collect", "s", "--reconcile")
            send(folder)
        assert times(books) == 1 and states(folder) == {"unclear": 1, "done": 2}


def test_a_list_proves_only_what_stands_between_what_it_shows(there):
    """The first, the middle and the last of five are not clear, and never arrived: of the middle one alone a list can tell."""
    lost = (1, 3, 5)
    books = Books(
        lambda number, sent: (500, {}, {}) if number in lost else None,
        charges=lambda number, body: number not in lost,
    )
    with serving(Other(books)) as server:
        folder = there(PLAIN + LIST + TASKS + ANSWER, server.address, at_once=1)
        send(folder)
        done = run(folder, "collect", "s", "--reconcile")
        assert (
            done.stderr.count("still unclear") == 2
            and "never arrived" in done.stderr
            and "was sent before it" in done.stderr
            and "was sent after it" in done.stderr
        )
        assert states(folder) == {"unclear": 2, "queued": 1, "done": 2}
        send(folder)
        assert times(books) == 1 and len(books.charged) == 3


@pytest.mark.parametrize(("first", "flaw"), [
    ({"next_cursor": "x9"}, "another page"), ({"paging": {"hasMore": True}}, "another page"), ({"links": {"next": "/work?page=2"}}, "another page"), ({}, ""),
])  # fmt: skip
def test_a_list_that_goes_on_proves_nothing(there, first, flaw):
    books = Books(answers(None, (500, {}, {}), None), charges=lambda number, body: number != 2)
    with serving(Other(books)) as server:
        books.get = lambda path: (
            (200, {}, {"all": [books.told(n) for n in range(2)], **first})
            if path == "/work"
            else None
        )
        folder = there(PLAIN + LIST + TASKS + ANSWER, server.address, rows=3, at_once=1)
        send(folder)
        done = run(folder, "collect", "s", "--reconcile")
        assert (
            (flaw in done.stderr and states(folder)["unclear"] == 1)
            if flaw
            else states(folder)["queued"] == 1
        ), done.stderr


def test_the_pages_of_a_list_are_all_read(there):
    books = Books(answers(None, (500, {}, {}), None))
    pages = {"/work": ([0], "/work?p=2"), "/work?p=2": ([1], "/work?p=3"), "/work?p=3": ([2], None)}
    with serving(Other(books)) as server:
        books.get = lambda path: (
            (200, {}, {"all": [books.told(n) for n in pages[path][0]], "more": pages[path][1]})
            if path in pages
            else None
        )
        folder = there(
            PLAIN + LIST + TASKS + ANSWER.replace("wrong =", 'next = "/more"\nwrong ='),
            server.address,
            rows=3,
            at_once=1,
        )
        send(folder)
        done = run(folder, "collect", "s", "--reconcile")
        assert "found, t1" in done.stderr and states(folder) == {"done": 3} and times(books) == 1
        pages["/work?p=2"] = ([1], "/work")  # a ring
        assert run(folder, "collect", "s", "--reconcile").returncode == 0
        pages["/work?p=2"] = ([1], "http://127.0.0.2:9/")
        assert "can't be read" in run(folder, "collect", "s", "--reconcile").stderr


def test_more_tasks_than_requests_are_all_counted(there):
    books = Books(answers((500, {}, {})), charges=lambda number, body: True)
    with serving(Other(books)) as server:
        books.get = lambda path: (
            (200, {}, {"all": [books.told(0), {**books.told(0), "no": "t77"}]})
            if "?" in path
            else None
        )
        folder = there(PLAIN + FIND + TASKS + ANSWER, server.address, rows=1)
        send(folder)
        time.sleep(0.1)
        done = run(folder, "collect", "s")
        assert "has 2 tasks for" in done.stderr and "8 credits" in run(folder, "sheet").stdout
        assert server.address in good(folder, "service") and "is halted" in good(folder, "service")


@pytest.mark.parametrize("name", ["a:b", "a/b.c", "über den Sund", "s:r1.1/1"])
def test_a_sheet_of_any_name_is_sent_and_reconciled(there, name):
    books = Books(answers((500, {}, {})))
    with serving(Other(books)) as server:
        folder = there(KEYED + LIST + TASKS + ANSWER, server.address, rows=2)
        good(folder, "sheet", "new", name, "rows.jsonl")
        good(folder, "sheet", "approve", name, "--all")
        run(folder, "send", name, "--yes", "--budget", "100")
        assert "found, t0" in run(folder, "collect", name, "--reconcile").stderr
        run(folder, "collect", name)
        assert (
            states_of(folder, name) == {"done": 2}
            and times(books) == 1
            and all((folder / row["files"][0]).is_file() for row in shown(folder, name))
        )


def test_a_hostile_list_brings_nothing_in(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + LIST + TASKS + ANSWER, server.address, rows=2)
        send(folder)
        settled(folder)
        row, name = shown(folder)[0]["id"], json.loads(server.asked[0][3])["mark"].partition(":")[0]
        strange = [
            {"no": f"x{n}", "mark": f"{name}:s:{row}.{n}/1", "phase": "over"}
            for n in range(1, 1000)
        ] + [{"no": "t5", "mark": f"{name}:s:{row}.1/9", "phase": "over"}]
        books.get = lambda path: (200, {}, {"all": strange}) if path == "/work" else None
        before = ledger(folder)
        done = run(folder, "collect", "s", "--reconcile")
        assert (
            ledger(folder) == before
            and "999 tasks under this ledger's name that it never sent" in done.stderr
        )


def test_a_copy_takes_in_what_its_rows_want_and_no_more(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + LIST + TASKS + ANSWER, server.address, rows=2)
        send(folder, "--first", "1")
        good(folder, "sheet", "new", "t", "rows.jsonl")
        (folder / "yesterday").write_bytes((folder / "ledger.sqlite").read_bytes())
        send(folder)
        for ending in ("-wal", "-shm", ""):
            (folder / f"ledger.sqlite{ending}").unlink(missing_ok=True)
        (folder / "ledger.sqlite").write_bytes((folder / "yesterday").read_bytes())
        assert "may be a copy of the ledger" in send(folder).stderr
        done = run(folder, "collect", "t", "--reconcile")
        assert (
            "only one sheet was compared" in done.stderr
            and "added here" in done.stderr
            and "may be a copy of the ledger" in send(folder).stderr
        )
        run(folder, "collect", "--reconcile")
        assert states(folder)["done"] == 2 and send(folder).returncode == 1 and times(books) == 1


def test_a_copy_of_a_service_without_a_list_is_the_true_one_only_when_a_person_says_so(there):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        send(folder, "--first", "1")
        (folder / "own/machine").write_text("another")
        done = run(folder, "collect", "--reconcile")
        assert (
            "has no list of tasks" in done.stderr
            and "some lists are incomplete" in done.stderr
            and "may be a copy of the ledger" in send(folder).stderr
        )
        run(folder, "collect", "--reconcile", "--anyway")
        assert send(folder).returncode == 0


# Nothing that was paid is lost


@pytest.mark.parametrize("broken", [
    {"no": "t0", "phase": "over", "things": [{"at": "http://[bad"}]}, {"no": "t0", "phase": "over", "things": [{"at": "ftp://x/y"}]}, {"no": "t9", "phase": "over"}, b"<html>", {"oops": "later"},
    {"no": "t0", "phase": "over", "things": [{"at": "http://a b:99999/x"}]},
])  # fmt: skip
def test_one_answer_that_can_t_be_read_stops_no_other(there, broken):
    books = Books()
    with serving(Other(books)) as server:
        books.get = lambda path: (200, {}, broken) if path == "/work/t0" else None
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=4)
        send(folder)
        settled(folder, 2)
        assert states(folder) == {"done": 3, "sent": 1}
        books.get = None
        time.sleep(0.1)
        settled(folder)
        assert states(folder) == {"done": 4}


@pytest.mark.long
@pytest.mark.parametrize("status", [500, 404, 410])
def test_an_hour_of_errors_writes_nothing_off(there, status):
    books = Books()
    with serving(Other(books)) as server:
        books.get = lambda path: (
            (status, {}, {}) if path.startswith(("/work/", "/thing/")) else None
        )
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        send(folder)
        base = sqlite3.connect(folder / "ledger.sqlite")
        for _ in range(12):
            base.execute("update takes set next_at = 0")
            base.commit()
            done = run(folder, "collect", "s", "--wait")
        assert states(folder) == {"sent": 2} and "run the same command again later" in done.stderr
        base.execute("update takes set since = since - 90000, next_at = 0")  # a day and more
        base.commit()
        run(folder, "collect", "s")
        assert states(folder) == {"unclear": 2}
        books.get = None
        base.execute("update takes set next_at = 0")
        base.commit()
        run(folder, "collect", "s")
        assert states(folder) == {"done": 2}


def test_what_expired_can_be_asked_for_again(there):
    books = Books()
    with serving(Other(books)) as server:
        old = {
            "no": "t0",
            "phase": "over",
            "things": [{"at": "/thing/0", "until": "2001-01-01T00:00:00Z"}],
        }
        books.get = lambda path: (
            (200, {}, old)
            if path == "/work/t0"
            else (410, {}, {})
            if path.startswith("/thing")
            else None
        )
        folder = there(
            PLAIN + TASKS + ANSWER.replace("wrong =", 'expires = "/until"\nwrong ='),
            server.address,
            rows=1,
        )
        send(folder)
        run(folder, "collect", "s")
        row = shown(folder)[0]
        assert row["status"] == "expired" and "--retry" in row["why"]
        books.get = None
        run(folder, "collect", "s", "--retry", f"{row['id']}.1")
        assert states(folder) == {"done": 1}
        assert "no take is called" in run(folder, "collect", "s", "--retry", "r0.1").stderr
        good(folder, "sheet", "show", "s")


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (PNG[:40], "cut short"),
        (b"<html>no</html>", "a picture"),
        (b"", "empty"),
        (b"RIFF\xff\xff\0\0WEBPVP8 ", "cut short"),
        (b"\xff\xd8\xff\xe0\0\x10JFIF", "cut short"),
        (b"GIF89a\x01\0\x01\0", "cut short"),
        (b"\0\0\0\x18ftypisom\0\0\0\0\0\0\0\0\0\0\x10\0", "cut short"),
        (b"%PDF-1.7", "cut short"),
    ],
)
def test_only_a_whole_file_is_done(there, data, why):
    books = Books()
    with serving(Other(books)) as server:
        books.get = lambda path: (200, {}, data) if path.startswith("/thing") else None
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        send(folder)
        run(folder, "collect", "s")
        row = shown(folder)[0]
        assert (
            row["status"] == "sent"
            and why in row["why"]
            and not list((folder / "results/s").iterdir())
        )


def test_a_result_within_the_answer_that_is_no_file_is_asked_for_again_under_its_key(there):
    def post(number, sent):
        return (
            200,
            {},
            {
                "images": [
                    {"b64": base64.b64encode(picture(1) if number > 1 else PNG[:30]).decode()}
                ],
                "cost": 4,
            },
        )

    with serving(Other(Books(post, charges=lambda number, body: number == 1))) as server:
        folder = there(KEYED + AT_ONCE, server.address, rows=1)
        assert "1 unclear" in send(folder).stderr or states(folder) == {"unclear": 1}
        settled(folder)
        assert states(folder) == {"done": 1} and next(iter(ledger(folder).values()))[1] == 4


def test_a_result_within_the_answer_that_can_t_be_written_is_kept_elsewhere(there, monkeypatch):
    from syntagma.app.batches import settling

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(settling, "_put", full)
    with serving(
        Other(
            Books(
                lambda number, sent: (
                    200,
                    {},
                    {"images": [{"b64": base64.b64encode(PNG).decode()}]},
                )
            )
        )
    ) as server:
        folder = there(PLAIN + AT_ONCE, server.address, rows=1)
        send(folder)
    row = shown(folder)[0]
    kept = list((folder / "own/rescued").iterdir())
    assert row["status"] == "unclear" and str(kept[0]) in row["why"] and kept[0].read_bytes() == PNG


def test_a_full_disk_writes_nothing_off(there, monkeypatch):
    from syntagma.app.batches import settling

    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        send(folder)
        with monkeypatch.context() as patched:
            patched.setattr(
                settling.os,
                "replace",
                lambda *_: (_ for _ in ()).throw(OSError(28, "No space left on device")),
            )
            run(folder, "collect", "s")
        assert states(folder) == {"sent": 2} and "No space left" in shown(folder)[0]["why"]
        time.sleep(0.1)
        settled(folder)
        assert states(folder) == {"done": 2}


def test_two_collects_at_once_spoil_nothing(there):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=12)
        send(folder)
        call = [sys.executable, "-m", "syntagma", "collect", "s", "--wait"]
        running = [
            subprocess.Popen(
                call,
                cwd=folder,
                env=environment(folder),
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            for _ in range(3)
        ]
        assert [process.wait(60) for process in running] == [0, 0, 0] and states(folder) == {
            "done": 12
        }
        files = sorted((folder / "results/s").iterdir())
        assert len(files) == 12 and len({file.read_bytes() for file in files}) == 12


# Whose is it?


def test_one_task_for_three_rows_is_believed_once(there):
    books = Books(lambda number, sent: (202, {}, {"no": "t0", "phase": "going"}))
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=3)
        send(folder)
        assert states(folder) == {"sent": 1, "unclear": 2} and any(
            "which belongs to" in row.get("why", "") for row in shown(folder)
        )


def test_an_answer_about_another_request_is_not_believed(there):
    books = Books(
        lambda number, sent: (
            202,
            {},
            {"no": f"t{number - 1}", "phase": "going", "mark": "somebody:else"},
        )
    )
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        send(folder)
        assert states(folder) == {"unclear": 1} and "a different request" in shown(folder)[0]["why"]


def test_another_row_s_picture_is_not_taken_for_its_own(there):
    books = Books()
    with serving(Other(books)) as server:
        books.get = lambda path: (200, {}, picture(0)) if path.startswith("/thing") else None
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        send(folder)
        done = run(folder, "collect", "s")
        row = next(row for row in shown(folder) if row["status"] == "unclear")
        assert (
            "byte for byte" in row["why"]
            and "--accept" in done.stderr
            and states(folder) == {"done": 1, "unclear": 1}
        )
        good(folder, "sheet", "settle", "s", f"{row['id']}.1", "--accept")
        assert states(folder) == {"done": 2} and (folder / row["files"][0]).read_bytes() == picture(
            0
        )


def test_a_row_in_two_sheets_has_a_file_of_its_own_in_each(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        (folder / "syntagma.toml").write_text('results = "{model}/{clip}-{take}"\n')
        (folder / "again.jsonl").write_text(
            json.dumps(
                {"text": "A heron number 0.", "model": "odd", "film": {"name": "2", "kind": "clip"}}
            )
            + "\n"
        )
        good(folder, "sheet", "new", "t", "again.jsonl")
        good(folder, "sheet", "approve", "t", "--all")
        for name in ("s", "t"):
            run(folder, "send", name, "--yes", "--budget", "100")
        run(folder, "collect")
        one, other = shown(folder, "s")[0]["files"][0], shown(folder, "t")[0]["files"][0]
        assert (
            one != other
            and "2-" in other
            and "2-" not in one
            and (folder / one).read_bytes() == picture(0)
            and (folder / other).read_bytes() == picture(1)
        )


def test_what_came_is_compared_with_what_was_asked_for(there):
    with serving(Other(Books())) as server:
        folder = there(
            PLAIN + TASKS + ANSWER,
            server.address,
            extra='[sizes]\n"2:3" = [800, 1200]\n[parameter.ratio]\nvalues = ["2:3"]\n[parameter.format]\nvalues = ["png", "webp"]\n',
            rows=1,
        )
        (folder / "two.jsonl").write_text(
            "".join(
                json.dumps({"text": f"A stork {n}.", "model": "odd", "parameters": p}) + "\n"
                for n, p in enumerate([{"ratio": "2:3"}, {"format": "webp"}, {"format": "png"}])
            )
        )
        good(folder, "sheet", "new", "t", "two.jsonl")
        good(folder, "sheet", "approve", "t", "--all")
        run(folder, "send", "t", "--yes", "--budget", "100")
        done = run(folder, "collect", "t")
        rows = shown(folder, "t")
        assert (
            "it is 1 × 1, and 2:3 was asked for" in rows[0]["why"]
            and "PNG came instead of WEBP" in rows[1]["why"]
            and "why" not in rows[2]
        )
        assert (
            done.stderr.count("was asked for") + done.stderr.count("came instead") == 2
            and f"{rows[0]['id']}.1: it is" in done.stderr
            and states(folder)["approved"] == 1
        )


# What is approved is what is sent


def test_a_request_that_says_something_else_than_its_text_is_not_sent(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        (folder / "theirs.jsonl").write_text(
            json.dumps(
                {
                    "text": "A stork.",
                    "model": "odd",
                    "request": {"say": "something dear", "size": "huge"},
                }
            )
            + "\n"
        )
        good(folder, "sheet", "new", "t", "theirs.jsonl")
        assert (
            "a request that differs from its text"
            in shown(folder, "t")[0]["findings"][0]["message"]
        )
        good(folder, "sheet", "approve", "t", "--all")
        run(folder, "send", "t", "--yes", "--budget", "100")
        assert books.charged[0]["say"] == "A stork." and "size" not in books.charged[0]


@pytest.mark.parametrize("deed", [["remove"], ["restore"]])
def test_what_is_struck_while_send_asks_is_not_sent(there, deed, monkeypatch):
    from syntagma.cli.batches import send as command

    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=3)
        first = shown(folder)[0]["id"]

        def asked():
            call = [sys.executable, "-m", "syntagma", "sheet", *deed, "s", first]
            assert (
                subprocess.run(
                    call, cwd=folder, env=environment(folder), capture_output=True
                ).returncode
                == 0
            )
            return True

        monkeypatch.setattr(command, "_agreed", asked)
        done = run(folder, "send", "s")
        assert (
            len(books.charged) == 2
            and "1 of the rows shown was not sent" in done.stderr
            and states(folder)[{"remove": "removed", "restore": "open"}[deed[0]]] == 1
        )


def test_shots_of_real_people_without_consent_do_not_go_out(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        (folder / "held.jsonl").write_text(
            json.dumps(
                {
                    "text": "A pilot.",
                    "model": "odd",
                    "film": {
                        "name": "1",
                        "kind": "clip",
                        "held": "the pilot is real, and has not agreed",
                    },
                }
            )
            + "\n"
        )
        good(folder, "sheet", "new", "t", "held.jsonl")
        assert "has not agreed" in run(folder, "sheet", "approve", "t", "--all").stderr
        base = sqlite3.connect(folder / "ledger.sqlite")
        base.execute(
            "update rows set status = 'approved' where sheet = 't'"
        )  # however it came to that
        base.commit()
        done = run(folder, "send", "t", "--yes", "--budget", "100")
        assert (
            not books.charged
            and "was not sent: the pilot is real, and has not agreed" in done.stderr
        )


PICTURE = '[reference.style]\nkinds = ["path", "address"]\n'


@pytest.mark.parametrize(
    "name",
    [
        "../secret.png",
        "/etc/hostname",
        "link.png",
        "linked/inside.png",
        "ledger.sqlite",
        "own.txt",
        "gone.png",
        "a\\..\\b.png",
    ],
)
def test_no_file_leaves_the_house_but_pictures_of_the_workspace(there, name, tmp_path_factory):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(
            'pictures = "data"\n' + PLAIN + TASKS + ANSWER, server.address, rows=1, extra=PICTURE
        )
        path = folder / "models/odd.toml"
        path.write_text(
            path.read_text().replace(
                'say = "{text}"', 'say = "{text}"\n"like each style" = "{value}"'
            )
        )
        elsewhere = tmp_path_factory.mktemp("elsewhere")
        (elsewhere / "inside.png").write_bytes(PNG)
        (folder.parent / "secret.png").write_bytes(PNG)
        (folder / "own.txt").write_text("mine")
        (folder / "link.png").symlink_to(elsewhere / "inside.png")
        (folder / "linked").symlink_to(elsewhere)
        (folder / "theirs.jsonl").write_text(
            json.dumps(
                {
                    "text": "A stork.",
                    "model": "odd",
                    "references": [{"role": "style", "value": name}],
                }
            )
            + "\n"
        )
        good(folder, "sheet", "new", "t", "theirs.jsonl", "--out", "t.csv")
        assert "is not sent" in (folder / "t.csv").read_text()
        assert run(folder, "sheet", "approve", "t", "--all").returncode == 1
        base = sqlite3.connect(folder / "ledger.sqlite")
        seen = shown(folder, "t")[0]["seen"]
        base.execute("update rows set status = 'approved', approval = ? where sheet = 't'", (seen,))
        base.commit()
        run(folder, "send", "t", "--yes", "--budget", "100")
        assert not books.charged and states_of(folder, "t") == {"waiting": 1}


def states_of(folder, sheet):
    return Counter(row["status"] for row in shown(folder, sheet))


def test_a_picture_that_goes_along_is_shown_and_its_content_is_approved(there):
    books = Books()
    with serving(Other(books)) as server:
        folder = there(
            'pictures = "data"\n' + PLAIN + TASKS + ANSWER, server.address, rows=1, extra=PICTURE
        )
        path = folder / "models/odd.toml"
        path.write_text(
            path.read_text().replace(
                'say = "{text}"', 'say = "{text}"\n"like each style" = "{value}"'
            )
        )
        (folder / "print.png").write_bytes(PNG)
        (folder / "theirs.jsonl").write_text(
            json.dumps(
                {
                    "text": "A stork.",
                    "model": "odd",
                    "references": [{"role": "style", "value": "print.png"}],
                }
            )
            + "\n"
        )
        good(folder, "sheet", "new", "t", "theirs.jsonl")
        good(folder, "sheet", "approve", "t", "--all")
        assert shown(folder, "t")[0]["sends"] == ["print.png"]
        (folder / "print.png").write_bytes(picture(9))
        assert (
            "changed after you approved it"
            in run(folder, "send", "t", "--yes", "--budget", "100").stderr
            and not books.charged
        )
        good(folder, "sheet", "approve", "t", "--all")
        done = run(folder, "send", "t", "--yes", "--budget", "100")
        assert "go along: print.png" in done.stdout and books.charged[0]["like"] == [
            "data:image/png;base64," + base64.b64encode(picture(9)).decode()
        ]


# Secrets


SECRET = "geheim-4711/%"


@pytest.fixture
def secret():
    os.environ["OTHER_KEY"] = SECRET
    yield
    del os.environ["OTHER_KEY"]


def test_a_secret_that_a_service_echoes_is_kept_nowhere(there, secret):
    echo = f"bad key {SECRET} and {json.dumps(SECRET)} and geheim-4711%2F%25"
    with serving(Other(Books(lambda number, sent: (400, {}, {"oops": echo})))) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        good(folder, "service", "add", server.address, "--env", "OTHER_KEY")
        done = send(folder)
        assert any(SECRET in str(asked[2]) for asked in server.asked)
        row = shown(folder)[0]
        log = good(folder, "sheet", "log", "s", row["id"])
        held = b"".join(path.read_bytes() for path in folder.glob("ledger.sqlite*"))
        assert row["status"] == "refused" and "•••" in row["why"]
        assert (
            not any("geheim-4711" in text for text in (done.stderr, done.stdout, str(row), log))
            and b"geheim-4711" not in held
        )


@pytest.mark.parametrize(
    "other", ["https://127.0.0.1:{port}", "http://localhost:{port}", "http://127.0.0.1:1"]
)
def test_what_is_bound_is_a_scheme_a_host_and_a_port(there, other):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        path = folder / "models/odd.toml"
        path.write_text(
            path.read_text().replace(server.address, other.format(port=server.server_address[1]))
        )
        good(folder, "sheet", "approve", "s", "--all")
        done = send(folder)
        assert done.returncode == 2 and "a host that you have not allowed" in done.stderr


@pytest.mark.long
@pytest.mark.parametrize(("line", "said"), [
    ('headers = { Host = "bank.example" }', "where or how a request is sent"), ('headers = { "X-Naïve" = "x" }', "can't be part of a header"), ('headers = { "X" = "naïve" }', "can't be part of a header"),
    ('secret = "Host: {secret}"', "where or how a request is sent"), ('secret = "X: fixed"', "the profile does not say where the secret goes"), ('address = "nowhere"', "is not an address"), ('key = { header = "Content-Length" }', "where or how a request is sent"),
    ('find = { path = "/all" }\nreference = "/mark"', "has no {reference}"), ('state = { path = "/x" }', "has no {task}"), ('cancel = { path = "/x" }', "has no {task}"),
    ('find = { path = "/x?{reference}" }', "can't be recognised as ours"), ('listed = { path = "/x" }', "can't be recognised as ours"),
    ('[service.answer]\nwaiting = ["ok"]\ndone = ["OK"]\nresults = "/x"', "means both waiting and done"), ('[service.answer]\ntask = "/x"', "where results stand"),
    ('state = { path = "/{task}" }\n[service.answer]\naddress = "/x"', "where the task number is"),
])  # fmt: skip
def test_slips_of_a_profile_that_would_cost_money_or_a_secret_are_found(tmp_path, line, said):
    good(tmp_path, "start", ".")
    address = "" if line.startswith("address") else 'address = "https://api.example"\n'
    answer = (
        ""
        if "[service.answer]" in line
        else '\n[service.answer]\ntask = "/no"\nresults = "/things"\naddress = "/at"\nlisted = "/all"\n'
    )
    (tmp_path / "models/odd.toml").write_text(f"[service]\n{address}{line}{answer}")
    done = run(tmp_path, "check")
    assert done.returncode == 1 and said in done.stdout, done.stdout
    assert said in run(tmp_path, "model", "try", "odd").stderr


def test_twelve_binds_at_once_are_all_kept(tmp_path):
    calls = [
        subprocess.Popen(
            [
                sys.executable,
                "-m",
                "syntagma",
                "service",
                "add",
                f"api{n}.example",
                "--env",
                f"K{n}",
            ],
            cwd=tmp_path,
            env=environment(tmp_path),
            stderr=subprocess.DEVNULL,
        )
        for n in range(12)
    ]
    assert [call.wait(60) for call in calls] == [0] * 12
    assert all(f"https://api{n}.example" in good(tmp_path, "service") for n in range(12))


@pytest.mark.parametrize("host", ["http://[bad", "ftp://x.example", "", "a b", "api.example:x"])
def test_what_is_no_host_is_not_bound(tmp_path, host):
    done = run(tmp_path, "service", "add", host, "--no-secret")
    assert done.returncode == 2 and (
        "is not a host" in done.stderr or "HOST is missing" in done.stderr
    )


# By hand


def test_what_a_person_settled_can_be_settled_anew(there):
    books = Books(answers((500, {}, {})))
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        send(folder)
        take = f"{shown(folder)[0]['id']}.1"
        good(folder, "sheet", "settle", "s", take, "--task", "t99x")
        books.get = lambda path: (404, {}, {}) if path == "/work/t99x" else None
        run(folder, "collect", "s")
        assert states(folder) == {"sent": 1}
        good(folder, "sheet", "settle", "s", take, "--lost")
        assert next(iter(ledger(folder).values()))[:2] == ("failed", 0.0)
        good(folder, "sheet", "settle", "s", take, "--task", "t0")
        settled(folder)
        assert (
            states(folder) == {"done": 1}
            and "nothing to settle" in run(folder, "sheet", "settle", "s", take, "--lost").stderr
        )


@pytest.mark.parametrize("amount", ["inf", "-1000", "nan", "1e400", "4,5", ""])
def test_a_statement_takes_only_amounts(there, amount):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        send(folder)
        settled(folder)
        (folder / "bill.csv").write_text(f'task,charged\nt0,"{amount}"\n')
        done = run(folder, "collect", "s", "--statement", "bill.csv")
        assert "is not an amount" in done.stderr and next(iter(ledger(folder).values()))[1] == 4


def test_two_takes_and_an_approval_at_once_lose_nothing(there):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=9)
    good(folder, "sheet", "restore", "s", "--all")
    for name, column in (("a", 0), ("b", 4)):
        good(folder, "sheet", "show", "s", "--out", f"{name}.csv")
        lines = (folder / f"{name}.csv").read_text().splitlines()
        for at in range(1 + column, 4 + column):
            lines[at] = lines[at].replace("A heron", f"A {name} heron")
        (folder / f"{name}.csv").write_text("\n".join(lines) + "\n")
    last = [row["id"] for row in shown(folder)][-1]
    calls = [
        ["sheet", "import", "s", "a.csv"],
        ["sheet", "import", "s", "b.csv"],
        ["sheet", "approve", "s", last],
    ]
    running = [
        subprocess.Popen(
            [sys.executable, "-m", "syntagma", *call],
            cwd=folder,
            env=environment(folder),
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        for call in calls
    ]
    assert [process.wait(60) for process in running] == [0, 0, 0]
    texts = [row["text"] for row in shown(folder)]
    assert (
        sum("A a heron" in text for text in texts) == 3
        and sum("A b heron" in text for text in texts) == 3
        and states(folder) == {"open": 8, "approved": 1}
    )


def test_text_where_a_ledger_has_a_number_is_said_to_be_damage(there):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        send(folder)
    for column in ("charged", "reserved", "number", "next_at", "state"):
        base = sqlite3.connect(folder / "ledger.sqlite")
        base.execute(
            f"update takes set {column} = {'x' if column == 'state' else chr(39) + 'odd' + chr(39)}"
            if column != "state"
            else "update takes set state = x'00'"
        )
        base.commit()
        for call in [
            ["collect", "s"],
            *([] if column == "next_at" else [["sheet", "show", "s"], ["sheet"]]),
        ]:
            done = run(folder, *call)
            assert done.returncode == 3 and "can't be used" in done.stderr, (column, call, done)
        base.execute(
            "update takes set charged = 4, reserved = 4, number = 1, next_at = 0, state = 'sent'"
        )
        base.commit()


def test_a_ledger_of_before_is_brought_up(tmp_path):
    from syntagma.storage import ledger as rooms

    good(tmp_path, "start", ".")
    base = sqlite3.connect(tmp_path / "ledger.sqlite")
    base.executescript(rooms._SCHEMA)
    base.executemany(
        "insert into meta values (?, ?)",
        [("version", "1"), ("id", "f" * 32), ("number", "0"), ("machine", "x")],
    )
    base.execute("insert into sheets values ('s', '2026-01-01')")
    base.execute(
        "insert into rows values ('s', 'r1', 1, 'approved', 'curlew-still', 'A hen.', '', 1, 4.0, 'credits', '', '', '{}', '', '', '')"
    )
    base.execute(
        "insert into takes (sheet, row, number, state, task) values ('s', 'r1', 1, 'sent', 't1')"
    )
    base.commit()
    base.close()
    assert shown(tmp_path)[0]["status"] == "sent"
    assert Workspace.load(tmp_path).folder == tmp_path
    with sqlite3.connect(tmp_path / "ledger.sqlite") as base:
        assert base.execute("select value from meta where name = 'version'").fetchone() == (
            str(rooms.VERSION),
        )


# What a person is asked, and what calls are made wrongly


def test_send_asks_on_a_terminal(there, monkeypatch):
    class Terminal(io.TextIOWrapper):
        def isatty(self):
            return True

    books = Books()
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        monkeypatch.setattr("tests.commands.program.io.TextIOWrapper", Terminal)
        for line, charged in (("n\n", 0), ("", 0), ("yes\n", 2)):
            done = run(folder, "send", "s", given=line)
            assert (
                len(books.charged) == charged
                and ("nothing was sent" in done.stderr) == (not charged)
                and "send? [y/N]" in done.stderr
            )


def test_calls_that_say_too_little(there):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        (folder / "bill.csv").write_text("number,sum\n1,2\n")
        (folder / "broken.csv").write_text('task,charged\n"x\n')
        row = shown(folder)[0]["id"]
        for call, status, said in (
            (["collect", "s", "--statement", "bill.csv"], 1, "has no columns “task” and “charged”"), (["collect", "s", "--statement", "broken.csv"], 1, "can't be read"), (["collect", "s", "--cancel", f"{row}.1"], 2, "no take is called"),
            (["collect", "s", "--cancel", "r0.1"], 2, "no take is called"), (["sheet", "show"], 2, "NAME is missing"), (["sheet", "new", "t"], 2, "no file of prompts"), (["sheet", "new", "s", "rows.jsonl"], 2, "already"),
            (["sheet", "import", "s"], 2, "no copy was named"), (["sheet", "settle", "s", f"{row}.1"], 2, "say what happened"), (["sheet", "redraw", "s", row], 2, "was not picked by a formula"), (["service", "add"], 2, "HOST is missing"), (["service", "remove", "x.example"], 0, "was not allowed"),
            (["send", "s", "--ungated"], 2, "needs a budget"), (["sheet", "--json"], 0, ""), (["sheet", "log", "s", row, "--json"], 0, ""), (["collect", "s", "--retry", row], 2, "no take is called"),
        ):  # fmt: skip
            done = run(folder, *call)
            assert done.returncode == status and said in done.stderr, (call, done)


def test_a_take_is_cancelled_as_far_as_the_service_lets_it_go(there):
    books = Books()
    said = {"state": (200, {}, {"no": "t0", "phase": "left", "paid": 1})}

    class Leaving(Books):
        def __call__(self, method, path, body):
            return said["state"] if method == "DELETE" else super().__call__(method, path, body)

    books = Leaving(
        get=lambda path: (
            (200, {}, {"no": path.rpartition("/")[2], "phase": "going"})
            if path.startswith("/work/")
            else None
        )
    )
    with serving(Other(books)) as server:
        folder = there(
            PLAIN
            + TASKS
            + 'cancel = { method = "DELETE", path = "/work/{task}" }\n'
            + ANSWER
            + 'cancelled = ["left"]\n',
            server.address,
            rows=3,
        )
        send(folder)
        takes = [f"{row['id']}.1" for row in shown(folder)]
        assert "is cancelled" in run(folder, "collect", "s", "--cancel", takes[0]).stderr and next(
            iter(ledger(folder).values())
        )[:2] == ("cancelled", 1.0)
        said["state"] = (200, {}, {"no": "t1", "phase": "going"})
        assert (
            "continues: the service says going"
            in run(folder, "collect", "s", "--cancel", takes[1]).stderr
        )
        said["state"] = (500, {}, {})
        assert (
            "can't be cancelled" in run(folder, "collect", "s", "--cancel", takes[1]).stderr
            and "can't be cancelled" in run(folder, "collect", "s", "--cancel", takes[0]).stderr
        )
        base = sqlite3.connect(folder / "ledger.sqlite")
        base.execute(
            "update takes set state = 'queued', task = '' where row = ?",
            (takes[2].partition(".")[0],),
        )
        base.commit()
        run(folder, "collect", "s", "--cancel", takes[2])
        assert states(folder) == {"cancelled": 2, "sent": 1}


def test_one_task_in_two_rows_of_a_statement_changes_nothing(there):
    with serving(Other(Books())) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=2)
        send(folder)
        base = sqlite3.connect(folder / "ledger.sqlite")
        base.execute("update takes set task = 't0'")
        base.commit()
        (folder / "bill.csv").write_text("task,charged\nt0,9\n")
        assert "2 takes share this task" in run(
            folder, "collect", "s", "--statement", "bill.csv"
        ).stderr and all(charged == 4 for _, charged, _ in ledger(folder).values())


def test_a_task_that_failed_without_a_word_of_money_counts(there):
    books = Books(
        paid=None,
        get=lambda path: (
            (200, {}, {"no": path.rpartition("/")[2], "phase": "broken"})
            if path.startswith("/work/")
            else None
        ),
    )
    with serving(Other(books)) as server:
        folder = there(PLAIN + TASKS + ANSWER, server.address, rows=1)
        send(folder)
        settled(folder)
        assert (
            states(folder) == {"failed": 1}
            and "does not say whether it charged" in shown(folder)[0]["why"]
            and "4 credits" in run(folder, "sheet").stdout
        )


def test_the_stand_in_serves_for_a_while(tmp_path):
    good(tmp_path, "start", ".")
    done = run(tmp_path, "service", "simulate", "--port", "0", "--stop-after", "0.3")
    assert done.returncode == 0 and "0 tasks, 0 charged" in done.stderr
    assert "no fault is called" in run(tmp_path, "service", "simulate", "--faults", "drp").stderr
    with serving(Other(Books())) as server:
        assert (
            "can't listen on port"
            in run(tmp_path, "service", "simulate", "--port", str(server.server_address[1])).stderr
        )


@pytest.mark.parametrize(
    ("model", "parameters", "ratio"),
    [
        ("curlew-still", {"ratio": "2:3"}, 2 / 3),
        ("dunlin-still", {"ratio": "16:9"}, 1280 / 720),
        ("sanderling-still", {"ratio": "wide"}, None),
        ("whimbrel-motion", {"seconds": 4}, None),
        ("avocet-still", {}, None),
    ],
)
def test_the_stand_in_draws_in_the_ratio_that_was_asked_for(tmp_path, model, parameters, ratio):
    from syntagma.app.batches.standin import standin
    from syntagma.app.existing.checks import request_for
    from syntagma.app.prompt_files import Source

    workspace = Workspace.load(tmp_path)
    server = standin(workspace, 0)
    server.server_close()
    text = "A hen. /shape 2x3" if model == "curlew-still" else "A hen."
    found = server.ratio(
        model,
        request_for(
            workspace, Source(1, text, "", Record({"text": text, "parameters": parameters})), model
        ),
    )
    assert found == pytest.approx(ratio) if ratio else found >= 0
    assert server.ratio("nobody", {}) == 0 and server.price("nobody", {}) == 1.0


@pytest.mark.parametrize(("calls", "answer", "get", "said"), [
    (FIND + LIST, ANSWER, None, "nothing wrong"), (LIST, ANSWER.replace('listed = "/all"', 'listed = "/al"'), None, "the list is not where the profile says"), (LIST, ANSWER + 'reference = "/nowhere"\n', None, "none carries our number"),
    (FIND, ANSWER, {"?": "all"}, "ignores the number"), (FIND, ANSWER, {"?": "500"}, "the look-up failed"), (LIST, ANSWER, {"/work": "500"}, "the list can't be read"), (LIST, ANSWER, {"/work/": "yes"}, "on a task that does not exist"),
    (LIST, ANSWER, {"/work/": "200"}, "does not answer 404"), (FIND, ANSWER, {"?": "echo"}, "for a number that was never sent"),
])  # fmt: skip
def test_a_service_is_asked_what_costs_nothing(there, calls, answer, get, said):
    books = Books()

    def answered(path):
        how = next(
            (
                how
                for where, how in (get or {}).items()
                if (
                    path.startswith(where)
                    if where.endswith("/")
                    else path == where or (where == "?" and "?" in path)
                )
            ),
            "404" if path.startswith("/work/") else "",
        )
        mark = path.partition("=")[2]
        return {
            "": None,
            "404": (404, {}, {}),
            "500": (500, {}, {}),
            "all": (200, {}, {"all": [books.told(0)]}),
            "yes": (200, {}, {"no": path.rpartition("/")[2], "phase": "over"}),
            "200": (200, {}, {"oops": "none"}),
            "echo": (200, {}, {"all": [{"no": "t9", "mark": mark}]}),
        }[how]

    with serving(Other(books)) as server:
        folder = there(PLAIN + calls + TASKS + answer, server.address, rows=1)
        send(folder)
        books.get = answered
        done = run(folder, "model", "try", "odd", "--probe")
        assert (
            said in done.stdout + done.stderr
            and done.returncode == (said != "nothing wrong")
            and len(books.charged) == 1
        ), done
        assert (
            len(
                json.loads(run(folder, "model", "try", "odd", "--probe", "--json").stdout)[
                    "findings"
                ]
            )
            == done.returncode
        )


@pytest.mark.parametrize(("typed", "said"), [
    (("model", "new", "heron", "--probe"), "syntagma model try heron --probe"), (("collect", "s", "--anyway"), "syntagma collect --reconcile --anyway"),
])  # fmt: skip
def test_an_option_that_belongs_elsewhere_is_not_dropped_in_silence(tmp_path, typed, said):
    done = run(tmp_path, *typed)
    assert done.returncode == 2 and said in done.stderr, done
    assert not list(tmp_path.rglob("heron*"))
