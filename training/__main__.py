"""Trains the reader and writes its weights, or says how well it reads hands that it was not trained on.

python -m training                 trains on every hand and writes the weights
python -m training --without a e   leaves each hand named out in turn, and says how it is read
python -m training --worth e       says what each kind of feature is worth for that hand
"""  # noqa: E501

import argparse
import time
from collections.abc import Iterable
from pathlib import Path

from syntagma.app.reading import DATA, knowledge_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.reading.features import StretchContext, WordRow
from syntagma.core.reading.words import WordKnowledge
from training.judging import judged, reliability
from training.marked_prompts import HERE, Example, examples, read_marked
from training.train import KINDS, Alone, fitted, trained

PHRASES = HERE.parent / "phrases.txt"


def alone(texts: Iterable[tuple[str, str]], knowledge: WordKnowledge) -> list[Alone]:
    """Texts by themselves, each with its facet."""
    found = []
    for text, facet in dict.fromkeys(texts):
        words = knowledge.words(text, 0, len(text))
        if words:
            found.append((WordRow(knowledge, words, StretchContext("prose")), facet))
    return found


def lines_of(path: Path) -> Iterable[tuple[str, str]]:
    """Phrases with their facets from lines of `facet: phrase; phrase`."""
    for line in path.read_text("utf-8").splitlines():
        if not line.startswith("#"):
            facet, _, said = line.partition(": ")
            for text in said.split("; "):
                yield text, facet


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m training", description=__doc__.splitlines()[0])
    parser.add_argument(
        "--without", nargs="*", default=[], metavar="HAND", help="hands left out, one at a time"
    )
    parser.add_argument(
        "--locked", nargs="*", default=[], metavar="HAND", help="hands that nothing is learned from"
    )
    parser.add_argument("--rounds", type=int, default=60)
    parser.add_argument("--prior", type=float, default=1.0)
    parser.add_argument(
        "--worth",
        metavar="HAND",
        help="what each kind of feature is worth for a hand that is left out (one pass, no second)",
    )
    parser.add_argument("--wrong", metavar="FILE", help="write parts that were read wrong")
    parser.add_argument("--out", type=Path, default=DATA / "weights.bin")
    asked = parser.parse_args()
    workspace = Workspace.load(Path("/"))
    profiles = [workspace.model(name) for name in workspace.models()]
    knowledge = knowledge_of(workspace)
    hands: dict[str, list[Example]] = {}
    for path in sorted(HERE.glob("*.jsonl")):
        if path.stem not in asked.locked:
            hands[path.stem] = [
                e for prompt in read_marked(path) for e in examples(prompt, knowledge, profiles)
            ]
    terms = (
        (text, facet.name)
        for facet in workspace.vocabulary
        for t in facet
        for text in (t.term, t.phrase, t.place, t.clause, *t.aka)
        if text
    )
    names = alone([*terms, *lines_of(DATA / "trade.txt")], knowledge)
    phrases = alone(lines_of(PHRASES), knowledge)
    if asked.worth:
        learned = [e for hand, found in hands.items() if hand != asked.worth for e in found]
        for kind in ("", *KINDS):
            got = judged(
                hands[asked.worth],
                fitted(learned, names, phrases, asked.prior, asked.rounds, without=kind).read,
            )
            print(
                f"{'without ' + kind if kind else 'with all':42} {got.right / got.parts:.1%} right,"
                f" {got.exact / got.parts:.1%} exactly",
                flush=True,
            )
        for kind, fewer in (
            ("names as examples", ((), phrases)),
            ("phrases as examples", (names, ())),
        ):
            got = judged(
                hands[asked.worth], fitted(learned, *fewer, asked.prior, asked.rounds).read
            )
            print(
                f"{'without ' + kind:42} {got.right / got.parts:.1%} right,"
                f" {got.exact / got.parts:.1%} exactly",
                flush=True,
            )
        return
    for out in asked.without or [""]:
        start = time.perf_counter()
        model = trained(
            {hand: found for hand, found in hands.items() if hand != out},
            names,
            phrases,
            asked.prior,
            asked.rounds,
        )
        data = model.to_bytes()
        took = time.perf_counter() - start
        if not out:
            asked.out.write_bytes(data)
            print(f"{asked.out.name}: {len(data):,} bytes, trained in {took:.0f} s")
            continue
        got = judged(hands[out], model.read)
        negative = (
            f"{got.negative_right / got.negative:.1%} of {got.negative} denials"
            if got.negative
            else "no denials"
        )
        print(
            f"{out}: {got.right / got.parts:.1%} of {got.parts} parts right,"
            f" {got.exact / got.parts:.1%} exactly, {got.near / got.parts:.1%} with kin;"
            f" {negative}; {len(data):,} bytes, {took:.0f} s",
            flush=True,
        )
        print(
            "  "
            + "; ".join(
                f"{low:.0%} to {low + 0.1:.0%}: {share:.0%} of {number} right"
                for low, number, share in reliability(got.sure)
            ),
            flush=True,
        )
        if asked.wrong:
            with open(asked.wrong, "a", encoding="utf-8") as file:
                file.writelines(
                    f"{out}\t{'|'.join(fair)}\t{said}\t{words}\n" for fair, said, words in got.wrong
                )


if __name__ == "__main__":
    main()
