"""Judging away from its commands: judgements that are no judgements, the server that a stranger calls, pairs of very many, what to send next of a family of any make."""

import socket
import threading
from pathlib import Path
from types import SimpleNamespace

import httpx
import numpy as np
import pytest

from syntagma.app.results.judged import judged
from syntagma.app.results.judging import (
    MOST_BYTES,
    BadJudgement,
    JudgeServer,
    Judging,
    judgement_of,
    take_judgements,
    told,
    write_judgements,
)
from syntagma.app.results.next_prompts import _Written
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.judging.observed import Factors
from syntagma.core.judging.pairs import PairAnswer, enough, next_pair, strengths
from syntagma.core.judging.planning import candidates, narrowed, next_rows
from syntagma.core.records import Record
from syntagma.storage.library import Library
from tests.commands.program import good
from tests.commands.test_results import picture

GOOD = {"judge": "Ada", "kind": "rating", "kept": "1", "value": "4"}


@pytest.mark.parametrize(("other", "said"), [
    ({"judge": " "}, "needs a name"), ({"judge": "x" * 81}, "needs a name"), ({"kind": "smell"}, "“smell” can.t be judged"), ({"kept": "one"}, "by its number, or by its take"), ({"kept": "r1a2b3c4d5.2"}, "the library has no result of r1a2b3c4d5.2"),
    ({"kind": "pair", "other": "r1a2b3c4d5", "value": "left"}, "the library has no result of 1 or r1a2b3c4d5"), ({"value": "6"}, "“6” is not a valid rating"), ({"kind": "pair", "other": "2", "value": "4"}, "“4” is not a valid pair"), ({"kind": "phrase", "value": "shown"}, "a phrase has words"),
])  # fmt: skip
def test_what_is_no_judgement_is_told(other, said):
    with pytest.raises(BadJudgement, match=said):
        judgement_of({**GOOD, **other}, "s", {})


def test_a_judgement_is_read_as_it_was_meant():
    assert judgement_of({**GOOD, "value": "4.0", "at": "yesterday", "again": "1"}, "s", {})[4:] == (
        "4",
        0,
        "",
        "",
        "",
        "",
        1,
    )
    assert judgement_of(
        {
            "judge": "Ada",
            "kind": "phrase",
            "picture": "r1a2b3c4d5",
            "value": "shown",
            "slot": "light",
            "phrase": "full moonlight",
            "at": "2026-12-01T10:00:00Z",
        },
        "s",
        {"r1a2b3c4d5": 7},
    )[3:] == (7, "shown", 0, "light", "full moonlight", "", "2026-12-01T10:00:00Z", 0)


@pytest.fixture
def shelf(tmp_path):
    good(tmp_path, "start", ".")
    for n in range(3):
        picture(tmp_path / f"{n}.png", n)
        good(
            tmp_path,
            "library",
            "add",
            f"{n}.png",
            "--prompt",
            f"a ferry, lit by lamp {n}",
            "--label",
            "all",
        )
    library = Library(tmp_path)
    return Judging(library, judged(Workspace.load(tmp_path), library, "all"), pairs=True)


def test_what_a_stranger_sends_to_the_page_is_answered_and_changes_nothing(shelf):
    server = JudgeServer(shelf, "<p>the page</p>")
    threading.Thread(target=server.serve_forever, daemon=True).start()
    say = {"judge": "Ada", "kind": "pair", "kept": 1, "other": 2, "value": "left"}
    try:
        with httpx.Client(base_url=server.address) as client:
            got = {
                "page": client.get("").status_code, "elsewhere": client.get("nowhere").status_code, "a picture": client.get("file/99").status_code, "picture": client.get("file/1").status_code,
                "another host": client.get("", headers={"Host": "example.org"}).status_code, "from another page": client.post("say", json=say, headers={"Origin": "http://example.org"}).status_code,
                "no JSON": client.post("say", content=b"{").status_code, "a list": client.post("say", json=[say]).status_code, "to nowhere": client.post("shout", json=say).status_code, "no judgement": client.post("say", json={**say, "value": "up"}).status_code,
                "of others": client.post("say", json={**say, "other": 1}).status_code, "a token of others": client.post(f"http://127.0.0.1:{server.server_port}/other/say", json=say).status_code,
            }  # fmt: skip
            assert got == {
                "page": 200,
                "elsewhere": 404,
                "a picture": 404,
                "picture": 200,
                "another host": 404,
                "from another page": 403,
                "no JSON": 400,
                "a list": 400,
                "to nowhere": 404,
                "no judgement": 400,
                "of others": 400,
                "a token of others": 404,
            }
            with socket.create_connection(
                ("127.0.0.1", server.server_port), 5
            ) as raw:  # what is too much is refused before it is sent
                raw.sendall(
                    f"POST /{server.token}/say HTTP/1.1\r\nHost: 127.0.0.1:{server.server_port}\r\nContent-Length: {MOST_BYTES + 1}\r\n\r\n".encode()
                )
                assert raw.recv(100).startswith(b"HTTP/1.1 413")
            assert Library(shelf.library.root).judgements("all") == []
            (shelf.library.root / "library").rename(shelf.library.root / "moved")
            assert client.get("file/1").status_code == 404
            (shelf.library.root / "moved").rename(shelf.library.root / "library")
            assert client.post("say", json=say).json() == {"saved": True} and client.post(
                "say", json=say
            ).json() == {"saved": False}
            assert (
                client.get("next?judge=Ada").json()["done"] == 1
                and client.post("undo", json={"judge": "Ada"}).json() == {"undone": True}
                and client.post("undo", json={"judge": "Ada"}).json() == {"undone": False}
            )
    finally:
        server.shutdown()
        server.server_close()


def test_files_of_judgements(shelf, tmp_path):
    def take(name: str, text: str):
        (tmp_path / name).write_text(text)
        return take_judgements(shelf, str(tmp_path / name), "Bo")

    new, old, wrong = take(
        "said.csv", "judge,kind,picture,value\nAda,rating,1,4\nAda,rating,1,9\nAda,rating,7,3\n"
    )
    assert (new, old, [one.message for one in wrong]) == (
        1,
        0,
        ["“9” is not a valid rating: 0, 1, 2, 3, 4, 5", "that picture is not one of these"],
    )
    assert [one.message for one in take("sheet.csv", "id,rating\nr000000000,4\n")[2]] == [
        "that picture is not one of these"
    ]
    with pytest.raises(Trouble, match="has no judgements"):
        take("other.csv", "name,price\nAda,4\n")
    with pytest.raises(Trouble, match="rows"):
        take("long.csv", "judge,kind,picture,value\n" + "Ada,rating,1,4\n" * 200_001)
    with pytest.raises(Trouble, match="can't write"):
        write_judgements(shelf.library, shelf.family, "said.txt")
    assert write_judgements(shelf.library, shelf.family, str(tmp_path / "out.csv")) == 1 and told(
        shelf.library.judgements("all")
    ) == {"rating": 1}


def test_a_judge_of_pairs_is_told_when_it_is_enough():
    """Of three that are plainly apart, asked often enough; never where one was not seen."""
    order = [PairAnswer(a, b, 1.0) for _ in range(9) for a, b in ((0, 1), (1, 2), (0, 2))]
    assert (
        enough(3, order)
        and not enough(3, [one for one in order if 2 not in (one.first, one.second)])
        and not enough(2, order)
    )
    assert (
        next_pair(1, []) is None
        and next_pair(2, [PairAnswer(0, 1, 1.0), PairAnswer(1, 0, 0.0)]) is None
    )
    asked, answers = set(), []
    for _ in range(60):
        if (pair := next_pair(5, answers)) is None:
            break
        assert pair not in asked
        asked.add(pair)
        answers.append(PairAnswer(*pair, 1.0 if pair[0] < pair[1] else 0.0))
    assert len(asked) == 20  # every pair, both ways round, and nothing after that


def test_pairs_of_very_many_are_told_apart_without_a_matrix_of_all():
    answers = [
        PairAnswer(n, (n + step) % 400, 1.0 if n < (n + step) % 400 else 0.0)
        for n in range(400)
        for step in (1, 7, 31)
    ]
    found = strengths(400, answers)
    assert np.corrcoef(found.values, -np.arange(400))[0, 1] > 0.8 and found.errors.min() > 0
    pair = next_pair(400, answers)
    assert pair and pair not in {(one.first, one.second) for one in answers}


def test_what_would_tell_most_next():
    factors = Factors(
        ("light", "medium"),
        (("lamp", "moon"), ("linocut", "gouache", "oil")),
        np.array([[0, 0], [1, 1]]),
    )
    assert next_rows(factors, 2, lambda row: row[1] == 2) == [(0, 2), (1, 2)] or next_rows(
        factors, 2, lambda row: row[1] == 2
    ) == [(1, 2), (0, 2)]
    assert next_rows(factors, 3, lambda row: False) == []
    drawn = candidates([12] * 9, lambda row: row[0] != 3, seed=1, most=500)
    assert (
        300 < len(drawn) <= 500
        and all(row[0] != 3 for row in drawn)
        and drawn == candidates([12] * 9, lambda row: row[0] != 3, seed=1, most=500)
    )
    fit = SimpleNamespace(scatter=1.0, alone=False, freedom=4)
    assert narrowed(factors, fit, []) == float("inf") and narrowed(
        factors, SimpleNamespace(scatter=0.0, alone=False, freedom=4), [(0, 1)]
    ) == float("inf")
    assert (
        narrowed(factors, fit, [(0, 1), (0, 2), (1, 0), (1, 2)])
        < narrowed(factors, fit, [(0, 1), (0, 2), (1, 0)])
        < float("inf")
    )


@pytest.mark.parametrize(("axis", "choices", "why"), [
    ("subject+light", ("car ferry", "tram"), "can't be split"), ("theme", ("night", "day"), "only expand can vary"), ("nothing-of-the-kind", ("a", "b"), "no slot"), ("model", ("curlew-still", "no-such-model"), "no model"),
    ("parameter.ratio", ("3:2", "1:1"), ""), ("subject+light", ("car ferry / full moonlight", "tram / candlelight"), ""), ("subject", ("car ferry", "tram"), ""),
])  # fmt: skip
def test_what_to_send_next_is_written_or_told_why_not(axis, choices, why):
    record = {
        "formula": "photograph",
        "model": "curlew-still",
        "fills": {"subject": "car ferry"},
        "parameters": {},
    }
    kept, factors = (
        SimpleNamespace(record=Record(record)),
        Factors((axis,), (choices,), np.array([[0], [1]])),
    )
    writer = _Written(Workspace.load(Path("/")), SimpleNamespace(kept=[kept], rules=()), factors)
    found = [writer.of((n,), n + 1) for n in range(2)]
    if why:
        assert any(one.record is None and why in one.why for one in found)
    else:
        assert (
            all(one.record and one.record["design"]["index"] == n for n, one in enumerate(found, 1))
            and found[0].record["id"] != found[1].record["id"]
        )
