"""The client of a service, each way that an answer can go; what answers say; what a file that came is."""

import json
import socket
import struct
import threading
import time

import httpx
import pytest

from syntagma.core.diagnostics import Trouble
from syntagma.core.models.profile import Answer, Call, Key, Service
from syntagma.service import client as rooms
from syntagma.service.answers import MISSING, Told, at, expiry, put, reason_of, told
from syntagma.service.client import (
    Client,
    Gone,
    Mistaken,
    Unreadable,
    decoded,
    is_loopback,
    is_private,
    origin_of,
    retry_after,
    secret_of,
    unusable,
)
from tests.commands.odd_services import PNG, Other, serving

ANSWER = Answer(
    task="/no",
    state="/phase",
    results="/things",
    address="/at",
    charged="/paid",
    wrong="/oops",
    listed="/all",
    done=["over"],
    waiting=["going"],
    failed=["broken"],
    refused=["no"],
)


def made(address, **changed):
    calls = {
        "submit": Call(method="POST", path="/work"),
        "state": Call(path="/work/{task}"),
        "find": Call(path="/work?mark={reference}"),
        "listed": Call(path="/work"),
        "cancel": Call(method="DELETE", path="/work/{task}"),
    }
    return Service(
        address=address,
        **{"reference": "/mark", "answer": ANSWER, "patience": 1, **calls, **changed},
    )


def asked(reply, call, **changed):
    """What a call of the client gives where every request is answered so."""
    with serving(Other(reply if callable(reply) else lambda *_: reply)) as server:
        client = Client(made(server.address, **changed))
        try:
            return call(client)
        finally:
            client.close()


@pytest.mark.parametrize(("answer", "kind", "sure"), [
    ((202, {}, {"no": "t1", "phase": "going"}), "sent", False), ((200, {}, {"no": 17}), "sent", False), ((201, {"Location": "/work/t7"}, b""), "sent", False),
    ((200, {}, {"no": "t1", "phase": "broken"}), "failed", False), ((200, {}, {"no": "t1", "phase": "no", "oops": "no hens"}), "refused", False), ((200, {}, {"phase": "broken", "paid": 0}), "failed", False),
    ((200, {}, {"phase": "over"}), "unclear", False), ((200, {}, {"phase": "broken"}), "unclear", False), ((200, {}, {"oops": "no"}), "unclear", False), ((204, {}, b""), "unclear", False), ((500, {}, {}), "unclear", False), ((199, {}, {}), "unclear", False),
    ((400, {}, {"oops": "no hens"}), "refused", True), ((422, {}, b""), "refused", True), ((401, {}, {}), "stop", True), ((403, {}, {"oops": "who?"}), "stop", True), ((402, {}, {}), "stop", True), ((404, {}, {}), "stop", True), ((405, {}, {}), "stop", True),
    ((408, {}, {}), "away", False), ((425, {}, {}), "away", False), ((429, {"Retry-After": "7"}, {}), "away", False), ((503, {}, {}), "away", False), ((409, {}, {}), "refused", True),
])  # fmt: skip
def test_what_is_answered_to_a_request(answer, kind, sure):
    outcome = asked(answer, lambda client: client.submit({"say": "x"}, "k", "m"))
    assert (outcome.kind, outcome.sure) == (kind, sure) and (
        kind != "away" or outcome.later == (7.0 if answer[1] else 0.0)
    )


def test_what_is_answered_while_the_same_key_is_at_work():
    assert (
        asked((409, {}, {}), lambda client: client.submit({}, "k", "m"), key=Key()).kind == "away"
    )
    assert asked((429, {}, {}), lambda client: client.submit({}, "k", "m"), turned_away=[429]).sure


def test_what_goes_out():
    seen = []

    def answer(method, path, body):
        seen.append((method, path, json.loads(body)))
        return 202, {}, {"no": "t1", "phase": "going", "mark": "m/1"}

    assert (
        asked(
            answer,
            lambda client: client.submit({"say": "x"}, "k", "m/1"),
            submit=Call(method="PUT", path="work/{reference}", body={"queue": "slow"}),
            reference="/our/mark",
            answer=Answer(task="/no", reference="/mark"),
        ).task
        == "t1"
    )
    assert seen == [("PUT", "/work/m%2F1", {"say": "x", "queue": "slow", "our": {"mark": "m/1"}})]


@pytest.mark.parametrize(
    "address", ["http://127.0.0.1:1", "http://nowhere.invalid", "http://[::1]:1"]
)
def test_what_can_t_have_arrived(address):
    outcome = Client(made(address)).submit({}, "k", "m")
    assert (outcome.kind, outcome.sure) == ("unsent", True)


def test_headers_that_can_t_be_sent_send_nothing():
    client = Client(made("http://127.0.0.1:1", headers={"X": "a\nb"}))
    assert client.submit({}, "k", "m").kind == "unsent"


@pytest.mark.parametrize(
    ("where", "kind", "sure"),
    [
        ("/other", "sent", False),
        ("http://127.0.0.1:1/x", "stop", False),
        ("http://[bad", "unclear", False),
        ("/loop", "unclear", False),
    ],
)
def test_a_request_that_is_sent_on(where, kind, sure):
    def answer(method, path, body):
        return (
            (307, {"Location": where}, {})
            if path != "/other"
            else (200, {}, {"no": "t1", "phase": "going"})
        )

    outcome = asked(answer, lambda client: client.submit({}, "k", "m"))
    assert (outcome.kind, outcome.sure) == (kind, sure)


def test_after_303_it_is_asked_without_a_body():
    seen = []

    def answer(method, path, body):
        seen.append((method, body))
        return (303, {"Location": "/there"}, {}) if path == "/work" else (200, {}, {"no": "t1"})

    assert asked(
        answer, lambda client: client.submit({"say": "x"}, "k", "m")
    ).kind == "sent" and seen[1] == ("GET", b"")


def raw(answer, pause=0.0):
    """A service that sends these bytes to whoever calls, and then closes; a bit at a time where there is a pause."""
    server = socket.create_server(("127.0.0.1", 0))

    def serve():
        while True:
            try:
                link, _ = server.accept()
            except OSError:
                return
            with link:
                link.settimeout(5)
                try:
                    link.recv(65536)
                    for n in range(0, len(answer), 4 if pause else len(answer) or 1):
                        link.sendall(answer[n : n + 4 if pause else len(answer)])
                        time.sleep(pause)
                except OSError:
                    pass

    threading.Thread(target=serve, daemon=True).start()
    return server, f"http://127.0.0.1:{server.getsockname()[1]}"


HEAD = b"HTTP/1.1 200 OK\r\nContent-Length: %d\r\n\r\n"


@pytest.mark.parametrize(("answer", "pause", "why"), [
    (HEAD % 900 + b"{}", 0, "broke"), (b"", 0, "broke"), (HEAD % 2000 + b" " * 2000, 0.02, "in time"), (b"nonsense\r\n\r\n", 0, "broke off"),
])  # fmt: skip
def test_an_answer_that_does_not_come_whole(answer, pause, why):
    server, address = raw(answer, pause)
    with server:
        outcome = Client(made(address)).submit({}, "k", "m")
    assert outcome.kind == "unclear" and why in outcome.why


def test_an_answer_that_is_too_large(monkeypatch):
    monkeypatch.setattr(rooms, "MOST_TOLD", 20)
    assert (
        "too large"
        in asked((200, {}, {"no": "x" * 99}), lambda client: client.submit({}, "k", "m")).why
    )


def test_a_length_that_is_not_the_length(monkeypatch):
    client = Client(made("http://service.example"), "secret-key")

    class Lying(httpx.SyncByteStream):
        def __iter__(self):
            yield b"{}"

    transport = httpx.MockTransport(
        lambda request: httpx.Response(200, headers={"Content-Length": "9"}, stream=Lying())
    )
    client._costly = client._http = httpx.Client(transport=transport)
    assert "cut short" in client.submit({}, "k", "m").why
    monkeypatch.setattr(rooms, "is_private", lambda name: False)
    with pytest.raises(Unreadable, match="2 bytes of 9"):
        client.fetch("/x.png", __import__("pathlib").Path("/dev/null"))


# What is free


@pytest.mark.parametrize(("answer", "found"), [
    ((200, {}, {"no": "t1", "phase": "over"}), "over"), ((404, {}, {}), None), ((410, {}, {}), None), ((500, {}, {}), Unreadable), ((200, {}, b"<html>"), Unreadable), ((200, {}, {"no": "t2", "phase": "over"}), Mistaken), ((200, {}, {"oops": "later"}), Unreadable),
])  # fmt: skip
def test_a_task_that_is_asked_for(answer, found):
    if found in (Unreadable, Mistaken):
        with pytest.raises(found):
            asked(answer, lambda client: client.ask("t1"))
    else:
        said = asked(answer, lambda client: client.ask("t1"))
        assert (said.word if said else None) == found


@pytest.mark.parametrize(("answer", "number"), [
    ((200, {}, {"all": [{"no": "t1", "mark": "m"}, {"no": "t2", "mark": "n"}, {"mark": "m"}, 4]}), 1), ((200, {}, {"all": {"no": "t1", "mark": "m"}}), 0), ((404, {}, {}), 0), ((200, {}, {"oops": "x"}), 0), ((500, {}, {}), None), ((200, {}, b"x"), None),
])  # fmt: skip
def test_a_look_up(answer, number):
    if number is None:
        with pytest.raises(Unreadable):
            asked(answer, lambda client: client.find("m"))
    else:
        assert len(asked(answer, lambda client: client.find("m"))) == number


@pytest.mark.parametrize("call", ["ask", "find", "listing", "cancel"])
def test_what_a_profile_does_not_say_can_t_be_asked(call):
    client = Client(Service(address="http://127.0.0.1:1"))
    with pytest.raises(Unreadable, match="the profile has no call"):
        getattr(client, call)(*([] if call == "listing" else ["t1"]))


def test_a_list_without_end(monkeypatch):
    monkeypatch.setattr(rooms, "MOST_PAGES", 3)
    pages = iter(range(99))
    answer = Answer(task="/no", listed="/all", next="/more", reference="/mark")
    found = asked(
        lambda *_: (200, {}, {"all": [], "more": f"?p={next(pages)}"}),
        lambda client: client.listing(),
        answer=answer,
    )
    assert found.flaw == "it has too many pages"
    with pytest.raises(Unreadable, match="answered 500"):
        asked((500, {}, {}), lambda client: client.listing())
    assert (
        "another page"
        in asked(
            (200, {"Link": '</work?p=2>; rel="next"'}, {"all": []}), lambda client: client.listing()
        ).flaw
    )
    assert (
        asked(
            (200, {}, {"all": [], "next": None, "hasMore": False, "cursor": ""}),
            lambda client: client.listing(),
        ).flaw
        == ""
    )
    assert (
        asked((200, {}, []), lambda client: client.listing(), answer=Answer(task="/no")).flaw == ""
    )


@pytest.mark.parametrize(
    ("answer", "word"),
    [
        ((200, {}, {"no": "t1", "phase": "gone"}), "gone"),
        ((204, {}, b""), None),
        ((409, {}, {}), Unreadable),
    ],
)
def test_a_task_that_is_cancelled(answer, word):
    if word is Unreadable:
        with pytest.raises(Unreadable):
            asked(answer, lambda client: client.cancel("t1"))
    else:
        said = asked(answer, lambda client: client.cancel("t1"))
        assert (said.word if said else None) == word


@pytest.mark.parametrize(("answer", "why"), [
    ((200, {}, PNG), ""), ((403, {}, b""), Gone), ((410, {}, b""), Gone), ((500, {}, b""), "gave 500"), ((302, {"Location": "/again"}, b""), "redirects too often"), ((302, {"Location": "ftp://x/y"}, b""), "not a web address"), ((302, {"Location": "http://[bad"}, b""), "can't be read"),
])  # fmt: skip
def test_a_result_that_is_fetched(answer, why, tmp_path):
    def fetched(client):
        return client.fetch("/x.png", tmp_path / "x")

    if not why:
        assert asked(answer, fetched)[0] == len(PNG) and (tmp_path / "x").read_bytes() == PNG
    else:
        with pytest.raises(why if why is Gone else Unreadable, match=None if why is Gone else why):
            asked(answer, fetched)


def test_a_result_that_is_too_large_or_too_slow(tmp_path, monkeypatch):
    monkeypatch.setattr(rooms, "MOST_RESULT", 10)
    with pytest.raises(Unreadable, match="too large for a result"):
        asked((200, {}, PNG), lambda client: client.fetch("/x.png", tmp_path / "x"))
    monkeypatch.setattr(rooms, "MOST_RESULT", 1 << 20)
    times = iter([0.0, *[9e9] * 9])
    with pytest.raises(Unreadable, match="too slowly"):
        asked(
            (200, {}, PNG),
            lambda client: (
                setattr(client, "clock", lambda: next(times)),
                client.fetch("/x.png", tmp_path / "x"),
            ),
        )


def test_private_networks_are_not_asked(tmp_path, monkeypatch):
    monkeypatch.setattr(rooms, "is_private", lambda name: name.startswith("10."))
    with pytest.raises(Unreadable, match="private network"):
        Client(made("http://public.example")).fetch("http://10.0.0.1/x", tmp_path / "x")
    assert is_private("nowhere.invalid") and is_private("127.0.0.1") and not is_private("8.8.8.8")


def test_a_secret_goes_to_its_own_origin_alone(tmp_path):
    with (
        serving(Other(lambda *_: (200, {}, PNG))) as elsewhere,
        serving(
            Other(
                lambda method, path, body: (
                    (302, {"Location": f"{elsewhere.address}/x"}, b"")
                    if path == "/x"
                    else (200, {"X-Echo": "geheim-99"}, {"no": "geheim-99", "phase": "going"})
                )
            )
        ) as server,
    ):
        client = Client(made(server.address), "geheim-99")
        client.fetch("/x", tmp_path / "x")
        assert client.submit({}, "k", "m").task == "•••"
    assert "geheim-99" in str(server.asked) and "geheim-99" not in str(elsewhere.asked)
    assert (
        Client(made("http://a.example"), "abc")._secret == ""
    )  # too short to be reported from other words


# Small things


@pytest.mark.parametrize(("said", "origin"), [
    ("api.example", "https://api.example"), ("https://API.example:443/v2", "https://api.example"), ("http://api.example:80", "http://api.example"), ("http://api.example:8080/x", "http://api.example:8080"), ("127.0.0.1:8787", "http://127.0.0.1:8787"),
    ("localhost", "http://localhost"), ("http://[::1]:5", "http://[::1]:5"), ("https://user@api.example", "https://api.example"),
])  # fmt: skip
def test_an_origin(said, origin):
    assert origin_of(said) == origin and is_loopback(origin) == (
        "127" in said or "localhost" in said or "::1" in said
    )


@pytest.mark.parametrize(
    ("said", "seconds"),
    [
        ("3", 3.0),
        ("1.5", 1.5),
        ("²", 0.0),
        ("", 0.0),
        ("soon", 0.0),
        ("9" * 30, 0.0),
        ("999999", 86400.0),
        ("Thu, 01 Jan 1970 00:01:40 GMT", 90.0),
        ("Thu, 99 Jan 1970", 0.0),
    ],
)
def test_how_long_to_wait(said, seconds):
    assert retry_after({"retry-after": said}, 10.0) == seconds


@pytest.mark.parametrize(
    ("task", "bad"), [("t1", False), ("x" * 401, True), ("a\nb", True), ("..", True), ("é", False)]
)
def test_a_number_of_a_task(task, bad):
    assert bool(unusable(task)) == bad


def test_a_secret_as_it_is_bound(tmp_path):
    (tmp_path / "key").write_text(" abc \n")
    (tmp_path / "odd").write_bytes(b"\xff")
    (tmp_path / "naïve").write_text("naïve")
    assert (
        secret_of({}, {}) == ""
        and secret_of({"env": "K"}, {"K": " abc "})
        == secret_of({"file": str(tmp_path / "key")}, {})
        == "abc"
    )
    for binding in (
        {"env": "K"},
        {"file": str(tmp_path / "none")},
        {"file": str(tmp_path / "odd")},
        {"file": str(tmp_path / "naïve")},
    ):
        with pytest.raises(Trouble):
            secret_of(binding, {})
    assert decoded("data:image/png;base64,aGk=") == decoded("aGk=\n") == b"hi"
    with pytest.raises(Unreadable):
        decoded("no base64!")


@pytest.mark.parametrize(
    ("pointer", "found"),
    [
        ("", MISSING),
        ("/a/b", 1),
        ("/a/c", MISSING),
        ("/l/1", 3),
        ("/l/-1", 3),
        ("/l/9", MISSING),
        ("/l/x", MISSING),
        ("/x~1y", 4),
        ("/~0", 5),
        ("/a/b/c", MISSING),
    ],
)
def test_a_pointer(pointer, found):
    assert at({"a": {"b": 1}, "l": [2, 3], "x/y": 4, "~": 5}, pointer) == found


def test_something_put_at_a_pointer():
    body = {"a": {"b": 1}, "s": "text"}
    assert (
        put(body, "/a/c", 2) == {"a": {"b": 1, "c": 2}, "s": "text"}
        and put(body, "/s/x/y", 3)["s"] == {"x": {"y": 3}}
        and body == {"a": {"b": 1}, "s": "text"}
    )


@pytest.mark.parametrize(("answer", "rule", "said"), [
    ({"s": True, "u": ["/x.png"]}, Answer(state="/s", done=["true"], results="/u"), ("done", 1)), ({"s": "OK", "u": "/x"}, Answer(state="/s", done=["ok"], results="/u"), ("done", 1)), ({"u": [{"a": ""}, {"a": "/x"}]}, Answer(results="/u", address="/a"), ("done", 1)),
    ({"s": "hm"}, Answer(state="/s", done=["ok"]), ("", 0)), ({"e": {"code": 5, "message": "bad"}}, Answer(wrong="/e"), ("failed", 0)), ({"e": []}, Answer(wrong="/e"), ("", 0)), ({"s": "run", "e": ["x", "y"]}, Answer(state="/s", waiting=["run"], wrong="/e"), ("failed", 0)),
])  # fmt: skip
def test_what_an_answer_says(answer, rule, said):
    found = told(answer, rule, 0.0)
    assert (found.state, len(found.results)) == said


@pytest.mark.parametrize(
    ("value", "until"),
    [
        (None, 0.0),
        (True, 0.0),
        ("60", 160.0),
        (2e9, 2e9),
        (2e12, 2e9),
        ("1970-01-01T00:05:00Z", 300.0),
        ("1970-01-01T00:05:00", 300.0),
        ("Thu, 01 Jan 1970 00:05:00 GMT", 300.0),
        ("soon", 0.0),
        ([], 0.0),
        ("x, 99 y", 0.0),
    ],
)
def test_until_when(value, until):
    assert expiry(value, 100.0) == until


@pytest.mark.parametrize(
    ("paid", "charged"),
    [
        (4, 4.0),
        ("1.50 EUR", 1.5),
        ("€2", 2.0),
        (-1, None),
        ("nan", None),
        ("1e5", 100000.0),
        (True, None),
        ({}, None),
    ],
)
def test_a_charge(paid, charged):
    assert told({"no": "t", "paid": paid}, ANSWER, 0.0).charged == charged and isinstance(
        told({}, ANSWER, 0.0), Told
    )


@pytest.mark.parametrize(("answer", "why"), [
    ({"error": "no"}, "no"), ({"detail": [{"message": "a"}, "b"]}, "a; b"), ({"errors": {"x": 1, "y": [2]}}, "x: 1"), ([], ""), ({"oops": 5}, "5"), ({"message": ""}, ""), ({"error": {"title": "t"}}, "t"),
])  # fmt: skip
def test_a_reason(answer, why):
    assert reason_of(answer, ANSWER) == why


# Files


def jpeg(width=3, height=2, end=b"\xff\xd9"):
    frame = b"\xff\xc0" + struct.pack(">HBHHB", 11, 8, height, width, 1) + b"\1\x11\0"
    return (
        b"\xff\xd8\xff\xe0"
        + struct.pack(">H", 4)
        + b"ab"
        + b"\xff"
        + frame
        + b"\xff\xda\0\2"
        + b"data"
        + end
    )


def box(kind, body=b"", length=None):
    return struct.pack(">I4s", len(body) + 8 if length is None else length, kind) + body


def riff(kind, body):
    return b"RIFF" + struct.pack("<I", len(body) + 4) + kind + body


@pytest.mark.parametrize(("data", "ending", "size"), [
    (PNG, ".png", (1, 1)), (jpeg(), ".jpg", (3, 2)), (b"GIF89a" + struct.pack("<HH", 5, 4) + b"\0\0\0;", ".gif", (5, 4)),
    (riff(b"WEBP", b"VP8X" + struct.pack("<I", 10) + b"\0\0\0\0" + (6).to_bytes(3, "little") + (4).to_bytes(3, "little")), ".webp", (7, 5)),
    (riff(b"WEBP", b"VP8L" + struct.pack("<I", 10) + b"\x2f" + (6 | 4 << 14).to_bytes(4, "little") + b"\0" * 8), ".webp", (7, 5)),
    (riff(b"WEBP", b"VP8 " + struct.pack("<I", 10) + b"\0\0\0\x9d\1\x2a" + struct.pack("<HH", 7, 5) + b"\0" * 8), ".webp", (7, 5)), (riff(b"WEBP", b"ANIM" + b"\0" * 20), ".webp", None), (riff(b"WAVE", b"fmt " + b"\0" * 30), ".wav", None),
    (box(b"ftyp", b"isom") + box(b"moov", b"x") + box(b"mdat", b"y", 0), ".mp4", None), (box(b"ftyp", b"isom") + struct.pack(">I4sQ", 1, b"moov", 20) + b"abcd", ".mp4", None),
    (b"%PDF-1.7\n%%EOF\n", ".pdf", None), (b"\x1aE\xdf\xa3" + b"\0" * 40, ".webm", None), (b"OggS" + b"\0" * 40, ".ogg", None), (b"ID3" + b"\0" * 40, ".mp3", None),
])  # fmt: skip
def test_a_file_that_came(data, ending, size, tmp_path):
    from syntagma.formats.media_files import media_of

    (tmp_path / "x").write_bytes(data)
    found = media_of(tmp_path / "x")
    assert (found.ending, found.size) == (ending, size)


@pytest.mark.parametrize("data", [
    b"", b"text", b"RIFF\0\0\0\0AVI ", PNG[:20], PNG[:-6], jpeg(end=b""), jpeg()[:4] + b"\0\0\0\0" + b"\xff\xd9", b"\xff\xd8\xff\xd9\0\2\xff\xd9", b"GIF89a\1\0\1\0\0", box(b"ftyp", b"isom"), box(b"ftyp", b"isom") + box(b"moov", b"x", 99), box(b"ftyp", b"isom") + box(b"moov", b"", 4), b"%PDF-1.7",
])  # fmt: skip
def test_a_file_that_is_not_whole(data, tmp_path):
    from syntagma.formats.media_files import NotWhole, media_of

    (tmp_path / "x").write_bytes(data)
    with pytest.raises(NotWhole):
        media_of(tmp_path / "x")


def test_a_request_that_is_sent_on_to_where_nobody_is():
    """The service takes the request, sends us on to itself, and is gone."""
    server = socket.create_server(("127.0.0.1", 0))
    port = server.getsockname()[1]

    def serve():
        link, _ = server.accept()
        link.recv(65536)
        server.close()
        link.sendall(
            f"HTTP/1.1 307 X\r\nLocation: http://127.0.0.1:{port}/there\r\nContent-Length: 0\r\nConnection: close\r\n\r\n".encode()
        )
        link.close()

    threading.Thread(target=serve, daemon=True).start()
    outcome = Client(made(f"http://127.0.0.1:{port}")).submit({}, "k", "m")
    assert outcome.kind == "unclear" and "redirected it" in outcome.why


def test_a_look_up_that_is_sent_on():
    assert (
        asked(
            lambda method, path, body: (
                (302, {"Location": "/there"}, {})
                if path != "/there"
                else (200, {}, {"no": "t1", "phase": "over"})
            ),
            lambda client: client.ask("t1"),
        ).word
        == "over"
    )


def test_a_service_that_can_be_asked_nothing_has_no_slips():
    from syntagma.app.batches.services import slips

    assert slips(Client(Service(address="http://127.0.0.1:1"))) == []
