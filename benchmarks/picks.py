"""How good picks are: over many picks of each formula, how many contradict, how many say a word twice, how many differ, and
how evenly terms come up. `python benchmarks/picks.py [NUMBER]` prints the table; docs/picking.md has the last one."""

import re
import sys
from collections import Counter
from itertools import combinations
from math import log

from syntagma.app.composing.asked import Taste
from syntagma.app.composing.picks import Chooser
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.drafting.fills import Fill
from syntagma.core.vocabulary.stated import content_words
from syntagma.core.vocabulary.terms import clash
from syntagma.core.writing.prompt_writer import Writer

NUMBER = 1000
_WORD = re.compile(r"[^\W\d_][\w'’-]*")


def picks(workspace: Workspace, name: str, number: int, detail: str = "usual", model: str | None = None):
    """`number` picks of a formula, each of its own draw: (writer, open slots, fills, prompt). Free slots that are needed hold what the
    formula's example has."""
    formula, _ = workspace.formula(name)
    writer = Writer(formula, workspace.model(model), workspace.vocabulary)
    free = {rule.name for rule in writer.rules if rule.need and rule.facet not in workspace.vocabulary}
    given = {slot: text for slot, text in formula.head.example.items() if slot in free}
    fills = writer.fills(given)
    for draw in range(1, number + 1):
        chooser = Chooser(workspace, writer, Taste(detail=detail, draw=draw))
        open_slots = chooser.open(fills, given)
        filled = chooser.pick(fills, open_slots, chooser.random())
        yield writer, open_slots, filled, writer.write(filled)


def contradicts(writer: Writer, fills: list[Fill | None]) -> bool:
    shown = [fill for rule, fill in zip(writer.rules, fills, strict=True) if fill and rule.name in writer.shown]
    terms = [term for fill in shown for term in fill.terms]
    return any(clash(a, b) for a, b in combinations(terms, 2))


def doubled(text: str, fixed: str) -> list[str]:
    """Content words that stand twice, those apart that the formula's own fixed words repeat."""
    counts = Counter(stem for word in _WORD.findall(text) for stem in content_words(word))
    own = Counter(stem for word in _WORD.findall(fixed) for stem in content_words(word))
    return [stem for stem, count in counts.items() if count > max(1, own[stem])]


def fixed_words(writer: Writer, fills: list[Fill | None]) -> str:
    """The words that the formula itself writes, and those of a slot as often as it stands there."""
    said = [re.sub(r"\[[^]]*\]", " ", writer.formula.text[p.span.start : p.span.stop]) for p in writer.formula.phrases]
    slots = Counter(slot for phrase in writer.formula.phrases for slot in phrase.slots)
    for rule, fill in zip(writer.rules, fills, strict=True):
        if fill and slots[rule.name] > 1:
            said += [item.words for item in fill.items] * slots[rule.name]
    return " ".join(said)


def evenness(counts: Counter, terms: int) -> float:
    """1 where every term came up equally often, 0 where one alone did: entropy over its most."""
    total = sum(counts.values())
    return -sum(n / total * log(n / total) for n in counts.values()) / log(terms) if terms > 1 else 1.0


def measure(workspace: Workspace, name: str, number: int) -> dict[str, object]:
    texts, clashing, saying_twice, dull = set(), 0, 0, Counter()
    used: dict[str, Counter] = {}
    for writer, open_slots, fills, prompt in picks(workspace, name, number):
        texts.add(prompt.text)
        clashing += contradicts(writer, fills)
        twice = doubled(prompt.text, fixed_words(writer, fills))
        saying_twice += bool(twice)
        dull.update(twice)
        for rule, fill in zip(writer.rules, fills, strict=True):
            for term in fill.terms if fill and rule.name in open_slots else ():
                used.setdefault(rule.name, Counter())[term.term] += 1
    chooser = Chooser(workspace, writer)
    even = {slot: evenness(c, len(chooser.terms(slot))) for slot, c in used.items() if sum(c.values()) > number / 2}
    seen = [len(c) / len(chooser.terms(slot)) for slot, c in used.items()]
    return {
        "clash": clashing / number, "doubled": saying_twice / number, "different": len(texts) / number,
        "even": sum(even.values()) / len(even), "least": min(even, key=even.get), "least even": min(even.values()),
        "seen": sum(seen) / len(seen), "words": ", ".join(w for w, _ in dull.most_common(4)),
    }  # fmt: skip


def main() -> None:
    number = int(sys.argv[1]) if len(sys.argv) > 1 else NUMBER
    workspace = Workspace.load()
    print(f"{number} picks of each formula\n")
    print(f"{'formula':<20} {'clash':>6} {'doubled':>8} {'different':>9} {'evenness':>8} {'least even':>22} {'terms seen':>10}")
    for name in workspace.formulas():
        row = measure(workspace, name, number)
        least = f"{row['least']} {row['least even']:.2f}"
        print(
            f"{name:<20} {row['clash']:>6.1%} {row['doubled']:>8.1%} {row['different']:>9.1%} {row['even']:>8.2f} {least:>22} "
            f"{row['seen']:>10.0%}  {row['words']}",
            flush=True,
        )


if __name__ == "__main__":
    main()
