"""How good picks are, by machine: over many picks of each formula, how many disagree on any
dimension of the world (by code of its own, which reads the files and not the picker), how many say
a word twice, how many differ; and in photographs, how many situations there are. `python -m
benchmarks.picks [NUMBER]` prints it; docs/evidence/picks.md tells it, with what was judged by
reading.
"""

import csv
import re
import sys
import time
import tomllib
from collections import Counter
from functools import cache
from pathlib import Path

from syntagma.app.asked import Taste
from syntagma.app.picking import Chooser
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.drafting.fills import Fill
from syntagma.core.vocabulary.terms import content_words
from syntagma.core.writing.prompt_writer import Writer

NUMBER = 1000
DATA = Path(__file__).parents[1] / "src/syntagma/data"
_WORD = re.compile(r"[^\W\d_][\w'’-]*")
PARTICIPANTS = {"subject", "animal", "food", "object", "architecture", "visual-idea", "symbol"}


@cache
def dimensions() -> dict[str, dict]:
    return tomllib.loads((DATA / "world.toml").read_text("utf-8"))


@cache
def read_world(text: str) -> dict[str, frozenset[str]]:
    """What a world allows, by dimension: read again here, with sets of words."""
    found: dict[str, frozenset[str]] = {}
    for part in text.split(";"):
        name, _, said = part.partition(":")
        name, words = name.strip().removesuffix("!"), said.split()
        if not name:
            continue
        every, within = set(dimensions()[name]["values"]), dimensions()[name].get("within", {})
        named = {word for word in words if word != "not"}
        cases = named | {value for value, wider in within.items() if wider in named}
        allowed = every - cases if words[:1] == ["not"] else cases
        found[name] = frozenset(found.get(name, frozenset(every)) & allowed)
    return found


@cache
def terms() -> dict[tuple[str, str], dict[str, str]]:
    rows = [
        (p.stem, row)
        for p in sorted((DATA / "vocabulary").glob("*.csv"))
        for row in csv.DictReader(p.open(encoding="utf-8"))
    ]
    return {(facet, row["term"]): row for facet, row in rows}


@cache
def first_words() -> dict[str, str]:
    return {
        verb: world
        for world, verbs in tomllib.loads((DATA / "deeds.toml").read_text("utf-8")).items()
        for verb in verbs.split() or [""]
    }


@cache
def formula_file(name: str) -> tuple[dict, tuple[tuple[str, str, int | None], ...]]:
    """The head of a formula, and (slot, facet, shot) in the order of its text."""
    _, head, body = (DATA / "formulas" / f"{name}.formula").read_text("utf-8").split("+++\n", 2)
    read = tomllib.loads(head)
    slots: dict[str, tuple[str, str, int | None]] = {}
    for line in body.splitlines():
        label = line.split(" ")[0]
        if not label or label == "-":
            continue
        shot = re.search(r"\d+", label.split(".")[0])
        for group in re.findall(r"\[([^]]*)\]", line):
            words = re.sub(r'"[^"]*"|\bas \w+$|^(?:a|an|the) ', "", group).split()
            for slot in words:
                facet = read.get("slots", {}).get(slot, {}).get("facet", slot)
                slots.setdefault(slot, (slot, facet, int(shot[0]) if shot else None))
    return read, tuple(slots.values())


def disagreements(name: str, filled: dict[str, list[str]]) -> list[str]:
    """The dimensions on which a prompt of a formula disagrees with itself. `filled`: slot → the
    terms in it.
    """
    head, slots = formula_file(name)
    lead = next(
        (slot for slot, facet, _ in slots if facet in PARTICIPANTS and filled.get(slot)), None
    )
    said: list[tuple[str, str, int | None, str, dict[str, frozenset[str]]]] = [
        ("", "", None, "lead", read_world(head.get("world", "")))
    ]
    for slot, facet, shot in slots:
        for term in filled.get(slot, ()):
            row = terms().get((facet, term), {})
            world = row.get("world") or (
                first_words().get(term.split()[0], first_words()[""]) if facet == "action" else ""
            )
            role = "lead" if slot == lead else "other" if facet in PARTICIPANTS else "claim"
            said.append(
                (
                    slot,
                    facet,
                    shot,
                    role,
                    read_world(f"{world};{head.get('slots', {}).get(slot, {}).get('world', '')}"),
                )
            )
    wrong = []
    for dimension, what in dimensions().items():
        speaking = [one for one in said if dimension in one[4]]
        if what.get("several") or not speaking:
            continue
        if what.get("scope", "picture") == "picture":
            groups = [speaking]
        elif what["scope"] == "shot":
            groups = [
                [one for one in speaking if one[2] in (None, shot)]
                for shot in {one[2] for one in speaking}
            ]
        else:
            moments = [one for one in speaking if one[1] == "action"] or [("", "", None, "", {})]
            others = [
                one
                for one in speaking
                if one[3] == "lead" or (one[3] == "claim" and one[1] != "action")
            ]
            groups = [[*others, *(one for one in [moment] if one[4])] for moment in moments]
        wrong += [
            dimension
            for group in groups
            if group and not frozenset.intersection(*(one[4][dimension] for one in group))
        ]
    return wrong


def picks(
    workspace: Workspace, name: str, number: int, detail: str = "usual", model: str | None = None
):
    """`number` picks of a formula, each of its own draw: (writer, open slots, fills, prompt). Free
    slots that are needed hold what the formula's example has.
    """
    formula, _ = workspace.formula(name)
    writer = Writer(formula, workspace.model(model), workspace.vocabulary)
    free = {
        rule.name for rule in writer.rules if rule.need and rule.facet not in workspace.vocabulary
    }
    given = {slot: text for slot, text in formula.head.example.items() if slot in free}
    fills = writer.fills(given)
    for draw in range(1, number + 1):
        chooser = Chooser(workspace, writer, Taste(detail=detail, draw=draw))
        open_slots = chooser.open(fills, given)
        filled = chooser.pick(fills, open_slots, chooser.random())
        yield writer, open_slots, filled, writer.write(filled)


def contradicts(writer: Writer, fills: list[Fill | None]) -> bool:
    """Does a prompt disagree with itself on any dimension?"""
    named = zip(writer.rules, fills, strict=True)
    filled = {
        rule.name: [item.tag for item in fill.items]
        for rule, fill in named
        if fill and rule.name in writer.shown
    }
    return bool(disagreements(writer.formula.name, filled))


def doubled(text: str, fixed: str) -> list[str]:
    """Content words that stand twice, those apart that the formula's own fixed words repeat."""
    counts = Counter(stem for word in _WORD.findall(text) for stem in content_words(word))
    own = Counter(stem for word in _WORD.findall(fixed) for stem in content_words(word))
    return [stem for stem, count in counts.items() if count > max(1, own[stem])]


def fixed_words(writer: Writer, fills: list[Fill | None]) -> str:
    """The words that the formula itself writes, and those of a slot as often as it is there. A
    term's own words may be twice in it (from hand to hand), and once more if it is at home (a
    barber in a barber's shop).
    """
    said = [
        re.sub(r"\[[^]]*\]", " ", writer.formula.text[p.span.start : p.span.stop])
        for p in writer.formula.phrases
    ]
    slots = Counter(slot for phrase in writer.formula.phrases for slot in phrase.slots)
    for rule, fill in zip(writer.rules, fills, strict=True):
        if fill and fill.given in rule.default:  # "street photograph" is the formula's own
            said += [item.words for item in fill.items]
        times = slots[rule.name] + (rule.facet in ("subject", "animal", "visual-idea", "action"))
        if fill:
            said += [
                item.words for item in fill.items if fill.given in situated()
            ]  # what a situation says was written together
        if fill and times > 1:
            said += [item.words for item in fill.items] * times
    return " ".join(said)


@cache
def situated() -> frozenset[str]:
    """All that situations say, read again here."""
    return frozenset(
        cell
        for path in (DATA / "situations").glob("*.csv")
        for row in csv.DictReader(path.open(encoding="utf-8"))
        for cells in row.values()
        if cells
        for cell in (cells, *map(str.strip, cells.split(";")))
    )


def measure(workspace: Workspace, name: str, number: int) -> dict[str, float]:
    texts, wrong, twice, begun = set(), 0, 0, time.process_time()
    for writer, _, fills, prompt in picks(workspace, name, number):
        texts.add(prompt.text)
        wrong += contradicts(writer, fills)
        twice += bool(doubled(prompt.text, fixed_words(writer, fills)))
    return {
        "disagree": wrong / number,
        "doubled": twice / number,
        "different": len(texts) / number,
        "ms": (time.process_time() - begun) * 1000 / number,
    }


def situations(workspace: Workspace, number: int) -> str:
    """How many different triples of subject, place and deed photographs have, and how evenly they
    come.
    """
    triples: Counter = Counter()
    subjects: Counter = Counter()
    for writer, _, fills, _ in picks(workspace, "photograph", number):
        named = writer.compiled.named(fills)
        triples[
            tuple(
                named[slot].shown if named[slot] else ""
                for slot in ("subject", "setting", "action")
            )
        ] += 1
        subjects[named["subject"].shown] += 1
    every = len(workspace.vocabulary["subject"])
    return (
        f"{len(triples)} different situations (subject, place and deed) in {number} photographs,"
        f" the most frequent {max(triples.values()) / number:.1%}; {len(subjects)} of {every}"
        f" subjects seen, the most frequent {max(subjects.values()) / number:.1%}"
    )


def main() -> None:
    number = int(sys.argv[1]) if len(sys.argv) > 1 else NUMBER
    workspace = Workspace.load()
    print(f"{number} picks of each formula\n")
    print(f"{'formula':<20} {'disagree':>8} {'doubled':>8} {'different':>9} {'ms a pick':>9}")
    for name in workspace.formulas():
        row = measure(workspace, name, number)
        print(
            f"{name:<20} {row['disagree']:>8.1%} {row['doubled']:>8.1%} {row['different']:>9.1%}"
            f" {row['ms']:>9.2f}",
            flush=True,
        )
    print(f"\n{situations(workspace, number)}")


if __name__ == "__main__":
    main()
