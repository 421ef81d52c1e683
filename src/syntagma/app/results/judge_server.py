"""The page of judging, served on this machine alone: an address with a token, one process, everything saved the moment it is said."""

import json
import mimetypes
import re
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from secrets import token_urlsafe
from urllib.parse import parse_qs, urlsplit

from syntagma.app.results.judging import BadJudgement, Judging
from syntagma.core.notation.json_in import read_json
from syntagma.storage.library import Library
from syntagma.storage.trouble import Trouble

MOST = 20_000  # bytes of an answer
POLICY = "default-src 'none'; img-src 'self' data:; media-src 'self'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"


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
        if not length.isdigit() or int(length) > MOST:
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
            self._asked(lambda judging: {"undone": bool(judging.undo(str(given.get("judge", ""))[:80]))})
        else:
            self._send(404)

    def _place(self) -> tuple[str, dict[str, list[str]]] | None:
        """What is asked for, behind the token; answers for itself where the token or the host is not ours."""
        host, port = self.headers.get("Host", ""), self.server.server_port
        parts = urlsplit(self.path)
        token, _, path = parts.path.lstrip("/").partition("/")
        if host not in (f"127.0.0.1:{port}", f"localhost:{port}") or token != self.server.token:
            self.close_connection = True
            self._send(404)
            return None
        return path, parse_qs(parts.query)

    def _asked(self, answer) -> None:
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
        self._send(200, data, mimetypes.guess_type(path.name)[0] or "application/octet-stream", "private, max-age=3600")

    def _send(self, status: int, data: bytes = b"", kind: str = "text/plain", cache: str = "no-store") -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(data)))
        if self.close_connection:
            self.send_header("Connection", "close")  # or the next request goes into a closed one (RFC 9112, 9.6)
        self.send_header("Cache-Control", cache)
        self.send_header("Content-Security-Policy", POLICY)
        self.send_header("X-Content-Type-Options", "nosniff")
        self.send_header("Referrer-Policy", "no-referrer")
        self.end_headers()
        self.wfile.write(data)
