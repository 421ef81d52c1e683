"""A data set of instruction and prompt looked over, whoever made it: broken lines, twins, near
twins, leaks between its splits, lengths, fixed words.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.core.diagnostics import Mistake, Trouble
from syntagma.core.formula import FixedText
from syntagma.core.formula.tree import Formula
from syntagma.core.models.measure import estimated_tokens, words
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.storage.files import read_text

ASKED = ("instruction", "input", "request", "question", "ask", "user")
ANSWERED = ("prompt", "output", "response", "answer", "completion", "assistant")
SPLITS = ("train", "test", "valid", "validation", "dev", "eval")
NEAR = 0.8  # the share of runs of letters from which two texts are near twins
MOST_COMPARED = 20_000  # lines among which near twins are looked for
MOST_TOLD = 12
LONG = 12_000  # characters of one text beyond which it is not a prompt


class DatasetExample(NamedTuple):
    """One good line: its place, its split, what is asked and answered, and what it says it was made
    of.
    """

    place: str
    split: str
    asked: str
    answered: str
    formula: str
    fills: Mapping[str, str]


class DatasetChecks(NamedTuple):
    """What was found. `findings` are (kind, how many, what, instances); `lengths` (what, least,
    middle, most).
    """

    examples: int
    splits: dict[str, int]
    broken: list[Mistake]
    findings: list[tuple[str, int, str, list[str]]]
    lengths: list[tuple[str, int, int, int]]
    formulas: dict[str, int]
    kept: list[tuple[str, int, int]]  # fixed words, of how many examples they are kept, of how many


def read_examples(paths: Sequence[str]) -> tuple[list[DatasetExample], list[Mistake]]:
    """The examples of files (JSON Lines, as pairs or as chat messages), and what could not be read.
    Raises Trouble.
    """
    found: list[DatasetExample] = []
    broken: list[Mistake] = []
    for path in paths:
        lines = read_text(path, "a data set").removeprefix("\ufeff").split("\n")
        for number, line in enumerate(lines, 1):
            if not line.strip():
                continue
            try:
                found.append(_example(read_json(line), f"{path}:{number}", Path(path).stem))
            except (NoJson, ValueError, RecursionError) as error:
                why = str(error).splitlines()[0][:120]
                broken.append(
                    Mistake(
                        f"this is not JSON: {why}" if isinstance(error, NoJson) else why,
                        'each line is one object: {"instruction": …, "prompt": …}, or {"messages":'
                        " [ … ]}",
                        path,
                        number,
                        1,
                    )
                )
    if not found and not broken:
        raise Trouble(
            f"{', '.join(paths)}: no examples in it",
            "a data set has one JSON object per line (.jsonl)",
            1,
        )
    return found, broken


def _example(value: Any, place: str, stem: str) -> DatasetExample:
    """Raises ValueError if it is none."""
    if not isinstance(value, dict):
        raise ValueError("the line is not an object")
    if isinstance(messages := value.get("messages"), list):
        said = [
            (str(one.get("role", "")), one.get("content"))
            for one in messages
            if isinstance(one, dict)
        ]
        asked, answered = (
            [text for role, text in said if role == who] for who in ("user", "assistant")
        )
        if not asked or not answered:
            raise ValueError("its messages lack a user or an assistant")
        pair = asked[0], answered[-1]
    else:
        names = [next((name for name in known if name in value), "") for known in (ASKED, ANSWERED)]
        if not all(names):
            raise ValueError(f"it has no {'instruction' if not names[0] else 'prompt'}")
        pair = value[names[0]], value[names[1]]
    if not all(isinstance(text, str) and text.strip() for text in pair):
        raise ValueError("the question or the answer is blank, or is not text")
    split = str(
        value.get("split")
        or next((name for name in SPLITS if name in stem.lower().replace("_", "-").split("-")), "")
    )
    fills = value.get("fills")
    return DatasetExample(
        place,
        split,
        pair[0] or "",
        pair[1] or "",
        str(value.get("formula") or ""),
        {str(k): str(v) for k, v in fills.items()} if isinstance(fills, dict) else {},
    )


def check(
    examples: Sequence[DatasetExample], broken: list[Mistake], formulas: Mapping[str, Formula]
) -> DatasetChecks:
    """Look a data set over. `formulas` are those whose fixed words are looked for, by name ("" for
    all lines).
    """
    findings = [*_twins(examples), *_near(examples), *_leaks(examples), *_odd(examples)]
    lengths = []
    for what, count in (
        ("words asked", lambda e: words(e.asked)),
        ("words answered", lambda e: words(e.answered)),
        (
            "tokens of both, estimated",
            lambda e: estimated_tokens(e.asked) + estimated_tokens(e.answered),
        ),
    ):
        sizes = sorted(map(count, examples))
        lengths.append(
            (what, sizes[0], sizes[len(sizes) // 2], sizes[-1]) if sizes else (what, 0, 0, 0)
        )
    return DatasetChecks(
        len(examples),
        dict(Counter(e.split or "no split" for e in examples)),
        broken,
        findings,
        lengths,
        dict(Counter(e.formula for e in examples if e.formula)),
        _fixed(examples, formulas),
    )


def _plain(text: str) -> str:
    return " ".join("".join(c.lower() if c.isalnum() else " " for c in text).split())


def _twins(examples: Sequence[DatasetExample]) -> list[tuple[str, int, str, list[str]]]:
    """The same twice: the whole pair, what is asked (with another answer), what is answered."""
    found = []
    pairs: dict[tuple[str, str], list[DatasetExample]] = {}
    for one in examples:
        pairs.setdefault((_plain(one.asked), _plain(one.answered)), []).append(one)
    again = [group for group in pairs.values() if len(group) > 1]
    if again:
        found.append(
            (
                "error",
                sum(len(group) - 1 for group in again),
                "the same pair twice",
                [", ".join(e.place for e in group[:4]) for group in again],
            )
        )
    for what, at in (
        ("the same question twice, with different answers", 0),
        ("the same answer twice", 1),
    ):
        groups: dict[str, list[DatasetExample]] = {}
        for key, group in pairs.items():
            groups.setdefault(key[at], []).append(group[0])
        same = [group for group in groups.values() if len(group) > 1]
        if same:
            found.append(
                (
                    "warning",
                    sum(len(group) - 1 for group in same),
                    what,
                    [
                        ", ".join(e.place for e in group[:4])
                        + f": {(group[0].asked, group[0].answered)[at][:80]}"
                        for group in same
                    ],
                )
            )
    return found


def _near(examples: Sequence[DatasetExample]) -> list[tuple[str, int, str, list[str]]]:
    from syntagma.core.seeing.likeness import twins_of_texts

    some = examples[:MOST_COMPARED]
    found = []
    for what, texts in (
        ("answers that are nearly the same", [e.answered for e in some]),
        ("questions that are nearly the same", [e.asked for e in some]),
    ):
        groups = [
            g for g in twins_of_texts(texts, NEAR) if len({_plain(texts[i]) for i in g.places}) > 1
        ]
        if groups:
            shown = [
                ", ".join(some[i].place for i in g.places[:4]) + f" ({g.likeness:.0%} alike)"
                for g in groups
            ]
            found.append(("warning", sum(len(g.places) - 1 for g in groups), what, shown))
    return found


def _leaks(examples: Sequence[DatasetExample]) -> list[tuple[str, int, str, list[str]]]:
    """What is on both sides of a split: prompts (also nearly the same), and choices of subject,
    setting, action where the lines say what they were made of.
    """
    from syntagma.core.seeing.likeness import runs, text_likeness

    tests = [e for e in examples if e.split and e.split != "train"]
    trains = [e for e in examples if e.split == "train"]
    if not tests or not trains:
        return []
    found = []
    known = {_plain(e.answered): e for e in trains}
    same = [(e, known[_plain(e.answered)]) for e in tests if _plain(e.answered) in known]
    if same:
        found.append(
            (
                "error",
                len(same),
                "an answer of the test set is in the training set",
                [f"{a.place} and {b.place}" for a, b in same],
            )
        )
    asked = {_plain(e.asked): e for e in trains}
    again = [(e, asked[_plain(e.asked)]) for e in tests if _plain(e.asked) in asked]
    if again:
        found.append(
            (
                "error",
                len(again),
                "a question of the test set is in the training set",
                [f"{a.place} and {b.place}" for a, b in again],
            )
        )
    sets = [(e, runs(e.answered)) for e in trains[:MOST_COMPARED]]
    if len(tests) * len(sets) <= 4_000_000:
        near = [
            (e, other)
            for e in tests
            for own in [runs(e.answered)]
            for other, theirs in sets
            if _plain(e.answered) != _plain(other.answered) and text_likeness(own, theirs) >= NEAR
        ]
        if near:
            found.append(
                (
                    "error",
                    len({a.place for a, _ in near}),
                    "an answer of the test set is nearly the same as one in training",
                    [f"{a.place} and {b.place}" for a, b in near],
                )
            )
    for slot in ("subject", "setting", "action"):
        held = {e.fills[slot].lower() for e in trains if e.fills.get(slot)}
        shared = [e for e in tests if e.fills.get(slot, "").lower() in held and e.fills.get(slot)]
        if shared:
            found.append(
                (
                    "warning",
                    len(shared),
                    f"a {slot} of the test set is in the training set",
                    [f"{e.place}: {e.fills[slot]}" for e in shared],
                )
            )
    return found


def _odd(examples: Sequence[DatasetExample]) -> list[tuple[str, int, str, list[str]]]:
    """Answers that are not prompts: chatter, fences, refusals, far too long or too short."""
    chatter = [
        e
        for e in examples
        if e.answered.lstrip()
        .lower()
        .startswith(
            (
                "sure",
                "here is",
                "here's",
                "certainly",
                "of course",
                "as an ai",
                "i can't",
                "i cannot",
                "sorry",
                "```",
            )
        )
    ]
    short = [e for e in examples if words(e.answered) < 3]
    long = [e for e in examples if len(e.answered) > LONG]
    same = [e for e in examples if _plain(e.asked) == _plain(e.answered)]
    found = []
    for kind, some, what in (
        ("error", chatter, "the answer chats instead of giving a prompt"),
        ("warning", short, "the answer has fewer than three words"),
        ("warning", long, f"the answer has more than {LONG:,} characters"),
        ("warning", same, "the answer repeats the question"),
    ):
        if some:
            found.append((kind, len(some), what, [f"{e.place}: {e.answered[:60]}" for e in some]))
    return found


def _fixed(
    examples: Sequence[DatasetExample], formulas: Mapping[str, Formula]
) -> list[tuple[str, int, int]]:
    """How many examples keep the words that every prompt of their formula has; without a formula,
    the words that most end in.
    """
    found = []
    for name, formula in formulas.items():
        of = [e for e in examples if not name or e.formula == name]
        for phrase in formula.phrases:
            if not phrase.slots and phrase.body and phrase.label not in formula.head.only_if:
                said = (
                    "".join(node.raw for node in phrase.body if isinstance(node, FixedText))
                    .strip()
                    .rstrip(".,;:")
                )
                found.append((said, sum(_plain(said) in _plain(e.answered) for e in of), len(of)))
    if not formulas and len(examples) > 3:
        for what, end in (("begin", lambda w: w[:3]), ("end", lambda w: w[-4:])):
            counts = Counter(" ".join(end(_plain(e.answered).split())) for e in examples)
            most, number = counts.most_common(1)[0]
            if number > len(examples) * 0.3:
                found.append((f"… {most}" if what == "end" else f"{most} …", number, len(examples)))
    return found
