"""Data sets, looked over by code that shares nothing with what makes them: near twins by the words
that two texts share, leaks by looking for the words of one side in the other, balance in figures,
time and memory.

python -m benchmarks.datasets [PAIRS] [FORMULA …]
"""

import json
import re
import resource
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

FORMULAS = (
    "poster",
    "photograph",
    "film-shot",
    "portrait",
    "storybook",
    "product-still",
    "to-camera",
    "landscape",
)


def triples(text: str) -> set[tuple[str, ...]]:
    words = re.findall(r"[a-z0-9']+", text.lower())
    return {tuple(words[i : i + 3]) for i in range(len(words) - 2)}


def nearest(texts: list[str], fixed: list[set]) -> list[float]:
    """For each text the largest share of three words in a row that it has with another, the fixed
    words of its formula left out.
    """
    sets = [triples(text) - gone for text, gone in zip(texts, fixed, strict=True)]
    where: dict[tuple, list[int]] = {}
    for i, one in enumerate(sets):
        for triple in one:
            where.setdefault(triple, []).append(i)
    best = [0.0] * len(sets)
    for i, one in enumerate(sets):
        shared: Counter[int] = Counter(
            j for triple in one if len(where[triple]) < 400 for j in where[triple] if j != i
        )
        for j, number in shared.most_common(20):
            best[i] = max(best[i], number / max(1, len(one | sets[j])))
    return best


def main(words: list[str]) -> None:
    pairs = int(words[0]) if words else 2000
    formulas = words[1:] or list(FORMULAS)
    with tempfile.TemporaryDirectory() as folder:
        begun = time.perf_counter()
        subprocess.run(
            [
                sys.executable,
                "-m",
                "syntagma",
                "dataset",
                *formulas,
                "--count",
                str(pairs),
                "--out",
                f"{folder}/d.jsonl",
            ],
            capture_output=True,
            cwd=folder,
        )
        took = time.perf_counter() - begun
        memory = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        train, test = (
            [json.loads(line) for line in Path(folder, f"d-{name}.jsonl").read_text().splitlines()]
            for name in ("train", "test")
        )
    every = train + test
    print(f"{len(train)} and {len(test)} of {pairs} pairs in {took:.1f} s, {memory:.0f} MB")
    common: dict[str, set] = {}
    for name in formulas:
        of = [triples(r["prompt"]) for r in every if r["formula"] == name]
        counts = Counter(triple for one in of for triple in one)
        common[name] = {triple for triple, number in counts.items() if number > len(of) * 0.9}
    best = nearest([r["prompt"] for r in every], [common[r["formula"]] for r in every])
    print(
        f"prompts: the nearest other shares {sum(best) / len(best):.0%} in the mean; over 60 %:"
        f" {sum(b > 0.6 for b in best)}, over 80 %: {sum(b > 0.8 for b in best)}; the same:"
        f" {len(every) - len({r['prompt'] for r in every})}"
    )
    asked = nearest([r["instruction"] for r in every], [set()] * len(every))
    print(
        f"asked: over 80 %: {sum(b > 0.8 for b in asked)}; the same:"
        f" {len(every) - len({r['instruction'].lower() for r in every})}"
    )
    for slot in ("subject", "setting", "action", "hero", "place", "product"):
        held = {r["fills"][slot].lower() for r in train if slot in r["fills"]}
        mine = {r["fills"][slot].lower() for r in test if slot in r["fills"]}
        print(f"leaks of {slot}: {len(held & mine)} of {len(mine)} in the test")
    text = " ".join(r["prompt"].lower() for r in train)
    subjects = [r["fills"].get("subject", "?").lower() for r in test]
    print(
        "words of a test subject in the training's prompts:"
        f" {sum(f' {subject} ' in text for subject in subjects)}"
    )
    for what in ("formula", "way"):
        counts = Counter(r[what] for r in every)
        print(f"{what}: {min(counts.values())} to {max(counts.values())} each")
    for slot in ("subject", "light", "medium"):
        counts = Counter(r["fills"][slot] for r in every if slot in r["fills"])
        if counts:
            print(
                f"{slot}: {len(counts)} terms, the commonest {counts.most_common(1)[0][1]} of"
                f" {sum(counts.values())}"
            )


if __name__ == "__main__":
    main(sys.argv[1:])
