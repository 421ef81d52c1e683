"""A stand-in for a generation service: its books, its faults, the pictures that it draws."""

import contextlib
import json
import re
import secrets
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from io import BytesIO
from random import Random
from threading import Lock, RLock
from typing import Any
from urllib.parse import parse_qs, urlsplit

from syntagma.core.diagnostics import SyntagmaError

# ──── Faults on demand: each comes by chance, and the chance by a seed, so a run can be had again.


FAULTS = {
    "slow": "replies come late",
    "drop": "connections are cut, before it has charged or after",
    "429": "it is busy, and says when to try again",
    "500": "it breaks: before it has charged or after",
    "garbled": "replies are not JSON, or cut short",
    "late": "states and progress go backwards",
    "twice": "a reply comes twice in a row",
    "expire": "addresses of results expire soon",
    "refuse": "some are refused",
    "forget": "it does not know a task for a while",
    "short": "results are cut short",
}
CHANCE = 0.12


class Faults:
    """Which faults there are, and whether one comes now."""

    def __init__(self, names: tuple[str, ...] = (), seed: int = 1, chance: float = CHANCE):
        self.names, self.chance = frozenset(names), chance
        self._random, self._lock = Random(f"faults {seed}"), Lock()

    def comes(self, name: str, chance: float | None = None) -> bool:
        """Does a fault come now?"""
        with self._lock:
            drawn = self._random.random()
        return name in self.names and drawn < (self.chance if chance is None else chance)

    def after(self) -> bool:
        """Does it come after the charge, and not before?"""
        with self._lock:
            return self._random.random() < 0.5


# ──── The books of the stand-in: tasks, keys, charges, credit. They are the witness of what was
# really charged.


@dataclass
class Task:
    """A task: its number, our customer's reference, the model, its words, the ratio that was asked
    for (0: none), when it began and how long it takes, what it was charged, what it comes to.
    """

    id: str
    reference: str
    model: str
    words: str
    ratio: float
    began: float
    takes: float
    charged: float
    ends: str = "ready"  # ready, declined, broken or left
    why: str = ""
    sign: str = field(default_factory=lambda: secrets.token_hex(8))

    def state(self, now: float) -> str:
        """How it is at a time."""
        if self.ends == "left":
            return "left"
        gone = now - self.began
        return (
            "queued" if gone < self.takes * 0.3 else "drawing" if gone < self.takes else self.ends
        )

    def progress(self, now: float) -> float:
        return max(0.0, min(1.0, (now - self.began) / self.takes))


class Books:
    """All tasks, by number, by reference, by key; and the credit that is left."""

    def __init__(self, credit: float = 1e9):
        self.tasks: dict[str, Task] = {}
        self.keys: dict[str, str] = {}
        self.credit = credit
        self.lock = RLock()

    def by_key(self, key: str) -> Task | None:
        """The task that was made with an idempotency key."""
        with self.lock:
            return self.tasks.get(self.keys.get(key, "")) if key else None

    def charge(self, task: Task, key: str) -> bool:
        """Take a task in, and charge it; is there credit for it?"""
        with self.lock:
            if task.charged > self.credit:
                return False
            self.credit -= task.charged
            self.tasks[task.id] = task
            if key:
                self.keys[key] = task.id
            return True

    def by_reference(self, reference: str) -> list[Task]:
        with self.lock:
            return [task for task in self.tasks.values() if task.reference == reference]

    def every(self) -> list[Task]:
        with self.lock:
            return list(self.tasks.values())

    def report(self) -> dict[str, Any]:
        """The books, for whoever checks them: each charge with its reference."""
        now = time.time()
        with self.lock:
            charges = [
                {
                    "task": t.id,
                    "reference": t.reference,
                    "model": t.model,
                    "charged": t.charged,
                    "state": t.state(now),
                }
                for t in self.tasks.values()
            ]
        return {
            "charges": charges,
            "sum": round(sum(one["charged"] for one in charges), 6),
            "credit": self.credit,
        }


# ──── What the stand-in draws: a plain picture of what a prompt says, by seed: ground and light by
# its colour and light words, a figure a kind of subject, noise. Warm and cold, dark and bright,
# near and far differ measurably; a clip is an animated PNG.


_WARM = (
    "warm amber lamp lamps candle fire sun sunlight golden gold orange red bulb lantern sodium"
    " tungsten apricot rust terracotta sunset"
)
_COLD = (
    "cold blue moon moonlight ice snow teal storm grey steel fluorescent slate frost winter sea"
    " dawn"
)
_DARK = (
    "night dark midnight moonless black shadow silhouette noir dusk candle before-dawn underground"
)
_BRIGHT = "noon bright white daylight sunny snow high-key clear morning overcast studio day"
_NEAR = "close-up macro insert portrait choker detail close face hands headshot"
_FAR = "wide aerial establishing landscape panorama distant far tableau extreme"
_THINGS = {
    "person": (
        "man woman pilot purser keeper girl boy baker dancer cook porter guest teacher fisherman"
        " person people passenger captain"
    ),
    "animal": "dog cat fox bird gull horse hen lurcher",
    "vessel": (
        "ferry boat launch ship barge vessel tug skiff trawler barque dinghy yacht sail canoe liner"
    ),
    "house": "house lighthouse office hut tower bridge window town village city kiosk",
}
WIDTH, HEIGHT = 384, 256


def _count(words: list[str], known: str) -> int:
    names = set(known.split())
    return sum(word in names for word in words)


def picture(
    text: str, seed: int, size: tuple[int, int] = (WIDTH, HEIGHT), step: float = 0.0
) -> Any:
    """A picture of a prompt (a Pillow image). `step` moves the figure, 0 to 1, for the pictures of
    a clip.
    """
    import numpy as np
    from PIL import Image, ImageDraw

    words = re.findall(r"[a-z-]+", text.lower())
    random = Random(f"{text} {seed}")
    warm, cold = _count(words, _WARM), _count(words, _COLD)
    dark, bright = _count(words, _DARK), _count(words, _BRIGHT)
    near, far = _count(words, _NEAR), _count(words, _FAR)
    light = 0.5 + 0.16 * max(-2, min(2, bright - dark)) + random.uniform(-0.03, 0.03)
    tint = max(-1.0, min(1.0, 0.35 * (warm - cold))) + random.uniform(-0.04, 0.04)
    base = np.array([0.5 + 0.3 * tint, 0.5 + 0.04 * tint, 0.5 - 0.3 * tint])
    wide, high = size
    horizon = int(high * random.uniform(0.55, 0.7))
    sky = np.linspace(1.15, 0.85, high)[:, None, None]
    ground = np.where(np.arange(high)[:, None, None] > horizon, 0.7, 1.0)
    field = np.clip(base[None, None, :] * sky * ground * (light / 0.5), 0, 1) * np.ones(
        (high, wide, 1)
    )
    noise = np.random.default_rng(random.randrange(2**32)).normal(0, 0.02, (high, wide, 1))
    image = Image.fromarray((np.clip(field + noise, 0, 1) * 255).astype("uint8"), "RGB")
    draw = ImageDraw.Draw(image)
    scale = 0.34 * (1.9 if near > far else 0.45 if far > near else 1.0)
    ink = tuple(int(255 * min(1.0, max(0.0, c * (0.25 if light > 0.45 else 1.9)))) for c in base)
    at = int(wide * (0.35 + 0.25 * random.random() + 0.15 * step))
    tall = int(high * scale)
    kinds = [kind for kind, known in _THINGS.items() if _count(words, known)] or ["thing"]
    for number, kind in enumerate(kinds[:3]):
        _figure(
            draw,
            kind,
            at + number * int(tall * 0.8) - int(tall * 0.4),
            horizon + int(tall * 0.3),
            tall,
            ink,
        )
    if _count(words, "lettering title poster headline label typography"):
        for line in range(2):
            draw.rectangle(
                (
                    int(wide * 0.2),
                    int(high * (0.08 + 0.09 * line)),
                    int(wide * (0.8 - 0.15 * line)),
                    int(high * (0.13 + 0.09 * line)),
                ),
                fill=ink,
            )
    return image


def _figure(draw: Any, kind: str, x: int, floor: int, tall: int, ink: tuple[int, ...]) -> None:
    """A plain figure: what it is shows in its outline."""
    w = max(4, tall // 4)
    if kind == "person":
        draw.ellipse((x - w // 2, floor - tall, x + w // 2, floor - tall + w), fill=ink)
        draw.polygon(
            [
                (x - w, floor),
                (x - w // 2, floor - tall + w),
                (x + w // 2, floor - tall + w),
                (x + w, floor),
            ],
            fill=ink,
        )
    elif kind == "animal":
        draw.ellipse((x - w, floor - w, x + w, floor), fill=ink)
        draw.ellipse((x + w // 2, floor - w - w // 2, x + w + w // 2, floor - w // 3), fill=ink)
    elif kind == "vessel":
        draw.polygon(
            [(x - 2 * w, floor - w), (x + 2 * w, floor - w), (x + w, floor), (x - w, floor)],
            fill=ink,
        )
        draw.rectangle((x - w // 2, floor - 2 * w, x + w // 2, floor - w), fill=ink)
    elif kind == "house":
        draw.rectangle((x - w, floor - 2 * w, x + w, floor), fill=ink)
        draw.polygon(
            [(x - w - 4, floor - 2 * w), (x, floor - 3 * w), (x + w + 4, floor - 2 * w)], fill=ink
        )
    else:
        draw.ellipse((x - w, floor - 2 * w, x + w, floor), fill=ink)


def shaped(area: int, ratio: float) -> tuple[int, int]:
    """Width and height of an area, in a ratio."""
    wide = max(16, min(area // 16, round((area * ratio) ** 0.5)))
    return wide, max(16, round(wide / ratio))


def as_png(text: str, seed: int, clip: bool = False, ratio: float = 0.0) -> bytes:
    """The file of a prompt: a PNG, an animated one for a clip; in the ratio that was asked for (0:
    nobody said).
    """
    out = BytesIO()
    if clip:
        size = shaped(192 * 108, ratio or 192 / 108)
        frames = [picture(text, seed, size, n / 5) for n in range(6)]
        frames[0].save(out, "PNG", save_all=True, append_images=frames[1:], duration=160, loop=0)
    else:
        picture(text, seed, shaped(WIDTH * HEIGHT, ratio or WIDTH / HEIGHT)).save(out, "PNG")
    return out.getvalue()


# ──── The stand-in's server, on this machine only: tasks in, states, results with addresses that
# expire, prices, refusals, keys, books.


HOST, PORT = "127.0.0.1", 8787
MOST_BODY = 64 << 20
LIVES = 120.0  # seconds that the address of a result lives
REFUSED = ("blood", "gun", "nude")


class Standin(ThreadingHTTPServer):
    """The service: its books, faults, prices (model, body → amount), how long a task takes, whether
    it knows keys, the ratio that a request asks for (0: none).
    """

    daemon_threads = True
    request_queue_size = 128

    def __init__(
        self,
        port: int = PORT,
        faults: Faults | None = None,
        price: Callable[[str, dict[str, Any]], float] = lambda model, body: 1.0,
        takes: float = 0.4,
        keys: bool = True,
        key: str = "",
        credit: float = 1e9,
        clips: Callable[[str], bool] = lambda model: model.endswith("-motion"),
        ratio: Callable[[str, dict[str, Any]], float] = lambda model, body: 0.0,
    ):
        super().__init__((HOST, port), _Handler)
        self.books, self.faults = Books(credit), faults or Faults()
        self.price, self.takes, self.clips, self.keys, self.key, self.ratio = (
            price,
            takes,
            clips,
            keys,
            key,
            ratio,
        )
        self.random = Random(7)
        self.forgotten: dict[str, float] = {}

    @property
    def address(self) -> str:
        return f"http://{HOST}:{self.server_address[1]}"


class _ConnectionCut(SyntagmaError):
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
            if (
                self.server.key
                and not self.path.startswith("/results/")
                and self.headers.get("Authorization") != f"Bearer {self.server.key}"
            ):
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
            self._answer(
                429,
                {"problem": {"message": "too many at once"}},
                {
                    "Retry-After": (
                        "1" if faults.after() else self.date_time_string(int(time.time()) + 1)
                    )
                },
            )
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
            self._answer(
                422,
                {
                    "problem": {
                        "message": f"“{bad}” is not allowed here" if bad else "it has no prompt"
                    }
                },
            )
            return
        ends, why = (
            ("declined", "refused: it looks like something else")
            if faults.comes("refuse", 0.05)
            else ("ready", "")
        )
        task = Task(
            f"t{len(self.server.books.tasks) + 1}-{self.server.random.randrange(16**6):06x}",
            str(body.get("reference", "")),
            model,
            words,
            self.server.ratio(model, body),
            time.time(),
            self.server.takes * self.server.random.uniform(0.6, 1.4),
            round(self.server.price(model, body), 6),
            ends,
            why,
        )
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
            found = (
                books.by_reference(query["reference"][0]) if "reference" in query else books.every()
            )
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
        told: dict[str, Any] = {
            "id": task.id,
            "state": state,
            "progress": round(progress, 2),
            "charged": task.charged,
            "model": task.model,
        }
        if state == "ready":
            lives = 0.05 if self.server.faults.comes("expire") else LIVES
            until = now + lives
            expires: Any = (
                datetime.fromtimestamp(until, UTC).isoformat()
                if len(task.id) % 2
                else round(lives, 2)
            )
            told["results"] = [
                {
                    "url": f"/results/{task.id}.png?until={until:.3f}&sign={task.sign}",
                    "expires": expires,
                }
            ]
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
            data = as_png(
                task.words,
                int(task.id.rpartition("-")[2], 16),
                self.server.clips(task.model),
                task.ratio,
            )
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
        self.send_header(
            "Content-Length", str(len(data) if self.server.faults.after() else len(data) + 40)
        )
        self.end_headers()
        self.wfile.write(data)
        raise _ConnectionCut

    def _answer(
        self,
        status: int,
        value: dict[str, Any],
        headers: dict[str, str] | None = None,
        again: bool = False,
    ) -> None:
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
