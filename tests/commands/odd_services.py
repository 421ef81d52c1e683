"""Services of other habits than the stand-in's, written by a test, and a sheet of one row that is sent to them."""

import base64
import json
import threading
import time
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from tests.commands.program import good, printed, run


@contextmanager
def serving(server):
    thread = threading.Thread(
        target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True
    )
    thread.start()
    try:
        yield server
    finally:
        server.shutdown()
        server.server_close()


class Other(ThreadingHTTPServer):
    """A service whose answers are written by the test: (method, path) → what answers (status, headers, body)."""

    daemon_threads = True

    def __init__(self, answers):
        self.answers, self.asked = answers, []
        super().__init__(("127.0.0.1", 0), _Asked)

    @property
    def address(self):
        return f"http://127.0.0.1:{self.server_address[1]}"


class _Asked(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"

    def log_message(self, *said):
        pass

    def _any(self):
        body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
        self.server.asked.append((self.command, self.path, dict(self.headers), body))
        status, headers, data = self.server.answers(self.command, self.path, body)
        data = data if isinstance(data, bytes) else json.dumps(data).encode()
        self.send_response(status)
        for name, value in {"Content-Length": str(len(data)), **headers}.items():
            if value is not None:
                self.send_header(name, value)
        self.end_headers()
        self.wfile.write(data)
        if headers.get("Content-Length", str(len(data))) != str(len(data)):
            self.close_connection = True

    do_GET = do_POST = do_DELETE = do_PUT = _any


PNG = base64.b64decode(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
)


def model(folder, address, service):
    (folder / "models").mkdir(exist_ok=True)
    (folder / "models" / "other.toml").write_text(
        f'media = "image"\n[price]\namount = 2\n[request]\nprompt = "{{text}}"\n[service]\naddress = "{address}"\nevery = 0.05\npatience = 2\n{service}'
    )
    (folder / "o.jsonl").write_text(json.dumps({"text": "A hen.", "model": "other"}) + "\n")
    good(folder, "service", "add", address, "--no-secret")
    good(folder, "sheet", "new", "o", "o.jsonl")
    good(folder, "sheet", "approve", "o", "--all")


def shown(folder, sheet="s", *words):
    return printed(good(folder, "sheet", "show", sheet, "--json", *words))


def one(folder, looks=8):
    """Send the one row, look some times; the row as it is then."""
    sent = run(folder, "send", "o", "--yes", "--budget", "10")
    for _ in range(looks):
        run(folder, "collect", "o")
        row = shown(folder, "o")[0]
        if row["status"] not in ("sent", "unclear"):
            break
        time.sleep(0.06)
    return shown(folder, "o")[0], sent


AT_ONCE = (
    '[service.answer]\nresults = "/images"\ndata = "/b64"\nwrong = "/error"\ncharged = "/cost"\n'
)
POLLED = 'state = { path = "/jobs/{task}" }\n[service.answer]\ntask = "/job"\nstate = "/status"\nresults = "/output"\naddress = "/href"\nexpires = "/until"\nwaiting = ["running"]\ndone = ["ok"]\nfailed = ["bad"]\nwrong = "/error"\n'
