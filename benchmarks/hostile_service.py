"""A service that does everything wrong, and what a person who sends to it is charged: python -m
benchmarks.hostile_service [RUNS [SEED]].

Each of RUNS (200) runs is a workspace of its own, a few rows, a budget, and a service with faults
of its own kind: answers late, twice, or reset after the charge, task numbers of others, 200 with an
error inside, 429 and 503 after the charge, redirects, charges above the price, look-ups that find
nothing, lists that are cut, bodies without end, results of another type or cut short, results of
somebody else. Some know idempotency keys, some can be asked, some neither. The sender is killed at
random moments, and now and then two are started at once. The service's own books are the witness:

- no row is charged twice;
- what was charged is never more than what the ledger says may have been spent, and that is never
  more than the budget, but for what a service charges above the price;
- what the ledger calls charged is what was charged;
- what is done has a file that is whole.

It shares no code with the stand-in that ships, and speaks another JSON.
"""

import base64
import json
import os
import random
import signal
import sqlite3
import struct
import subprocess
import sys
import tempfile
import threading
import time
import zlib
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

PROGRAM = [sys.executable, "-m", "syntagma"]
PRICE, ROWS, BUDGET = 4, 7, 24  # a row more than the budget pays for
FAULTS = {
    "post": (
        "late",
        "cut before",
        "cut after",
        "twice",
        "wrong id",
        "no id",
        "error inside",
        "busy after",
        "gone after",
        "redirect",
        "redirect away",
        "dear",
        "negative",
        "endless",
        "drip",
        "no json",
        "other reference",
    ),
    "look": (
        "late",
        "cut",
        "404",
        "500",
        "error inside",
        "wrong id",
        "odd address",
        "back",
        "endless",
    ),
    "file": ("cut", "404", "500", "text", "somebody else's"),
    "find": ("404", "error inside", "nothing", "cut", "everybody's"),
    "list": ("first page", "404", "error inside", "no list", "cut"),
}
# whose profile is wrong: its look-up alone, which is cut now and then and never lies, keeps it from
# charging twice
UNHEEDED = "find, and keys that it does not heed"
KINDS = (
    UNHEEDED,
    "key and find",
    "key",
    "find and list",
    "list",
    "nothing",
    "at once",
    "at once with key",
)


def png(seed: int) -> bytes:
    """A picture of one colour."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    colour = random.Random(seed).randbytes(3)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", struct.pack(">IIBBBBB", 8, 8, 8, 2, 0, 0, 0))
        + chunk(b"IDAT", zlib.compress((b"\0" + colour * 8) * 8))
        + chunk(b"IEND", b"")
    )


class Service(ThreadingHTTPServer):
    """The service: its kind, its faults, how often they come, and its books: (ticket, words, mark,
    paid).
    """

    daemon_threads = True
    request_queue_size = 64

    def __init__(self, kind: str, faults: dict[str, list[str]], chance: float, seed: int):
        super().__init__(("127.0.0.1", 0), Handler)
        self.kind, self.faults, self.chance, self.dice, self.lock = (
            kind,
            faults,
            chance,
            random.Random(seed),
            threading.RLock(),
        )
        self.books: list[dict] = []
        self.keys: dict[str, dict] = {}

    def handle_error(self, request, client_address):
        """Connections that break are what this is about."""

    def fault(self, where: str) -> str:
        with self.lock:
            return (
                self.dice.choice(self.faults[where])
                if self.faults[where] and self.dice.random() < self.chance
                else ""
            )

    def charged(self, words: str, mark: str, key: str, amount: float) -> dict:
        with self.lock:
            if key and key in self.keys:
                return self.keys[key]
            one = {
                "no": f"w{len(self.books):03d}{self.dice.randrange(10**6):06d}",
                "words": words,
                "mark": mark,
                "paid": amount,
                "began": time.time(),
            }
            self.books.append(one)
            if key:
                self.keys[key] = one
            return one


class Handler(BaseHTTPRequestHandler):
    """One request."""

    protocol_version = "HTTP/1.1"
    server: Service

    def log_message(self, *said):
        pass

    def cut(self):
        self.close_connection = True
        with suppress(OSError):
            self.connection.shutdown(2)

    def give(self, status, value, headers=(), twice=False):
        data = value if isinstance(value, bytes) else json.dumps(value).encode()
        data += data if twice else b""
        self.send_response(status)
        for name, said in (("Content-Length", str(len(data))), *headers):
            self.send_header(name, said)
        self.end_headers()
        self.wfile.write(data)

    def without_end(self, piece: bytes, pause: float, most: int):
        self.send_response(200)
        self.end_headers()
        with suppress(OSError):
            for _ in range(most):
                self.wfile.write(piece)
                time.sleep(pause)
        self.close_connection = True

    def ticket(self, one: dict, **changed) -> dict:
        told = {
            "no": one["no"],
            "phase": "over" if time.time() - one["began"] > 0.1 else "going",
            "mark": one["mark"],
            "paid": one["paid"],
        } | changed
        if told["phase"] == "over":
            told["things"] = [{"at": f"/thing/{one['no']}"}]
        return {"ticket": told}

    def do_POST(self):
        length = int(self.headers.get("Content-Length") or 0)
        body = json.loads(self.rfile.read(length) or b"{}")
        server, fault = self.server, self.server.fault("post")
        if self.path == "/moved":
            return self.give(404, {"oops": "nothing here"})
        if fault == "cut before":
            return self.cut()
        amount = {"dear": PRICE * 3, "negative": -PRICE}.get(fault, PRICE)
        key = (
            (self.headers.get("Idempotency-Key") or "")
            if "key" in server.kind and server.kind != UNHEEDED
            else ""
        )
        one = server.charged(body.get("say", ""), body.get("mark", ""), key, abs(amount))
        told = self.ticket(one, paid=one["paid"] if fault != "negative" else -PRICE)
        if server.kind.startswith("at once"):
            told = {
                "pictures": [{"raw": base64.b64encode(png(server.books.index(one))).decode()}],
                "paid": one["paid"],
            }
        if fault == "late":
            time.sleep(1.3)
        if fault == "cut after":
            return self.cut()
        if fault == "busy after":
            return self.give(
                server.dice.choice((408, 425, 429, 503)),
                {"oops": "busy"},
                [
                    (
                        "Retry-After",
                        server.dice.choice(("1", "86400", "²".encode().decode("latin-1"), "")),
                    )
                ],
            )
        if fault == "gone after":
            return self.give(500, {"oops": "broken"})
        if fault == "redirect":
            return self.give(307, {}, [("Location", "/moved")])
        if fault == "redirect away":
            return self.give(307, {}, [("Location", "http://127.0.0.2:9/work")])
        if fault == "endless":
            return self.without_end(b" " * (1 << 20), 0, 120)
        if fault == "drip":
            return self.without_end(b" ", 0.05, 100)
        if fault == "no json":
            return self.give(200, b"<html>thank you</html>")
        if fault == "error inside":
            return self.give(200, {"oops": {"message": "no"}})
        if fault == "no id" and not server.kind.startswith("at once"):
            return self.give(200, {"ticket": {"phase": "going"}})
        if fault == "wrong id" and len(server.books) > 1 and "ticket" in told:
            told["ticket"]["no"] = server.dice.choice(server.books)["no"]
        if fault == "other reference" and "ticket" in told:
            told["ticket"]["mark"] = "somebody:else"
        self.give(202, told, twice=fault == "twice")

    def do_GET(self):
        server = self.server
        if self.path.startswith("/thing/"):
            fault = server.fault("file")
            number = next(i for i, one in enumerate(server.books) if one["no"] == self.path[7:])
            data = png(0 if fault == "somebody else's" else number)
            if fault in ("404", "500"):
                return self.give(int(fault), {})
            return self.give(
                200,
                (
                    data[: len(data) // 2]
                    if fault == "cut"
                    else b"<html>soon</html>"
                    if fault == "text"
                    else data
                ),
                [("Content-Type", "image/png")],
            )
        if self.path.startswith("/work?mark="):
            fault = server.fault("find")
            found = [
                one
                for one in server.books
                if one["mark"]
                == self.path.partition("=")[2].replace("%3A", ":").replace("%2F", "/")
            ]
            if fault == "cut":
                return self.cut()
            if fault == "404":
                return self.give(404, {})
            if fault == "error inside":
                return self.give(200, {"oops": {"message": "later"}})
            return self.give(
                200,
                {
                    "all": [
                        self.ticket(one)
                        for one in (
                            []
                            if fault == "nothing"
                            else server.books
                            if fault == "everybody's"
                            else found
                        )
                    ]
                },
            )
        if self.path == "/work":
            fault = server.fault("list")
            if fault == "cut":
                return self.cut()
            if fault == "404":
                return self.give(404, {})
            if fault in ("error inside", "no list"):
                return self.give(
                    200, {"oops": {"message": "later"}} if fault == "error inside" else {"some": []}
                )
            shown = server.books[-3:] if fault == "first page" else server.books
            return self.give(200, {"all": [self.ticket(one) for one in shown]})
        fault = server.fault("look")
        one = next((one for one in server.books if one["no"] == self.path.rpartition("/")[2]), None)
        if fault == "late":
            time.sleep(1.3)
        if fault == "cut":
            return self.cut()
        if fault in ("404", "500") or one is None:
            return self.give(500 if fault == "500" else 404, {})
        if fault == "error inside":
            return self.give(200, {"oops": {"message": "later"}})
        if fault == "endless":
            return self.without_end(b" " * (1 << 20), 0, 12)
        told = self.ticket(one)
        if fault == "wrong id":
            told["ticket"]["no"] = server.dice.choice(server.books)["no"]
        if fault == "odd address" and "things" in told["ticket"]:
            told["ticket"]["things"] = [{"at": "http://[bad"}]
        if fault == "back":
            told = self.ticket(one, phase="going")
        self.give(200, told)


def profile(address: str, kind: str) -> str:
    """The profile of the service, as far as its kind goes."""
    answer = {
        "at once": 'results = "/pictures"\ndata = "/raw"\ncharged = "/paid"\nwrong = "/oops"\n'
    }.get(
        kind.removesuffix(" with key"),
        'task = "/ticket/no"\nstate = "/ticket/phase"\nresults = "/ticket/things"\naddress ='
        ' "/at"\ncharged = "/ticket/paid"\nreference = "/ticket/mark"\nwrong = "/oops"\nlisted ='
        ' "/all"\nwaiting = ["going"]\ndone = ["over"]\nfailed = ["broken"]\n',
    )
    lines = [
        'media = "image"',
        "[price]",
        f"amount = {PRICE}",
        "[request]",
        'say = "{text}"',
        "[service]",
        f'address = "{address}"',
        "every = 0.1",
        "patience = 1",
        "at_once = 2",
        "a_minute = 100000",
        'submit = { method = "POST", path = "/work" }',
        'reference = "/mark"',
        *([] if kind.startswith("at once") else ['state = { path = "/work/{task}" }']),
        *(["key = {}"] if "key" in kind else []),
        *(['find = { path = "/work?mark={reference}" }'] if "find" in kind else []),
        *(['listed = { path = "/work" }'] if "list" in kind else []),
        "[service.answer]",
        answer,
    ]
    return "\n".join(lines)


def once(seed: int) -> dict:
    """One run; what was counted."""
    dice = random.Random(seed)
    kind = dice.choice(KINDS)
    faults = {
        where: dice.sample(names, dice.randint(0, min(4, len(names))))
        for where, names in FAULTS.items()
    }
    if kind == UNHEEDED:
        faults["find"] = ["cut"]
    server = Service(kind, faults, dice.choice((0.15, 0.4, 0.8)), seed)
    threading.Thread(
        target=server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True
    ).start()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        environment = {
            **os.environ,
            "SYNTAGMA_HOME": str(folder / "own"),
            "NO_COLOR": "1",
            "TMPDIR": str(folder),
            "SYNTAGMA_TRACE": "1",
        }
        said: list[str] = []

        def start(*words: str) -> subprocess.Popen:
            return subprocess.Popen(
                [*PROGRAM, *words],
                cwd=folder,
                env=environment,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.PIPE,
                text=True,
            )

        def done(process: subprocess.Popen, most: float | None = None) -> int:
            try:
                said.append(process.communicate(timeout=most)[1])
            except subprocess.TimeoutExpired:
                process.send_signal(signal.SIGKILL)
                said.append(process.communicate()[1])
            return process.returncode

        done(start("start", "."))
        (folder / "models").mkdir(exist_ok=True)
        address = f"http://127.0.0.1:{server.server_address[1]}"
        (folder / "models" / "odd.toml").write_text(profile(address, kind))
        (folder / "rows.jsonl").write_text(
            "".join(
                json.dumps({"text": f"A heron number {n}.", "model": "odd"}) + "\n"
                for n in range(ROWS)
            )
        )
        for words in (
            ("service", "add", address, "--no-secret"),
            ("sheet", "new", "s", "rows.jsonl"),
            ("sheet", "approve", "s", "--all"),
        ):
            assert done(start(*words)) == 0, said
        (folder / "syntagma.toml").write_text(f"budget = {BUDGET}\n")
        send, collect = ("send", "s", "--yes", "--budget", str(BUDGET)), ("collect", "s")
        kills = 0
        for _ in range(4):
            going = [start(*send) for _ in range(dice.choice((1, 1, 2)))]
            for process in going:
                kills += done(process, dice.uniform(0.3, 2.5) if dice.random() < 0.5 else 60) == -9
            kills += (
                done(start(*collect), dice.uniform(0.3, 1.5) if dice.random() < 0.3 else 60) == -9
            )
        server.chance = 0.0
        for words in ((*collect, "--reconcile"), send, collect, collect):
            done(start(*words), 90)
        found = judged(folder, server, "\n".join(said))
    server.shutdown()
    server.server_close()
    return {"seed": seed, "kind": kind, "faults": faults, "kills": kills, **found}


def judged(folder: Path, server: Service, said: str) -> dict:
    """The ledger against the books."""
    base = sqlite3.connect(folder / "ledger.sqlite")
    texts = dict(base.execute("select id, text from rows"))
    takes = {
        row: (state, charged, reserved, file, why)
        for row, state, charged, reserved, file, why in base.execute(
            "select row, state, charged, reserved, file, why from takes"
        )
    }
    paid: Counter = Counter()
    times: Counter = Counter()
    for one in server.books:
        paid[one["words"]] += one["paid"]
        times[one["words"]] += 1
    wrong = [f"{words} charged {count} times" for words, count in times.items() if count > 1]
    spent = 0.0
    for row, text in texts.items():
        state, charged, reserved, file, why = takes.get(row, ("open", None, 0.0, "", ""))
        may = (
            charged
            if charged is not None
            else 0.0
            if state in ("open", "queued", "waiting")
            else reserved
        )
        spent += may
        if paid[text] > may and not (state == "unclear" and server.books and paid[text] > PRICE):
            wrong.append(
                f"{row} is {state}: {paid[text]:g} was charged, and the ledger has {may:g} at most"
                f" ({why})"
            )
        if charged is not None and charged != paid[text]:
            wrong.append(
                f"{row} is {state}: {paid[text]:g} was charged, and the ledger says {charged:g}"
            )
        if state == "done" and not all(
            (folder / one).read_bytes().endswith(b"IEND\xaeB`\x82") for one in file.split("; ")
        ):
            wrong.append(f"{row} is done, and its file is not whole")
        if state in ("refused", "failed", "expired") and not why:
            wrong.append(f"{row} is {state} without a reason")
    dear = sum(max(0.0, one["paid"] - PRICE) for one in server.books)
    if spent > BUDGET + dear + 1e-6:
        wrong.append(f"{spent:g} may be spent of a budget of {BUDGET}")
    if sum(paid.values()) > BUDGET + dear + 1e-6:
        wrong.append(f"{sum(paid.values()):g} was charged of a budget of {BUDGET}")
    if "Traceback" in said or "defect" in said:
        wrong.append(
            said[said.index("Traceback") if "Traceback" in said else said.index("defect") :][-900:]
        )
    return {
        "wrong": wrong,
        "states": Counter(takes[row][0] if row in takes else "open" for row in texts),
        "charged": sum(paid.values()),
        "ledger": spent,
        "dear": dear,
    }


def main() -> None:
    runs, seed = (int(word) for word in (*sys.argv[1:], *("200", "1")[len(sys.argv) - 1 :]))
    states: Counter = Counter()
    kills = wrong = dear = 0
    charged = ledger = 0.0
    began = time.time()
    with ThreadPoolExecutor(3) as pool:
        for one in pool.map(once, range(seed * 10_000, seed * 10_000 + runs)):
            states.update(one["states"])
            kills += one["kills"]
            charged += one["charged"]
            ledger += one["ledger"]
            dear += bool(one["dear"])
            for line in one["wrong"]:
                wrong += 1
                print(f"{one['seed']} ({one['kind']}, {one['faults']}): {line}", flush=True)
    print(
        f"{runs} runs, {kills} kills, {time.time() - began:.0f} s; takes: {dict(states)}; charged"
        f" {charged:g}, in the ledger {ledger:g} at most; {dear} runs charged above the price;"
        f" {wrong} complaints"
    )


if __name__ == "__main__":
    main()
