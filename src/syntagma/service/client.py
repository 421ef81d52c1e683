"""The client of one service: what goes out, and what came of it. Whatever may have been charged is
unclear, unless the service says otherwise in so many words; that it knows nothing of a request is
not a proof.
"""

import base64
import binascii
import ipaddress
import json
import re
import socket
import ssl
import threading
import time
from collections.abc import Callable, Mapping
from contextlib import nullcontext
from email.utils import parsedate_to_datetime
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote, urljoin, urlsplit

import httpx

from syntagma.core.diagnostics import SyntagmaError, Trouble
from syntagma.core.models.profile import Call, Service
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.service.answers import MISSING, Told, at, put, reason_of, text_at, told

MOST_ANSWER = 64 << 20  # bytes of an answer in which results may be
MOST_TOLD = 4 << 20  # bytes of any other
MOST_RESULT = 4 << 30
MOST_PAGES = 1000  # of a list
LONGEST_TASK = 400  # letters of the number of a task
LONGEST_WAIT = 86_400.0
REDIRECTS = 4
AGENT = "syntagma"
_one_at_a_time = (
    threading.Lock()
)  # large replies are parsed one after the other: each takes several times its size
BLOT = "•••"  # put where a secret was


class Outcome(NamedTuple):
    """What came of a request. `kind`: sent (the service has it), done, refused, failed; unsent (it
    can't have arrived), away (turned away: try later), stop (nothing more can be sent: a wrong key,
    no credit); unclear. `sure`: it is certain that nothing was charged. `later`: seconds to wait.
    """

    kind: str
    why: str = ""
    task: str = ""
    told: Told = Told()
    status: int | None = None
    later: float = 0.0
    sure: bool = False


class Listing(NamedTuple):
    """A service's own list of tasks: (our reference, what is reported) of each, and why it proves
    nothing of what is not on it ("" if it does).
    """

    tasks: list[tuple[str, Told]]
    flaw: str = ""


@cache
def _trusted() -> ssl.SSLContext:
    """Whom the clients trust: read once, which takes longer than a request."""
    return httpx.create_ssl_context(trust_env=False)


class Unreadable(SyntagmaError):
    """An answer that can't be read, or did not come whole."""


class Client:
    """Speaks to one service. `secret` is what a person bound to its host; it is in a header and
    nowhere else.
    """

    def __init__(self, service: Service, secret: str = "", clock: Callable[[], float] = time.time):
        self.service, self.clock = service, clock
        self.host = origin_of(service.address)
        self._secret = (
            secret if len(secret) >= 4 else ""
        )  # what is blotted out of all that comes back
        self._private = is_private(
            urlsplit(service.address).hostname or ""
        )  # a service on a private network may have its results there
        name, _, value = service.secret.partition(":")
        self._own = {name.strip(): value.strip().replace("{secret}", secret)} if secret else {}
        self._most = MOST_ANSWER if service.answer.data else MOST_TOLD
        limits = httpx.Limits(
            max_connections=service.at_once + 2, max_keepalive_connections=service.at_once
        )
        timeout = httpx.Timeout(service.patience, connect=min(10.0, service.patience))
        # what costs goes over a connection of its own: one that was kept may be dead, and then
        # nobody knows whether the request arrived
        fresh = httpx.Limits(max_connections=service.at_once + 2, max_keepalive_connections=0)
        self._costly, self._http = (
            httpx.Client(
                verify=_trusted(),
                timeout=timeout,
                follow_redirects=False,
                limits=each,
                trust_env=False,
            )
            for each in (fresh, limits)
        )

    def close(self) -> None:
        self._http.close()
        self._costly.close()

    # What costs

    def submit(self, body: Mapping[str, Any], key: str, reference: str) -> Outcome:
        """Send a request for one take."""
        service = self.service
        headers = {service.key.header: key} if service.key else {}
        redirected: list[str] = []
        try:
            status, answered, answer = self._call(
                service.submit,
                {"reference": reference},
                self.whole(body, reference),
                headers,
                self._most,
                redirected,
            )
        except (
            httpx.ConnectError,
            httpx.ConnectTimeout,
            httpx.UnsupportedProtocol,
            httpx.PoolTimeout,
            httpx.LocalProtocolError,
            httpx.InvalidURL,
        ) as error:
            if redirected:
                return Outcome(
                    "unclear",
                    f"the request was sent, but the service redirected it to where {_short(error)}",
                )
            return Outcome("unsent", _short(error), sure=True)
        except Elsewhere as away:
            return Outcome(
                "stop",
                f"the service took the request and redirects to another host ({away}); it may have"
                " charged. Allow that host if you trust it",
            )
        except (httpx.TimeoutException, httpx.TransportError, Unreadable) as error:
            return Outcome("unclear", f"the request was sent, but {_short(error)}")
        outcome = self._judged(status, answered, answer)
        if redirected and outcome.kind not in ("sent", "done"):
            return outcome._replace(
                kind="stop" if outcome.kind == "stop" else "unclear",
                why=f"after a redirect: {outcome.why}",
                sure=False,
            )
        said = text_at(answer, service.answer.reference or service.reference)
        if outcome.kind in ("sent", "done") and said and said != reference:
            return Outcome(
                "unclear", "the service replied about a different request", status=status
            )
        return outcome

    def whole(self, body: Mapping[str, Any], reference: str) -> dict[str, Any]:
        """A request as it goes out."""
        made = dict(body) | self.service.submit.body
        return put(made, self.service.reference, reference) if self.service.reference else made

    def _judged(self, status: int, headers: Mapping[str, str], answer: Any) -> Outcome:
        """What an answer to a request that costs says. What turns it down by a status of its own
        (4xx) was not taken; what says so in between (408, 425, 429, 503) may come from something
        that comes before the service, or after a charge: that is certain only where the profile has
        it (`turned_away`).
        """
        service, rule = self.service, self.service.answer
        why = reason_of(answer, rule)
        if status in (408, 425, 429, 503, *service.turned_away) or (
            status == 409 and service.key
        ):  # 409: the same key is at work
            return Outcome(
                "away",
                why or f"the service is busy ({status})",
                status=status,
                later=retry_after(headers, self.clock()),
                sure=status in service.turned_away,
            )
        if status in (401, 403):
            return Outcome(
                "stop",
                f"the service refuses the key for {self.host} ({status}):"
                f" {why or 'no reason given'}",
                status=status,
                sure=True,
            )
        if status == 402:
            return Outcome(
                "stop",
                f"no credit is left at the service: {why}".rstrip(": "),
                status=status,
                sure=True,
            )
        if status in (404, 405):
            return Outcome(
                "stop",
                f"the service has no {service.submit.method} {service.submit.path} ({status}):"
                " check [service] in the profile",
                status=status,
                sure=True,
            )
        if 400 <= status < 500:
            return Outcome(
                "refused",
                why or f"the service gave {status} and no reason",
                status=status,
                sure=True,
            )
        if status >= 500 or not 200 <= status < 300:
            return Outcome("unclear", f"the service answered {status}", status=status)
        if answer is MISSING and not (status in (201, 202) and headers.get("location")):
            return Outcome("unclear", "the reply can't be read", status=status)
        said = told(answer, rule, self.clock())
        if not said.task and status in (201, 202) and headers.get("location"):
            said = said._replace(
                task=urlsplit(headers["location"]).path.rstrip("/").rpartition("/")[2]
            )  # named in its address alone
        if bad := unusable(said.task):
            return Outcome(
                "unclear",
                f"the reply names a task with an unusable number ({bad})",
                told=said._replace(task=""),
                status=status,
            )
        if (said.state == "done" and (said.task or said.results)) or (
            said.state in ("failed", "refused") and (said.task or said.charged is not None)
        ):
            return Outcome(said.state, said.why, said.task, said, status)
        if not said.task:  # whatever it says of a fault: it was taken, and nobody says what it cost
            return Outcome(
                "unclear", said.why or why or "the reply names no task", "", said, status
            )
        return Outcome("sent", "", said.task, said, status)

    # What is free

    def ask(self, task: str) -> Told | None:
        """The state of a task; None if the service knows nothing of it. Raises httpx.HTTPError or
        Unreadable if it can't be determined now.
        """
        if self.service.state is None:
            raise Unreadable("the profile has no call to check a task ([service.state])")
        status, _, answer = self._call(self.service.state, {"task": task}, None, {}, self._most)
        if status in (404, 410):
            return None
        if not 200 <= status < 300 or answer is MISSING:
            raise Unreadable(f"the service answered {status}")
        found = told(answer, self.service.answer, self.clock())
        if found.task and found.task != task:
            raise Mistaken("the service replied about another task")
        if found.state == "failed" and not found.word and self.service.answer.state:
            raise Unreadable(f"the service says “{found.why}” but not the state of the task")
        return found

    def find(self, reference: str) -> list[Told]:
        """The tasks that bear our reference; none proves nothing. Raises as ask does."""
        return [
            found
            for said, found in self._found(reference)
            if said == reference and not unusable(found.task)
        ]

    def finds_others(self, reference: str) -> int:
        """How many tasks a look-up gives that do not bear our reference. Raises as ask does."""
        return sum(said != reference for said, _ in self._found(reference))

    def _found(self, reference: str) -> list[tuple[str, Told]]:
        if self.service.find is None or not self._bears:
            raise Unreadable(
                "the profile has no call to look up a task ([service.find], and reference for our"
                " own number)"
            )
        status, _, answer = self._call(self.service.find, {"reference": reference}, None, {})
        if status in (404, 410):
            return []
        if not 200 <= status < 300 or answer is MISSING:
            raise Unreadable(f"the service answered {status}")
        return self._members(answer)[0]

    @property
    def _bears(self) -> str:
        """Where our own number of an attempt is in what is reported of a task."""
        return self.service.answer.reference or self.service.reference

    def listing(self) -> Listing:
        """The service's own list, all its pages. Raises as ask does."""
        if self.service.listed is None:
            raise Unreadable("the profile has no call to list tasks ([service.listed])")
        tasks: list[tuple[str, Told]] = []
        flaw, next_page, seen = "", "", set()
        for _ in range(MOST_PAGES):
            status, headers, answer = self._call(
                self.service.listed, {}, None, {}, MOST_ANSWER, page=next_page
            )
            if not 200 <= status < 300 or answer is MISSING:
                raise Unreadable(f"the service answered {status}")
            found, wrong = self._members(answer)
            tasks += found
            flaw = flaw or wrong
            next_page = text_at(answer, self.service.answer.next)
            if not next_page:
                flaw = flaw or _goes_on(answer, headers)
                return Listing(tasks, flaw)
            if next_page in seen:
                return Listing(tasks, "its pages link in a circle")
            seen.add(next_page)
        return Listing(tasks, "it has too many pages")

    def _members(self, answer: Any) -> tuple[list[tuple[str, Told]], str]:
        """(Our reference, what is reported) of each task in a list, and what is wrong with the
        list.
        """
        rule = self.service.answer
        found = at(answer, rule.listed) if rule.listed else answer
        if reason_of(answer, rule) and not isinstance(found, list):
            return [], f"the service says: {reason_of(answer, rule)}"
        if not isinstance(found, list):
            return [], "the list is not where the profile says ([service.answer] listed)"
        tasks, wrong = [], ""
        for one in found:
            said = text_at(one, self._bears) if isinstance(one, dict) else ""
            known = told(one, rule, self.clock()) if isinstance(one, dict) else Told()
            if not known.task:
                wrong = "some of it is not a task"
            else:
                tasks.append((said, known))
        return tasks, wrong

    def cancel(self, task: str) -> Told | None:
        """Ask the service to leave a task; what it says, None if it says nothing. Raises as ask
        does.
        """
        if self.service.cancel is None:
            raise Unreadable("the profile has no call to cancel ([service.cancel])")
        status, _, answer = self._call(self.service.cancel, {"task": task}, None, {})
        if status >= 400:
            raise Unreadable(f"the service answered {status}")
        return None if answer is MISSING else told(answer, self.service.answer, self.clock())

    def fetch(self, address: str, target: Path) -> tuple[int, str]:
        """Write a result to a file; return its size and its type by the header. Authorisation goes
        to the service's own host only, and private networks are not asked unless the service is
        there itself. Raises httpx.HTTPError, Unreadable.
        """
        try:
            url = urljoin(self.service.address.rstrip("/") + "/", address)
            until = self.clock() + max(600.0, self.service.patience * 10)
            for _ in range(REDIRECTS + 1):
                parts = urlsplit(url)
                if parts.scheme not in ("http", "https"):
                    raise Unreadable("its address is not a web address")
                own = origin_of(url) == self.host
                if not own and is_private(parts.hostname or "") and not self._private:
                    raise Unreadable(
                        "its address is on a private network, from which Syntagma downloads nothing"
                    )
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
                                raise Unreadable("it is too large for a result")
                            if self.clock() > until:
                                raise Unreadable("it came too slowly")
                            file.write(part)
                    said = answer.headers.get("content-length", "")
                    if (
                        said.isdigit()
                        and "content-encoding" not in answer.headers
                        and int(said) != size
                    ):
                        raise Unreadable(f"it came in {size} bytes of {said}")
                    return size, self._blotted(
                        answer.headers.get("content-type", "").partition(";")[0].strip()
                    )
        except (ValueError, httpx.InvalidURL, UnicodeError):
            raise Unreadable("its address can't be read") from None
        raise Unreadable("its address redirects too often")

    def _call(
        self,
        call: Call,
        values: Mapping[str, str],
        body: Mapping[str, Any] | None,
        headers: Mapping[str, str],
        most: int = MOST_TOLD,
        redirected: list[str] | None = None,
        page: str = "",
    ) -> tuple[int, Mapping[str, str], Any]:
        """(Status, headers, answer as JSON or MISSING), the secret blotted out. `redirected` gets
        the addresses that it was sent on to; `page` is what the page before named as the next.
        Raises httpx.HTTPError, Elsewhere, Unreadable.
        """
        path = call.path
        for name, value in values.items():
            path = path.replace(f"{{{name}}}", quote(value, safe=""))
        url = self.service.address.rstrip("/") + (
            path if path.startswith(("/", "?")) or not path else f"/{path}"
        )
        if page:
            url = self._next_page(url, page)
        sent = dict(body) if body is not None else dict(call.body) or None
        method = call.method
        until = self.clock() + self.service.patience
        for _ in range(REDIRECTS + 1):
            every = {
                "Accept": "application/json",
                "User-Agent": AGENT,
                **self.service.headers,
                **headers,
                **self._own,
            }
            with (self._costly if call is self.service.submit else self._http).stream(
                method, url, json=sent, headers=every
            ) as answer:
                if answer.is_redirect and answer.headers.get("location"):
                    if redirected is not None:
                        redirected.append(url)
                    try:
                        url = urljoin(url, answer.headers["location"])
                        host = origin_of(url)
                    except ValueError:
                        raise Unreadable("it redirects to an address that can't be read") from None
                    if host != self.host:
                        raise Elsewhere(host)
                    if answer.status_code == 303:
                        method, sent = "GET", None
                    continue
                data = bytearray()
                for part in answer.iter_bytes():
                    data += part
                    if len(data) > most:
                        raise Unreadable("its reply is too large")
                    if (
                        self.clock() > until
                    ):  # patience is for the whole of an answer: one that drips is none
                        raise Unreadable("its reply was not complete in time")
                said = answer.headers.get("content-length", "")
                if (
                    said.isdigit()
                    and "content-encoding" not in answer.headers
                    and int(said) != len(data)
                ):
                    raise Unreadable("its reply was cut short")
                told_headers = {
                    name.lower(): self._blotted(value) for name, value in answer.headers.items()
                }
                with _one_at_a_time if len(data) > MOST_TOLD else nullcontext():
                    return answer.status_code, told_headers, _json(self._blotted_bytes(bytes(data)))
        raise Unreadable("its address redirects too often")

    def _next_page(self, url: str, page: str) -> str:
        """The address of the next page of a list: an address on the service's own host, or what
        goes behind ?…. Raises Unreadable.
        """
        try:
            found = urljoin(url, page)
            if origin_of(found) != self.host:
                raise Elsewhere(origin_of(found))
            return found
        except (ValueError, Elsewhere):
            raise Unreadable("its list continues at another host") from None

    def _blotted(self, text: str) -> str:
        return text.replace(self._secret, BLOT) if self._secret else text

    def _blotted_bytes(self, data: bytes) -> bytes:
        """An answer without the secret, in whatever of the usual spellings it is there."""
        if not self._secret:
            return data
        for said in {
            self._secret,
            json.dumps(self._secret)[1:-1],
            json.dumps(self._secret, ensure_ascii=False)[1:-1],
            quote(self._secret, safe=""),
        }:
            data = data.replace(said.encode(), BLOT.encode())
        return data


class Elsewhere(SyntagmaError):
    """A redirect to another host, to which nothing is sent."""


class Mistaken(Unreadable):
    """An answer about something else than what was asked for."""


class Gone(Unreadable):
    """A result that can't be obtained at its address any more."""

    def __init__(self, status: int):
        super().__init__(f"its address no longer has it ({status})")
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
        raise Unreadable("the reply does not contain a file") from None


def origin_of(address: str) -> str:
    """What a person binds a secret to: the scheme, the host, and the port if that is not the usual
    one. An address that says no scheme is one of https, on this machine of http. Raises ValueError
    if it is none.
    """
    whole = address if "://" in address else f"https://{address}"
    parts = urlsplit(whole)
    host = (parts.hostname or "").lower()
    scheme = "http" if "://" not in address and is_loopback(host) else parts.scheme.lower()
    port = parts.port
    usual = {"http": 80, "https": 443}.get(scheme)
    return f"{scheme}://{f'[{host}]' if ':' in host else host}" + (
        f":{port}" if port and port != usual else ""
    )


def is_loopback(host: str) -> bool:
    """Is a host, by name or by address, this machine?"""
    name = (urlsplit(host).hostname or "") if "://" in host else host.strip("[]")
    try:
        return ipaddress.ip_address(name).is_loopback
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
    """The seconds that a service asks to wait: a number, or a date; 0 if it says nothing."""
    said = headers.get("retry-after", "").strip()
    try:
        if re.fullmatch(r"[0-9]{1,9}(\.[0-9]{0,6})?", said):
            return min(float(said), LONGEST_WAIT)
        return (
            min(max(0.0, parsedate_to_datetime(said).timestamp() - clock), LONGEST_WAIT)
            if said
            else 0.0
        )
    except (ValueError, TypeError, IndexError, OverflowError):
        return 0.0


def unusable(task: str) -> str:
    """Why the number of a task can't be used; "" if it can."""
    if len(task) > LONGEST_TASK:
        return f"its number has {len(task)} letters"
    return (
        ""
        if task.isprintable() and task not in (".", "..")
        else "its number contains unusual signs"
    )


def _goes_on(answer: Any, headers: Mapping[str, str]) -> str:
    """Whether a list says that there is more of it than is here, in any of the usual ways; "" if it
    does not.
    """
    if 'rel="next"' in headers.get("link", "") or "rel=next" in headers.get("link", ""):
        return "it continues on another page"
    for table in (answer, *(answer.values() if isinstance(answer, dict) else ())):
        for name, value in table.items() if isinstance(table, dict) else ():
            plain = "".join(letter for letter in str(name).lower() if letter.isalpha())
            if (plain.startswith("next") or plain in _MORE) and value not in (
                None,
                False,
                "",
                0,
                [],
                {},
            ):
                return (
                    f"it continues on another page (“{name}”): say where to find it, in"
                    " [service.answer] next"
                )
    return ""


_MORE = (
    "hasmore",
    "more",
    "hasnext",
    "hasnextpage",
    "cursor",
    "continuation",
    "continuationtoken",
    "truncated",
    "istruncated",
)


def _short(error: Exception) -> str:
    """What went wrong with a connection, without an address in it."""
    names = {
        "ConnectError": "the service can't be reached",
        "ConnectTimeout": "the service can't be reached",
        "ReadTimeout": "no reply came in time",
        "RemoteProtocolError": "the reply broke off",
        "ReadError": "the connection broke",
        "WriteError": "the connection broke",
        "WriteTimeout": "the connection stalled",
        "PoolTimeout": "no connection was free",
        "UnsupportedProtocol": "its address is not a web address",
        "InvalidURL": "its address can't be read",
        "LocalProtocolError": "its headers can't be sent",
    }
    return names.get(
        type(error).__name__,
        str(error) if isinstance(error, Unreadable) else "the connection broke",
    )


def secret_of(binding: Mapping[str, str], environment: Mapping[str, str]) -> str:
    """The secret that a binding names. Raises Trouble if it is not there."""
    if name := binding.get("env"):
        if not environment.get(name):
            raise Trouble(
                f"the environment variable {name} with the secret is not set",
                f"set it before sending: export {name}=…",
            )
        return _sendable(environment[name].strip(), f"the environment variable {name}")
    if path := binding.get("file"):
        try:
            return _sendable(Path(path).expanduser().read_text("utf-8").strip(), f"the file {path}")
        except (OSError, UnicodeDecodeError):
            raise Trouble(
                f"the file {path} with the secret can't be read",
                "put it back, or allow the host again",
            ) from None
    return ""


def _sendable(secret: str, where: str) -> str:
    """A secret that can are in a header. Raises Trouble."""
    if not secret.isascii() or not secret.isprintable():
        raise Trouble(
            f"the content of {where} can't be part of a header",
            "a secret is one line of plain letters, digits and signs",
        )
    return secret
