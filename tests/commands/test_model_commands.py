"""models, model new, model try, fit, check on finished prompts, cost: what the built program says and writes."""

import json
import re

import pexpect
import pytest

from syntagma.storage.folders import SHIPPED
from tests.commands.program import PROGRAM, environment, good, printed, run

POSTER = [
    "poster",
    "medium=linocut",
    "subject=double-ended car ferry",
    "setting=slack-water harbour",
    "light=sodium quay lamps",
]


def test_a_model_builds_on_the_one_that_its_workspace_has(tmp_path):
    """What ships is read once a process, and stays what it is for each workspace."""
    negative = []
    for place in ("first", "other", "third"):
        good(tmp_path, "start", place)
        if place == "other":
            other = (
                (SHIPPED / "models/whimbrel-motion.toml")
                .read_text("utf-8")
                .replace("negative = 200", "negative = 30")
            )
            (tmp_path / place / "models/whimbrel-motion.toml").write_text(other)
            (tmp_path / place / "vocabulary/weather.csv").write_text(
                "term,gloss\nclear cold night,mine\n"
            )
        habits = printed(good(tmp_path / place, "model", "knot-motion", "--json"))["habits"]
        gloss = next(
            one["gloss"]
            for one in printed(good(tmp_path / place, "term", "weather", "--json"))
            if one["term"] == "clear cold night"
        )
        negative.append((habits["negative text"], gloss == "mine"))
    assert (
        negative[0] == negative[2] != negative[1]
        and "30 characters" in negative[1][0]
        and [mine for _, mine in negative] == [False, True, False]
    )


def test_the_list_and_a_card(tmp_path):
    rows = printed(good(tmp_path, "model", "--json"))
    assert len(rows) == 8 and {"model", "media", "takes", "limit", "price", "about"} == set(rows[0])
    card = printed(good(tmp_path, "model", "godwit-motion", "--json"))
    assert card["habits"]["segments"] == "“{from}-{to} | {text}”" and card["habits"][
        "rewrites"
    ].endswith("no parameter switches that off")
    assert card["example"]["text"].startswith("0:00-0:06 | Medium shot;") and [
        p["parameter"] for p in card["parameters"]
    ] == [
        "ratio",
        "seconds",
        "rate",
    ]
    shown = good(tmp_path, "model", "sanderling-still")
    for words in (
        "lights menu",
        "7 choices of lighting set light, and leave the text",
        "polish=false switches that off",
        "[[{value}]]",
    ):
        assert words in shown


def test_ranked_for_a_piece_of_work(tmp_path):
    ranked = printed(good(tmp_path, "model", "rank", "dialogue-shot", "--json"))
    assert [r["model"] for r in ranked] == ["godwit-motion", "whimbrel-motion", "knot-motion"]
    assert (
        ranked[0]["loses"] == []
        and any("makes no sound" in loss for loss in ranked[2]["loses"])
        and ranked[0]["cost"] == {"amount": 0.64, "currency": "coins"}
    )
    cheap = printed(
        good(tmp_path, "model", "rank", "poster", "--at-most", "1", "--json", *POSTER[1:])
    )
    assert {r["model"] for r in cheap} == {
        "avocet-still",
        "dunlin-still",
        "turnstone-still",
    } and all(r["cost"]["amount"] <= 1 for r in cheap)
    assert "car ferry" in cheap[0]["text"]
    assert run(tmp_path, "model", "rank", "dialogue-shot", "--at-most", "0.01").returncode == 1


def test_the_schema(tmp_path):
    schema = printed(good(tmp_path, "model", "schema"))
    assert (
        schema["$schema"].startswith("https://json-schema.org/") and "TextHabits" in schema["$defs"]
    )


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", "ws")
    return tmp_path / "ws"


def test_a_model_of_ones_own(here):
    words = [
        "--register",
        "tags",
        "--limit",
        "60 tokens",
        "--ratios",
        "1:1, 2:3",
        "--ratio-written",
        "::{value}",
        "--weight",
        "{text}^{weight}",
        "--price",
        "2 per picture",
    ]
    assert "models/press.toml" in good(
        here, "model", "new", "press", "--about", "a press", "--negative-place", "inline", *words
    )
    text = (here / "models/press.toml").read_text()
    assert text.count("# ") > 12 and 'text = { most = 60, unit = "tokens" }' in text
    assert good(
        here,
        "compose",
        *POSTER,
        "--model",
        "press",
        "--stress",
        "light=1.2",
        "--parameter",
        "ratio=2:3",
    ) == (
        "linocut, double-ended car ferry, slack-water harbour, sodium quay lamps^1.2, bold simple shapes, clear space at the top for lettering, (without lettering, border) ::2:3\n"
    )
    tried = run(here, "model", "try", "press")
    assert (
        tried.returncode == 0
        and "as usual" in tried.stdout
        and re.search(r"\d+ samples: no errors", tried.stderr)
    )
    assert "exists already" in run(here, "model", "new", "press", "--limit", "3").stderr
    good(here, "model", "new", "small", "--base", "press", "--limit", "9 words")
    assert printed(good(here, "model", "small", "--json"))["base"] == "press"


@pytest.mark.parametrize(("words", "said"), [
    (["--limit", "many"], "“many” is not a limit"), (["--register", "prosa"], "did you mean “prose”?"), (["--price", "cheap"], "“cheap” is not a price"),
    (["--weight", "{text}"], "the pattern for stress marks nothing"), (["--base", "nobody"], "no model is called “nobody”"),
    (["--negative-place", "folder"], "did you mean “folded”?"),
])  # fmt: skip
def test_a_wrong_answer_writes_nothing(here, words, said):
    done = run(here, "model", "new", "press", *words)
    assert (
        done.returncode in (1, 2)
        and said in done.stderr
        and not (here / "models/press.toml").exists()
    )


def test_model_new_asks(here):
    child = pexpect.spawn(
        PROGRAM,
        ["model", "new", "asked"],
        cwd=here,
        env=environment(here) | {"TERM": "xterm"},
        dimensions=(30, 120),
        encoding="utf-8",
        timeout=30,
    )
    for question, answer in (
        ("in one line", "mine"),
        ("make", ""),
        ("read", "labelled"),
        ("How long", "30w"),
        ("negative prompt", "none"),
        ("weight", ""),
        ("ratios", "1:1"),
        ("after the text", ""),
        ("cost", ""),
    ):
        child.expect(question)
        child.expect("›")
        child.send(answer + "\r")
    child.expect("is made")
    child.expect(pexpect.EOF)
    text = (here / "models/asked.toml").read_text()
    assert (
        'about = "mine"' in text
        and 'register = "labelled"' in text
        and 'text = { most = 30, unit = "words" }' in text
        and 'values = ["1:1"]' in text
    )


def test_a_trial_shows_what_is_wrong(here):
    (here / "models/odd.toml").write_text(
        '[text]\nopening = "too many words for so few {"\n[limits]\ntext = 20\n'
    )
    done = run(here, "model", "try", "odd")
    assert (
        done.returncode == 1 and "what must stay takes" in done.stdout and "errors" in done.stderr
    )


def test_what_is_sent(tmp_path):
    request = printed(
        good(
            tmp_path,
            "compose",
            *POSTER,
            "--model",
            "avocet-still",
            "--parameter",
            "ratio=16:9",
            "--parameter",
            "seed=7",
            "--print",
            "request",
        )
    )
    assert (
        request["options"] == {"aspect": "16:9", "seed": 7}
        and json.loads(request["scene"])["light"] == "sodium quay lamps"
    )
    done = run(
        tmp_path,
        "compose",
        *POSTER,
        "--model",
        "dunlin-still",
        "--parameter",
        "seed=x",
        "--reference",
        "style=a.png*0.25",
        "--json",
    )
    (record,) = printed(done.stdout)
    assert done.returncode == 1 and record["references"] == [
        {"role": "style", "value": "a.png", "kind": "path", "strength": 0.25}
    ]
    assert [f["message"] for f in record["findings"] if f["kind"] == "error"] == [
        "seed x is not a number (of dunlin-still)"
    ]
    for words, said in (
        (["--reference", "style"], "is not a complete reference"),
        (["--stress", "light=much"], "“much” is not a valid weight"),
        (["--parameter", "ratio"], "is incomplete"),
    ):
        wrong = run(tmp_path, "compose", *POSTER, *words)
        assert wrong.returncode == 2 and said in wrong.stderr


def test_the_pinned_call_asks_for_the_same(tmp_path):
    words = [
        "--model",
        "whimbrel-motion",
        "--parameter",
        "seconds=8",
        "--stress",
        "light=1.2",
        "--reference",
        "first-frame=a b.png",
    ]
    done = run(tmp_path, "compose", "film-shot", "--pick", *words)
    call = done.stderr[done.stderr.index("syntagma compose film-shot") :].splitlines()[0]
    assert (
        "--parameter seconds=8" in call
        and "--reference 'first-frame=a b.png'" in call
        and "--stress light=1.2" in call
    )


def test_a_look_brings_references_and_weight(here):
    (here / "looks/look.formula").write_text(
        '+++\nreferences = ["style=print.png*0.3"]\n[stress]\nmedium = 1.4\n+++\ncontent\nend  rough paper\n'
    )
    (record,) = printed(
        good(here, "compose", *POSTER, "--model", "dunlin-still", "--look", "look", "--json")
    )
    assert (
        record["references"][0]["value"] == "print.png"
        and record["text"].startswith("<linocut @1.4>")
        and record["request"]["looks"] == [{"file": "print.png", "share": 0.3}]
    )


def test_what_a_family_costs(tmp_path):
    call = ["expand", *POSTER, "--vary", "palette:3", "--model", "curlew-still,dunlin-still"]
    assert run(tmp_path, *call, "--budget", "15").returncode == 0
    refused = run(tmp_path, *call, "--budget", "14", "--out", "f.txt")
    assert (
        refused.returncode == 1
        and "the family costs 15 credits, more than the 14 allowed" in refused.stderr
        and not (tmp_path / "f-dunlin-still.txt").exists()
    )
    assert sum(r["cost"]["amount"] for r in printed(good(tmp_path, *call, "--json"))) == 15
    film = printed(
        good(
            tmp_path,
            "expand",
            "film-shot",
            "--count",
            "2",
            "--model",
            "whimbrel-motion",
            "--parameter",
            "sound=false",
            "--json",
        )
    )
    assert {r["cost"]["amount"] for r in film} == {15.0}  # six seconds at half the price


def test_a_controlled_family_is_not_rewritten(tmp_path):
    records = printed(
        good(
            tmp_path,
            "expand",
            *POSTER,
            "--vary",
            "palette:2",
            "--model",
            "sanderling-still",
            "--json",
        )
    )
    assert {r["request"]["polish"] for r in records} == {False}
    done = run(
        tmp_path, "expand", "film-shot", "--count", "2", "--model", "godwit-motion", "--json"
    )
    assert "no parameter switches that off" in done.stdout


LONG = (
    "A signal lamp on a wet quay, "
    + "with ropes and bells along the wall, " * 12
    + "flat inks\nshort\n"
)


def test_fit(tmp_path):
    (tmp_path / "p.txt").write_text(LONG)
    done = run(tmp_path, "shorten", "p.txt", "--model", "dunlin-still")
    first, second = done.stdout.splitlines()
    assert (
        first.startswith("A signal lamp on a wet quay,")
        and second == "short"
        and "lost to fit 75 tokens of dunlin-still" in done.stderr
    )
    marked = good(tmp_path, "shorten", "p.txt", "--model", "dunlin-still", "--marked")
    assert "‹- with ropes" in marked and "short" in marked
    good(tmp_path, "compose", "photograph", "--detail", "rich", "--json")
    (tmp_path / "r.json").write_text(
        good(
            tmp_path,
            "compose",
            "photograph",
            "--detail",
            "rich",
            "trait=" + "old and rusty " * 16,
            "--json",
        )
    )
    (record,) = printed(good(tmp_path, "shorten", "r.json", "--model", "dunlin-still", "--json"))
    assert (
        record["size"]["text"]["used"] <= 75
        and "old and rusty" in record["text"]
        and any(kind == "lost" for _, kind in record["marked"])
    )
    assert "no model was named" in run(tmp_path, "shorten", "p.txt", "--marked").stderr
    assert (
        run(tmp_path, "shorten", "-", "--model", "dunlin-still", given="tidal" * 200).returncode
        == 1
    )


def test_check_and_mend_finished_prompts(tmp_path):
    before = "A old lamp on the the quay , by night /shape 2x3 /shape 2x3\r\nfine as it is\r\n"
    (tmp_path / "p.txt").write_bytes(before.encode())
    done = run(tmp_path, "check", "p.txt", "--model", "curlew-still")
    assert (
        done.returncode == 1
        and "the parameter ratio appears 2 times" in done.stdout
        and "“A old” has the wrong article" in done.stdout
    )
    assert (tmp_path / "p.txt").read_bytes() == before.encode()
    done = run(tmp_path, "check", "p.txt", "--model", "curlew-still", "--mend")
    assert done.returncode == 0 and "‹-A-›‹+An+›" in done.stderr
    assert (
        tmp_path / "p.txt"
    ).read_bytes() == b"An old lamp on the quay, by night /shape 2x3\r\nfine as it is\r\n"


def test_mending_a_table_and_records_leaves_all_else(tmp_path):
    (tmp_path / "p.csv").write_text('id,text,note\n1,"A old lamp, lit",a old note\n2,fine,x\n')
    good(tmp_path, "check", "p.csv", "--mend", "--out", "q.csv")
    assert (tmp_path / "q.csv").read_text() == '1,"'.join(
        ["id,text,note\n", 'An old lamp, lit",a old note\n2,fine,x\n']
    ) and "A old lamp" in (tmp_path / "p.csv").read_text()
    (tmp_path / "p.jsonl").write_text(
        '{"text": "A old \\u0022lamp\\u0022", "model": "curlew-still", "n": 1.50}\n'
    )
    good(tmp_path, "check", "p.jsonl", "--mend")
    assert (
        tmp_path / "p.jsonl"
    ).read_text() == '{"text": "An old \\"lamp\\"", "model": "curlew-still", "n": 1.50}\n'


def test_a_finished_prompt_goes_into_a_request_as_it_stands(tmp_path):
    text = 'a  "lamp" /shape 2x3'
    assert (
        printed(
            good(tmp_path, "check", "-", "--model", "curlew-still", "--request", given=text + "\n")
        )["line"]
        == text
    )


def test_what_mending_and_requests_want(tmp_path):
    for words in (["--mend"], ["--request"], ["--mend", "x.formula"]):
        done = run(tmp_path, "check", *words)
        assert done.returncode == 2 and "needs a file of prompts" in done.stderr


def test_is_it_large_enough(tmp_path):
    found = printed(
        good(
            tmp_path,
            "check",
            "--paper",
            "20x30in",
            "--ppi",
            "100",
            "--model",
            "curlew-still",
            "--json",
        )
    )
    assert found[0]["ratio"] == "2:3" and round(found[0]["times"], 2) == 1.6 and len(found) == 8
    assert "enlarge 1.6 times" in good(
        tmp_path, "check", "--paper", "20x30in", "--ppi", "100", "--model", "curlew-still"
    )
    for words, said in (
        (["big"], "“big” is not a size of a print"),
        (["a3"], "no model was named"),
    ):
        assert said in run(tmp_path, "check", "--paper", *words).stderr


def test_tokens_by_a_tokenizer_of_ones_own(here):
    tokenizers = pytest.importorskip("tokenizers")
    words = {w: i for i, w in enumerate("a linocut of tea urn , bold simple shapes [UNK]".split())}
    made = tokenizers.Tokenizer(tokenizers.models.WordLevel(words, unk_token="[UNK]"))
    made.pre_tokenizer = tokenizers.pre_tokenizers.Whitespace()
    made.save(str(here / "models/own.json"))
    (here / "models/own.toml").write_text(
        '[limits]\ntext = { most = 15, unit = "tokens", tokenizer = "own.json" }\n'
    )
    (record,) = printed(
        good(
            here,
            "compose",
            "[a medium] of [a subject], [aside]. end",
            "medium=linocut",
            "subject=tea urn",
            "aside=on a wet quay by night",
            "--model",
            "own",
            "--json",
        )
    )
    assert (
        record["text"] == "A linocut of a tea urn, on a wet quay by night. End"
        and record["size"]["text"]["used"] == 15
    )
    (record,) = printed(
        good(
            here,
            "compose",
            "[a medium] of [a subject], [aside]. end",
            "medium=linocut",
            "subject=tea urn",
            "aside=on a very wet quay by night",
            "--model",
            "own",
            "--json",
        )
    )
    assert record["size"]["text"]["used"] <= 15 and record["findings"]
    (here / "models/lost.toml").write_text(
        '[limits]\ntext = { most = 9, unit = "tokens", tokenizer = "no.json" }\n'
    )
    assert (
        "no.json can't be used: the file does not exist, or is too large"
        in run(here, "model", "lost").stderr
    )


def test_known_by_name(here):
    (here / "known.toml").write_text(
        '[moth]\nwords = "the lamp-room keeper\'s dog"\nhandle = { avocet-still = "@moth9" }\n'
    )
    call = ["compose", "[a subject] on [a place]", "subject=@moth", "place=quay", "--model"]
    assert good(here, *call, "curlew-still") == "The lamp-room keeper's dog on a quay.\n"
    assert printed(good(here, *call, "avocet-still"))["subject"]["subject"] == "@moth9"
    assert (
        "known.toml has nobody called “mouth”"
        in run(here, *(w.replace("moth", "mouth") for w in call), "curlew-still").stderr
    )
