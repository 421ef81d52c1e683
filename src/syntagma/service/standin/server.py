"""The stand-in's server, on this machine only: tasks in, states, results with addresses that expire, prices, refusals, keys, books."""

import contextlib
import json
import time
from collections.abc import Callable
from datetime import UTC, datetime
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from random import Random
from typing import Any
from urllib.parse import parse_qs, urlsplit

from syntagma.service.standin.books import Books, Task
from syntagma.service.standin.drawing import as_png
from syntagma.service.standin.faults import Faults

HOST, PORT = "127.0.0.1", 8787
MOST_BODY = 64 << 20
LIVES = 120.0  # seconds that the address of a result lives
REFUSED = ("blood", "gun", "nude")


class Standin(ThreadingHTTPServer):
    """The service: its books, faults, prices (model, body → amount), how long a task takes, whether it knows keys, the ratio that a request asks for (0: none)."""

    daemon_threads = True
    request_queue_size = 128

    def __init__(
        self, port: int = PORT, faults: Faults | None = None, price: Callable[[str, dict[str, Any]], float] = lambda model, body: 1.0, takes: float = 0.4, keys: bool = True, key: str = "",
        credit: float = 1e9, clips: Callable[[str], bool] = lambda model: model.endswith("-motion"), ratio: Callable[[str, dict[str, Any]], float] = lambda model, body: 0.0,
    ):  # fmt: skip
        super().__init__((HOST, port), _Handler)
        self.books, self.faults = Books(credit), faults or Faults()
        self.price, self.takes, self.clips, self.keys, self.key, self.ratio = price, takes, clips, keys, key, ratio
        self.random = Random(7)
        self.forgotten: dict[str, float] = {}

    @property
    def address(self) -> str:
        return f"http://{HOST}:{self.server_address[1]}"


class _ConnectionCut(Exception):
    """The connection is cut."""


class _Handler(BaseHTTPRequestHandler):
    """One request."""

    server: Standin
    protocol_version = "HTTP/1.1"

    def log_message(self, *said: Any) -> None:
        """Nothing is written of single requests."""

    def do_POST(self) -> None:
        self._guarded(self._post)

    def do_GET(self) -> None:
        self._guarded(self._get)

    def do_DELETE(self) -> None:
        self._guarded(self._delete)

    def _guarded(self, serve: Callable[[], None]) -> None:
        faults = self.server.faults
        try:
            if faults.comes("slow"):
                time.sleep(0.3)
            if self.server.key and not self.path.startswith("/results/") and self.headers.get("Authorization") != f"Bearer {self.server.key}":
                self._body()
                self._answer(401, {"problem": {"message": "no such key"}})
                return
            serve()
        except _ConnectionCut:
            self.close_connection = True
            with contextlib.suppress(OSError):
                self.connection.shutdown(2)
        except (BrokenPipeError, ConnectionResetError):
            self.close_connection = True

    def _body(self) -> dict[str, Any]:
        length = min(int(self.headers.get("Content-Length") or 0), MOST_BODY)
        try:
            found = json.loads(self.rfile.read(length) or b"{}")
        except ValueError:
            return {}
        return found if isinstance(found, dict) else {}

    def _post(self) -> None:
        body, faults = self._body(), self.server.faults
        model = urlsplit(self.path).path.strip("/").partition("/")[0]
        key = self.headers.get("Idempotency-Key", "") if self.server.keys else ""
        if faults.comes("429"):
            self._answer(429, {"problem": {"message": "too many at once"}}, {"Retry-After": "1" if faults.after() else self.date_time_string(int(time.time()) + 1)})
            return
        for name in ("drop", "500"):
            if faults.comes(name) and not faults.after():
                self._broken(name)
                return
        known = self.server.books.by_key(key)
        if known is not None:
            self._answer(200, self._task(known))
            return
        words = max(_texts(body), key=len, default="")
        bad = next((word for word in REFUSED if word in words.lower().split()), "")
        if bad or not words:
            self._answer(422, {"problem": {"message": f"“{bad}” is not allowed here" if bad else "it has no prompt"}})
            return
        ends, why = ("declined", "refused: it looks like something else") if faults.comes("refuse", 0.05) else ("ready", "")
        task = Task(
            f"t{len(self.server.books.tasks) + 1}-{self.server.random.randrange(16**6):06x}", str(body.get("reference", "")), model, words, self.server.ratio(model, body), time.time(), self.server.takes * self.server.random.uniform(0.6, 1.4),
            round(self.server.price(model, body), 6), ends, why,
        )  # fmt: skip
        if not self.server.books.charge(task, key):
            self._answer(402, {"problem": {"message": "no credit left"}})
            return
        for name in ("drop", "500", "garbled"):
            if faults.comes(name):
                self._broken(name)
                return
        self._answer(202, self._task(task))

    def _get(self) -> None:
        parts = urlsplit(self.path)
        steps, query = parts.path.strip("/").split("/"), parse_qs(parts.query)
        books, faults = self.server.books, self.server.faults
        if steps == ["books"]:
            self._answer(200, books.report())
        elif steps[0] == "results" and len(steps) == 2:
            self._result(steps[1].removesuffix(".png"), query)
        elif steps == ["tasks"]:
            for name in ("drop", "500", "garbled"):
                if faults.comes(name, 0.05):
                    self._broken(name)
                    return
            found = books.by_reference(query["reference"][0]) if "reference" in query else books.every()
            self._answer(200, {"tasks": [self._task(task) for task in found]})
        elif steps[0] == "tasks" and len(steps) == 2:
            for name in ("drop", "500", "garbled"):
                if faults.comes(name, 0.05):
                    self._broken(name)
                    return
            task = books.tasks.get(steps[1])
            if task and faults.comes("forget", 0.05):
                self.server.forgotten[task.id] = time.time() + 0.3
            if task is None or self.server.forgotten.get(task.id, 0) > time.time():
                self._answer(404, {"problem": {"message": "no such task"}})
            else:
                self._answer(200, self._task(task), again=faults.comes("twice"))
        else:
            self._answer(404, {"problem": {"message": "nothing here"}})

    def _delete(self) -> None:
        task = self.server.books.tasks.get(urlsplit(self.path).path.strip("/").partition("/")[2])
        if task is None:
            self._answer(404, {"problem": {"message": "no such task"}})
            return
        if task.state(time.time()) == "queued":
            task.ends, task.charged = "left", 0.0
        self._answer(200, self._task(task))

    def _task(self, task: Task) -> dict[str, Any]:
        """A task as it is reported."""
        now = time.time()
        state, progress = task.state(now), task.progress(now)
        if state == "ready" and self.server.faults.comes("late"):
            state, progress = "drawing", 0.4
        told: dict[str, Any] = {"id": task.id, "state": state, "progress": round(progress, 2), "charged": task.charged, "model": task.model}
        if state == "ready":
            lives = 0.05 if self.server.faults.comes("expire") else LIVES
            until = now + lives
            expires: Any = datetime.fromtimestamp(until, UTC).isoformat() if len(task.id) % 2 else round(lives, 2)
            told["results"] = [{"url": f"/results/{task.id}.png?until={until:.3f}&sign={task.sign}", "expires": expires}]
        answer: dict[str, Any] = {"task": told, "reference": task.reference}
        if task.why and state == task.ends:
            answer["problem"] = {"message": task.why}
        return answer

    def _result(self, name: str, query: dict[str, list[str]]) -> None:
        task = self.server.books.tasks.get(name)
        if task is None or query.get("sign") != [task.sign]:
            self._answer(404, {"problem": {"message": "no such result"}})
        elif float(query.get("until", ["0"])[0]) < time.time():
            self._answer(410, {"problem": {"message": "this address has expired"}})
        else:
            data = as_png(task.words, int(task.id.rpartition("-")[2], 16), self.server.clips(task.model), task.ratio)
            cut = self.server.faults.comes("short")
            self.send_response(200)
            self.send_header("Content-Type", "image/png")
            self.send_header("Content-Length", str(len(data)))
            self.end_headers()
            self.wfile.write(data[: len(data) // 2] if cut else data)
            if cut:
                raise _ConnectionCut

    def _broken(self, name: str) -> None:
        """An answer that is none."""
        if name == "drop":
            raise _ConnectionCut
        if name == "500":
            self._answer(500, {"problem": {"message": "something broke"}})
            return
        data = b'{"task": {"id": "t0", "sta'
        self.send_response(202)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data) if self.server.faults.after() else len(data) + 40))
        self.end_headers()
        self.wfile.write(data)
        raise _ConnectionCut

    def _answer(self, status: int, value: dict[str, Any], headers: dict[str, str] | None = None, again: bool = False) -> None:
        if headers is None:
            headers = {}
        data = json.dumps(value).encode()
        data = data + data if again else data
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        for name, said in headers.items():
            self.send_header(name, said)
        self.end_headers()
        self.wfile.write(data)


def _texts(value: Any) -> list[str]:
    """Every text in a request, but pictures that are sent as data."""
    if isinstance(value, dict):
        return [text for name, one in value.items() if name != "reference" for text in _texts(one)]
    if isinstance(value, list):
        return [text for one in value for text in _texts(one)]
    return [value] if isinstance(value, str) and not value.startswith("data:") else []
