"""Judging: what is shown next, what is said of it, and the page that is served for it."""

import csv
import json
import mimetypes
import re
import threading
from collections.abc import Callable, Mapping, Sequence
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from secrets import token_urlsafe
from typing import Any
from urllib.parse import parse_qs, urlsplit

from syntagma.app.results.judged import Judged, asked_of
from syntagma.app.workspace.html_pages import read_table
from syntagma.core.diagnostics import Mistake, Refused, SyntagmaError, Trouble
from syntagma.core.judging.observed import RATINGS
from syntagma.core.judging.pairs import (
    PairAnswer,
    enough,
    next_one,
    next_pair,
    pair_list,
    pairs_wanted,
    wanted,
)
from syntagma.core.judging.phrases import VERDICTS
from syntagma.core.notation.json_in import read_json
from syntagma.core.sheets import TakeId
from syntagma.formats.table_in import harmless
from syntagma.storage.files import whole_file
from syntagma.storage.library import Judgement, Library, kind_of

# ──── Judging a family: what comes next for a judge, what was said, saved at once, taken back; by
# page, by file or in the terminal.


SIDES = ("left", "right", "tie", "neither")
COLUMNS = ("judge", "kind", "picture", "other", "value", "slot", "phrase", "at", "id", "again")
KINDS = ("rating", "approve", "pair", "phrase")
LONGEST = 80  # letters of a judge's name
MOST = 200_000  # judgements of one file


class BadJudgement(SyntagmaError, ValueError):
    """Something that is not a judgement. The message says why."""


class Judging:
    """The judging of one family."""

    def __init__(self, library: Library, family: Judged, pairs: bool = False):
        self.library, self.family, self.pairs = library, family, pairs
        self.kept = {one.id: one for one in family.kept}
        self.ids = sorted(self.kept)
        self.place = {number: i for i, number in enumerate(self.ids)}
        self.by_take = {one.take: one.id for one in family.kept if one.take}

    def said_by(self, judge: str, kind: str) -> list[Judgement]:
        """What a judge said so far."""
        return [
            one
            for one in self.library.judgements()
            if one.judge == judge and one.kind == kind and one.kept in self.kept
        ]

    def next(self, judge: str) -> dict[str, Any]:
        """What a judge sees next: one picture, or two; and how far that is. The prompt comes with a
        picture, to be shown after the rating; never with a pair.
        """
        if self.pairs:
            said = [one for one in self.said_by(judge, "pair") if one.other in self.kept]
            answers = [
                PairAnswer(
                    self.place[one.kept],
                    self.place[one.other],
                    {"left": 1.0, "right": 0.0}.get(one.value, 0.5),
                )
                for one in said
            ]
            whole = pairs_wanted(len(self.ids))
            if len(said) >= len(self.ids) and len(said) % 5 == 0 and enough(len(self.ids), answers):
                return {"done": len(said), "of": len(said), "pair": None, "enough": True}
            pair = (
                next_pair(len(self.ids), answers, seed=_seed(judge)) if len(said) < whole else None
            )
            return {
                "done": len(said),
                "of": whole if pair else len(said),
                "pair": [self._shown(self.ids[i]) for i in pair] if pair else None,
            }
        said = self.said_by(judge, "rating")
        number = next_one(self.ids, [one.kept for one in said], f"{self.family.name} {judge}")
        again = int(any(one.kept == number for one in said))
        return {
            "done": len(said),
            "of": wanted(self.ids),
            "one": {**self._shown(number, True), "again": again} if number is not None else None,
        }

    def _shown(self, number: int, words: bool = False) -> dict[str, Any]:
        kept = self.kept[number]
        found: dict[str, Any] = {"id": number, "kind": kind_of(kept.ending)}
        if words:
            found |= {
                "text": kept.text,
                "model": kept.model,
                "phrases": [list(one) for one in asked_of(kept)],
            }
        return found

    def say(self, given: Mapping[str, Any]) -> bool:
        """Save one judgement; False if it is saved already. Raises BadJudgement."""
        one = judgement_of(given, self.family.name, self.by_take)
        if one.kept not in self.kept or (
            one.kind == "pair" and (one.other not in self.kept or one.other == one.kept)
        ):
            raise BadJudgement("that picture is not one of these")
        return self.library.judge(one)

    def undo(self, judge: str) -> Judgement | None:
        """Take the last thing that a judge said back, with what was said of phrases and of keeping
        after its rating.
        """
        gone = self.library.undo(judge, self.family.name)
        while gone is not None and gone.kind in ("phrase", "approve"):
            gone = self.library.undo(judge, self.family.name)
        return gone

    def page_pairs(self) -> list[tuple[int, int]]:
        """The pairs of an offline page."""
        return [(self.ids[i], self.ids[j]) for i, j in pair_list(len(self.ids), 1)]


def _seed(judge: str) -> int:
    total: int = sum(ord(letter) * 31**i for i, letter in enumerate(judge[:12]))
    return total % 1_000_003


def judgement_of(given: Mapping[str, Any], sheet: str, by_take: Mapping[str, int]) -> Judgement:
    """A judgement as it was given, checked; pictures are named by number, or by the take that they
    are of. Raises BadJudgement.
    """
    judge, kind, value = (str(given.get(name, "")).strip() for name in ("judge", "kind", "value"))
    if not judge or len(judge) > LONGEST:
        raise BadJudgement(f"a judge needs a name of up to {LONGEST} letters")
    if kind not in KINDS:
        raise BadJudgement(f"“{kind}” can't be judged; use {', '.join(KINDS)}")
    try:
        first, second = (
            str(given.get(name, "") or "").strip()
            for name in ("kept" if "kept" in given else "picture", "other")
        )
        kept, other = by_take.get(first) or int(first), by_take.get(second) or int(second or 0)
    except ValueError:
        if re.fullmatch(r"r[0-9a-f]{9}[-.+\d]*", first) or re.fullmatch(
            r"r[0-9a-f]{9}[-.+\d]*", second
        ):
            raise BadJudgement(
                f"the library has no result of {first}{f' or {second}' if second else ''}"
            ) from None
        raise BadJudgement("name a picture by its number, or by its take (r1a2b3c4d5.2)") from None
    allowed = {
        "rating": [str(rating) for rating in RATINGS],
        "approve": ["0", "1"],
        "pair": SIDES,
        "phrase": VERDICTS,
    }[kind]
    if kind == "rating" and re.fullmatch(r"[0-5]\.0+", value):
        value = value[0]
    if value not in allowed:
        raise BadJudgement(f"“{value}” is not a valid {kind}: {', '.join(allowed)}")
    slot, phrase = str(given.get("slot", "")), str(given.get("phrase", ""))
    if kind == "phrase" and not phrase.strip():
        raise BadJudgement("a phrase has words")
    name = re.sub(r"[^\w-]", "", str(given.get("id", "")))[:64]
    at = str(given.get("at", "")).strip()[:32]
    again = int(kind == "rating" and str(given.get("again", "")).strip() == "1")
    return Judgement(
        judge,
        sheet,
        kind,
        kept,
        value,
        other if kind == "pair" else 0,
        slot if kind == "phrase" else "",
        phrase if kind == "phrase" else "",
        name,
        at if re.match(r"\d{4}-\d\d-\d\dT", at) else "",
        again,
    )


# By file


def write_judgements(library: Library, family: Judged, path: str) -> int:
    """Write what was said as CSV; return how many."""
    if not path.lower().endswith(".csv"):
        raise Trouble(f"can't write judgements as {path}", "name it .csv", 2)
    said = [one for one in library.judgements(family.name)]
    with whole_file(path) as file:
        out = csv.writer(file)
        out.writerow(COLUMNS)
        for one in said:
            out.writerow(
                [
                    harmless(str(cell))
                    for cell in (
                        one.judge,
                        one.kind,
                        one.kept,
                        one.other or "",
                        one.value,
                        one.slot,
                        one.phrase,
                        one.at,
                        one.id,
                        one.again or "",
                    )
                ]
            )
    return len(said)


def take_judgements(judging: Judging, path: str, judge: str = "") -> tuple[int, int, list[Mistake]]:
    """Bring judgements in: those of a page or of another library, or a sheet with a column rating
    (or better: the id of the row that it beats). Return how many are new, how many were there
    already, and what could not be taken. Raises Refused, Trouble.
    """
    columns, rows, mistakes = read_table(path)
    names = {column.strip().lower(): column for column in columns}
    if mistakes and not rows:
        raise Refused(list(mistakes))
    if len(rows) > MOST:
        raise Trouble(f"{path} has {len(rows):,} rows", f"import up to {MOST:,} at once", 1)
    if {"judge", "kind", "value"} <= names.keys():
        given = [
            (row.line, {name: row.cells.get(column, "") for name, column in names.items()})
            for row in rows
        ]
    elif "id" in names and {"rating", "better"} & names.keys():
        given = [
            (row.line, one)
            for row in rows
            for one in _of_row(
                judging, {name: row.cells.get(column, "") for name, column in names.items()}, judge
            )
        ]
    else:
        raise Trouble(
            f"{path} has no judgements",
            "it needs the columns judge, kind, picture and value; or a sheet's columns with rating"
            " or better",
            1,
        )
    new, old, wrong = 0, 0, list(mistakes)
    for line, one in given:
        try:
            fresh = judging.say(one)
        except BadJudgement as bad:
            wrong.append(
                Mistake(
                    str(bad),
                    "correct the row and import the file again; nothing is taken twice",
                    path,
                    line,
                    1,
                )
            )
            continue
        new, old = (new + 1, old) if fresh else (new, old + 1)
    return new, old, wrong


def _of_row(judging: Judging, cells: Mapping[str, str], judge: str) -> list[dict[str, Any]]:
    """The judgements in a row of a sheet."""

    def by_row(name: str) -> list[int]:
        return [
            one.id
            for one in judging.family.kept
            if name and name in (one.take, TakeId.read(one.take).row)
        ]

    own = by_row(cells.get("id", "").strip())
    found = []
    if (rating := cells.get("rating", "").strip()) and own:
        found += [
            {"judge": judge or "sheet", "kind": "rating", "kept": number, "value": rating}
            for number in own
        ]
    if beaten := cells.get("better", "").strip():
        found += [
            {"judge": judge or "sheet", "kind": "pair", "kept": a, "other": b, "value": "left"}
            for a in own[:1]
            for b in by_row(beaten)[:1]
        ]
    if not own and (rating or beaten):
        found.append(
            {"judge": judge or "sheet", "kind": "rating", "kept": "0", "value": rating or "0"}
        )
    return found


def told(said: Sequence[Judgement]) -> dict[str, int]:
    """How many of each kind."""
    found: dict[str, int] = {}
    for one in said:
        found[one.kind] = found.get(one.kind, 0) + 1
    return found


# ──── The page of judging, served on this machine alone: an address with a token, one process,
# everything saved the moment it is said.


MOST_BYTES = 20_000  # bytes of an answer
POLICY = (
    "default-src 'none'; img-src 'self' data:; media-src 'self'; style-src 'unsafe-inline';"
    " script-src 'unsafe-inline'; connect-src 'self'; base-uri 'none'; form-action 'none';"
    " frame-ancestors 'none'"
)


class JudgeServer(ThreadingHTTPServer):
    """Serves one judging at `address`."""

    daemon_threads = True

    def __init__(self, judging: Judging, page: str, port: int = 0):
        super().__init__(("127.0.0.1", port), _JudgeHandler)
        self.judging, self.page, self.token = judging, page, token_urlsafe(18)
        self.lock = threading.Lock()  # one at a time speaks to the library

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.server_port}/{self.token}/"

    def with_library(self) -> Judging:
        """The judging on a connection of this thread's own."""
        return Judging(Library(self.judging.library.root), self.judging.family, self.judging.pairs)


class _JudgeHandler(BaseHTTPRequestHandler):
    server: JudgeServer
    protocol_version = "HTTP/1.1"
    timeout = 30

    def log_message(self, *_: object) -> None:
        """Nobody reads it."""

    def do_GET(self) -> None:
        """The page, what comes next, a picture."""
        place = self._place()
        if place is None:
            return
        path, query = place
        if path == "":
            self._send(200, self.server.page.encode(), "text/html; charset=utf-8")
        elif path == "next":
            self._asked(lambda judging: judging.next((query.get("judge") or [""])[0][:80]))
        elif match := re.fullmatch(r"file/(\d{1,9})", path):
            self._file(int(match[1]))
        else:
            self._send(404)

    def do_POST(self) -> None:
        """A judgement, or the last one taken back."""
        place = self._place()
        if place is None:
            return
        length = self.headers.get("Content-Length", "")
        if not length.isdigit() or int(length) > MOST_BYTES:
            self.close_connection = True
            self._send(413)
            return
        body = self.rfile.read(int(length))
        origin = self.headers.get("Origin")
        if origin and origin != f"http://{self.headers.get('Host', '')}":
            self._send(403)
            return
        try:
            given = read_json(body.decode("utf-8"))
            if not isinstance(given, dict):
                raise ValueError
        except ValueError:
            self._send(400)
            return
        if place[0] == "say":
            self._asked(lambda judging: {"saved": judging.say(given)})
        elif place[0] == "undo":
            self._asked(
                lambda judging: {"undone": bool(judging.undo(str(given.get("judge", ""))[:80]))}
            )
        else:
            self._send(404)

    def _place(self) -> tuple[str, dict[str, list[str]]] | None:
        """What is asked for, behind the token; answers for itself where the token or the host is
        not ours.
        """
        host, port = self.headers.get("Host", ""), self.server.server_port
        parts = urlsplit(self.path)
        token, _, path = parts.path.lstrip("/").partition("/")
        if host not in (f"127.0.0.1:{port}", f"localhost:{port}") or token != self.server.token:
            self.close_connection = True
            self._send(404)
            return None
        return path, parse_qs(parts.query)

    def _asked(self, answer: Callable[[Judging], Any]) -> None:
        with self.server.lock:
            judging = self.server.with_library()
            try:
                with judging.library.whole():
                    self._send(200, json.dumps(answer(judging)).encode(), "application/json")
            except BadJudgement as bad:
                self._send(400, json.dumps({"wrong": str(bad)}).encode(), "application/json")

    def _file(self, number: int) -> None:
        kept = self.server.judging.kept.get(number)
        try:
            path = self.server.judging.library.file_of(kept) if kept else None
        except Trouble:
            path = None
        if path is None or not path.is_file():
            self._send(404)
            return
        data = path.read_bytes()
        self._send(
            200,
            data,
            mimetypes.guess_type(path.name)[0] or "application/octet-stream",
            "private, max-age=3600",
        )

    def _send(
        self, status: int, data: bytes = b"", kind: str = "text/plain", cache: str = "no-store"
    ) -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(data)))
        if self.close_connection:
            self.send_header(
                "Connection", "close"
            )  # or the next request goes into a closed one (RFC 9112, 9.6)
        self.send_header("Cache-Control", cache)
        self.send_header("Content-Security-Policy", POLICY)
        self.send_header("X-Content-Type-Options", "nosniff")
        self.send_header("Referrer-Policy", "no-referrer")
        self.end_headers()
        self.wfile.write(data)
