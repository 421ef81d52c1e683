"""The client of one service: what goes out, and what came of it. A request that costs is tried again only where it can't have arrived, or was
turned away; whatever may have been charged is unclear, and that is said."""

import base64
import binascii
import ipaddress
import socket
import ssl
import time
from collections.abc import Callable, Mapping
from email.utils import parsedate_to_datetime
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote, urljoin, urlsplit

import httpx

from syntagma.core.models.profile import Call, Service
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.service.answers import MISSING, Told, at, put, reason_of, told
from syntagma.storage.trouble import Trouble

MOST_ANSWER = 96 << 20  # bytes of an answer
MOST_RESULT = 4 << 30
REDIRECTS = 4
AGENT = "syntagma"


class Outcome(NamedTuple):
    """What came of a request. `kind`: sent (the service has it), done, refused, failed; unsent (it can't have arrived), away (turned away: try
    later), stop (nothing more can be sent: a wrong key, no credit); unclear (it may have been charged). `later`: seconds to wait."""

    kind: str
    why: str = ""
    task: str = ""
    told: Told = Told()
    status: int | None = None
    later: float = 0.0


@cache
def _trusted() -> ssl.SSLContext:
    """Whom the clients trust: read once, which takes longer than a request."""
    return httpx.create_ssl_context(trust_env=False)


class Unreadable(Exception):
    """An answer that can't be read, or did not come whole."""


class Client:
    """Speaks to one service. `secret` is what a person bound to its host; it stands in a header and nowhere else."""

    def __init__(self, service: Service, secret: str = "", clock: Callable[[], float] = time.time):
        self.service, self.clock = service, clock
        self.host = host_of(service.address)
        self._private = is_private(urlsplit(service.address).hostname or "")  # a service on a private network may have its results there
        name, _, value = service.secret.partition(":")
        self._own = {name.strip(): value.strip().replace("{secret}", secret)} if secret else {}
        limits = httpx.Limits(max_connections=service.at_once + 2, max_keepalive_connections=service.at_once)
        timeout = httpx.Timeout(service.patience, connect=min(10.0, service.patience))
        # what costs goes over a connection of its own: one that was kept may be dead, and then nobody knows whether the request arrived
        fresh = httpx.Limits(max_connections=service.at_once + 2, max_keepalive_connections=0)
        self._costly, self._http = (
            httpx.Client(verify=_trusted(), timeout=timeout, follow_redirects=False, limits=each, trust_env=False) for each in (fresh, limits)
        )

    def close(self) -> None:
        self._http.close()
        self._costly.close()

    # What costs

    def submit(self, body: Mapping[str, Any], key: str, reference: str) -> Outcome:
        """Send a request for one take."""
        service = self.service
        whole = dict(body) | service.submit.body
        if service.reference:
            whole = put(whole, service.reference, reference)
        headers = {service.key.header: key} if service.key else {}
        try:
            status, answered, answer = self._call(service.submit, {"reference": reference}, whole, headers)
        except (httpx.ConnectError, httpx.ConnectTimeout, httpx.UnsupportedProtocol, httpx.PoolTimeout) as error:
            return Outcome("unsent", _short(error))
        except Elsewhere as away:
            return Outcome("stop", f"the service sends us to another host ({away}): bind that one, if it is meant")
        except (httpx.TimeoutException, httpx.TransportError, Unreadable) as error:
            return Outcome("unclear", f"the request went out, and {_short(error)}")
        return self._judged(status, answered, answer)

    def _judged(self, status: int, headers: Mapping[str, str], answer: Any) -> Outcome:
        rule = self.service.answer
        if status in (408, 425, 429, 503) or (status == 409 and self.service.key):  # 409: the same key is at work
            return Outcome("away", reason_of(answer, rule) or f"the service is busy ({status})", status=status, later=retry_after(headers, self.clock()))
        if status in (401, 403):
            return Outcome("stop", f"the service does not take the key that is bound to {self.host} ({status}): {reason_of(answer, rule) or 'no reason given'}", status=status)
        if status == 402:
            return Outcome("stop", f"the service says that there is no credit left: {reason_of(answer, rule)}".rstrip(": "), status=status)
        if status in (404, 405) and self.service.submit.path:
            return Outcome("stop", f"the service knows no {self.service.submit.method} {self.service.submit.path} ({status}): look at [service] of the profile", status=status)
        if 400 <= status < 500:
            return Outcome("refused", reason_of(answer, rule) or f"the service gave {status} and no reason", status=status)
        if status >= 500 or not 200 <= status < 300:
            return Outcome("unclear", f"the service answered {status}", status=status)
        if answer is MISSING and not (status in (201, 202) and headers.get("location")):
            return Outcome("unclear", "the answer can't be read", status=status)
        said = told(answer, rule, self.clock())
        if said.state in ("done", "failed", "refused"):
            return Outcome(said.state, said.why, said.task, said, status)
        if not said.task and status in (201, 202) and headers.get("location"):
            said = said._replace(task=urlsplit(headers["location"]).path.rstrip("/").rpartition("/")[2])  # named in its address alone
        if not said.task:
            why = said.why or reason_of(answer, rule)
            return Outcome("failed" if why else "unclear", why or "the answer names no task", "", said, status)
        return Outcome("sent", "", said.task, said, status)

    # What is free

    def ask(self, task: str) -> Told | None:
        """How a task stands; None where the service knows nothing of it. Raises httpx.HTTPError or Unreadable where it can't be told now."""
        if self.service.state is None:
            raise Unreadable("the profile says no way to ask for a task ([service.state])")
        status, _, answer = self._call(self.service.state, {"task": task}, None, {})
        if status in (404, 410):
            return None
        if not 200 <= status < 300 or answer is MISSING:
            raise Unreadable(f"the service answered {status}")
        return told(answer, self.service.answer, self.clock())

    def find(self, reference: str) -> list[Told]:
        """The tasks that bear our reference. Raises as ask does."""
        if self.service.find is None:
            raise Unreadable("the profile says no way to look a task up ([service.find])")
        status, _, answer = self._call(self.service.find, {"reference": reference}, None, {})
        if status in (404, 410):
            return []
        if not 200 <= status < 300 or answer is MISSING:
            raise Unreadable(f"the service answered {status}")
        return self._listed(answer)

    def listing(self) -> list[tuple[str, Told]]:
        """(Our reference, what is told) of every task that the service knows. Raises as ask does."""
        if self.service.listed is None:
            raise Unreadable("the profile says no way to list tasks ([service.listed])")
        status, _, answer = self._call(self.service.listed, {}, None, {})
        if not 200 <= status < 300 or answer is MISSING:
            raise Unreadable(f"the service answered {status}")
        found = at(answer, self.service.answer.listed) if self.service.answer.listed else answer
        pointer = self.service.reference
        return [(str(at(one, pointer)) if pointer and at(one, pointer) is not MISSING else "", told(one, self.service.answer, self.clock())) for one in found if isinstance(one, dict)] if isinstance(found, list) else []

    def _listed(self, answer: Any) -> list[Told]:
        pointer = self.service.answer.listed
        found = at(answer, pointer) if pointer else answer
        every = found if isinstance(found, list) else [found] if isinstance(found, dict) else []
        return [one for one in (told(item, self.service.answer, self.clock()) for item in every) if one.task]

    def cancel(self, task: str) -> Told | None:
        """Ask the service to leave a task; what it says, None where it says nothing. Raises as ask does."""
        if self.service.cancel is None:
            raise Unreadable("the profile says no way to cancel ([service.cancel])")
        status, _, answer = self._call(self.service.cancel, {"task": task}, None, {})
        if status >= 400:
            raise Unreadable(f"the service answered {status}")
        return None if answer is MISSING else told(answer, self.service.answer, self.clock())

    def fetch(self, address: str, target: Path) -> tuple[int, str]:
        """Write a result to a file; return its size and its type by the header. Authorisation goes to the service's own host only, and private networks
        are not asked unless the service is there itself. Raises httpx.HTTPError, Unreadable."""
        url = urljoin(self.service.address.rstrip("/") + "/", address)
        for _ in range(REDIRECTS + 1):
            parts = urlsplit(url)
            if parts.scheme not in ("http", "https"):
                raise Unreadable("its address is no web address")
            own = host_of(url) == self.host
            if not own and is_private(parts.hostname or "") and not self._private:
                raise Unreadable("its address is on a private network, where nothing is fetched")
            headers = {"User-Agent": AGENT, **(self._own if own else {})}
            with self._http.stream("GET", url, headers=headers) as answer:
                if answer.is_redirect:
                    url = urljoin(url, answer.headers.get("location", ""))
                    continue
                if answer.status_code in (401, 403, 404, 410):
                    raise Gone(answer.status_code)
                if answer.status_code != 200:
                    raise Unreadable(f"fetching it gave {answer.status_code}")
                size = 0
                with open(target, "wb") as file:
                    for part in answer.iter_bytes():
                        size += len(part)
                        if size > MOST_RESULT:
                            raise Unreadable("it is larger than any result")
                        file.write(part)
                said = answer.headers.get("content-length", "")
                if said.isdigit() and "content-encoding" not in answer.headers and int(said) != size:
                    raise Unreadable(f"it came in {size} bytes of {said}")
                return size, answer.headers.get("content-type", "").partition(";")[0].strip()
        raise Unreadable("its address leads on and on")

    def _call(self, call: Call, values: Mapping[str, str], body: Mapping[str, Any] | None, headers: Mapping[str, str]) -> tuple[int, Mapping[str, str], Any]:
        """(Status, headers, answer as JSON or MISSING). Raises httpx.HTTPError, Elsewhere, Unreadable."""
        path = call.path
        for name, value in values.items():
            path = path.replace(f"{{{name}}}", quote(value, safe=""))
        url = self.service.address.rstrip("/") + (path if path.startswith(("/", "?")) or not path else f"/{path}")
        sent = dict(body) if body is not None else dict(call.body) or None
        method = call.method
        for _ in range(REDIRECTS + 1):
            every = {"Accept": "application/json", "User-Agent": AGENT, **self.service.headers, **headers, **self._own}
            with (self._costly if call is self.service.submit else self._http).stream(method, url, json=sent, headers=every) as answer:
                if answer.is_redirect and answer.headers.get("location"):
                    url = urljoin(url, answer.headers["location"])
                    if host_of(url) != self.host:
                        raise Elsewhere(host_of(url))
                    if answer.status_code == 303:
                        method, sent = "GET", None
                    continue
                data = b""
                for part in answer.iter_bytes():
                    data += part
                    if len(data) > MOST_ANSWER:
                        raise Unreadable("its answer is larger than any answer")
                said = answer.headers.get("content-length", "")
                if said.isdigit() and "content-encoding" not in answer.headers and int(said) != len(data):
                    raise Unreadable("its answer was cut short")
                return answer.status_code, answer.headers, _json(data)
        raise Unreadable("its address leads on and on")


class Elsewhere(Exception):
    """A redirect to another host, to which nothing is sent."""


class Gone(Unreadable):
    """A result that can't be had at its address any more."""

    def __init__(self, status: int):
        super().__init__(f"its address does not give it any more ({status})")
        self.status = status


def _json(data: bytes) -> Any:
    try:
        return read_json(data.decode("utf-8-sig"))
    except (NoJson, UnicodeDecodeError, ValueError):
        return MISSING


def decoded(data: str) -> bytes:
    """A result that came in the answer: base64, or a data URL. Raises Unreadable."""
    body = data.partition(",")[2] if data.startswith("data:") else data
    try:
        return base64.b64decode("".join(body.split()), validate=True)
    except (binascii.Error, ValueError):
        raise Unreadable("what came in the answer is no file") from None


def host_of(address: str) -> str:
    """The host of an address, with its port where that is not the usual one."""
    parts = urlsplit(address)
    usual = {"http": 80, "https": 443}.get(parts.scheme)
    try:
        port = parts.port
    except ValueError:
        port = None
    return (parts.hostname or "").lower() + (f":{port}" if port and port != usual else "")


def is_loopback(host: str) -> bool:
    """Is a host this machine?"""
    name = host.rpartition(":")[0] if host.count(":") == 1 else host
    try:
        return ipaddress.ip_address(name.strip("[]")).is_loopback
    except ValueError:
        return name == "localhost"


def is_private(name: str) -> bool:
    """Does a name lead to a private network, to this machine, or nowhere?"""
    try:
        found = {info[4][0] for info in socket.getaddrinfo(name, None)}
    except (OSError, UnicodeError):
        return True
    return any(not ipaddress.ip_address(str(one).partition("%")[0]).is_global for one in found)


def retry_after(headers: Mapping[str, str], clock: float) -> float:
    """The seconds that a service asks to wait: a number, or a date; 0 where it says nothing."""
    said = headers.get("retry-after", "").strip()
    if said.replace(".", "", 1).isdigit():
        return min(float(said), 86_400.0)
    try:
        return min(max(0.0, parsedate_to_datetime(said).timestamp() - clock), 86_400.0) if said else 0.0
    except (ValueError, TypeError, IndexError):
        return 0.0


def _short(error: Exception) -> str:
    """What went wrong with a connection, without an address in it."""
    names = {
        "ConnectError": "the service can't be reached", "ConnectTimeout": "the service can't be reached", "ReadTimeout": "no answer came in time",
        "RemoteProtocolError": "the answer broke off", "ReadError": "the connection broke", "WriteError": "the connection broke", "WriteTimeout": "the connection stood still",
        "PoolTimeout": "no connection was free", "UnsupportedProtocol": "its address is no web address",
    }  # fmt: skip
    return names.get(type(error).__name__, str(error) if isinstance(error, Unreadable) else "the connection broke")


def secret_of(binding: Mapping[str, str], environment: Mapping[str, str]) -> str:
    """The secret that a binding names. Raises Trouble where it is not there."""
    if name := binding.get("env"):
        if not environment.get(name):
            raise Trouble(f"the environment variable {name}, which holds the secret, is not set", f"export {name}=… before sending")
        return environment[name].strip()
    if path := binding.get("file"):
        try:
            return Path(path).expanduser().read_text("utf-8").strip()
        except (OSError, UnicodeDecodeError):
            raise Trouble(f"the file {path}, which holds the secret, can't be read", "put it back, or bind the host anew") from None
    return ""
