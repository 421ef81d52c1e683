"""Are the worlds of terms true? Somebody who did not write them marks some again, without looking, and the two are compared.

    python -m benchmarks.second_marking sheet.csv 100 7      100 terms, drawn with 7, with a blank column world
    python -m benchmarks.second_marking sheet.csv            compares what was marked in it with what ships

Write - where a term takes nothing for granted; rows that stay blank are passed over. A dimension that a marking leaves out takes nothing for granted: all its values. Told are, dimension by dimension, how much two markings
share (Jaccard: what both allow, of what either allows) where either speaks and where both do, and in how many terms they exclude each other.
"""  # noqa: E501

import csv
import sys
from pathlib import Path
from random import Random

from benchmarks.picks import dimensions, read_world, terms

SEEN = ("facet", "term", "phrase", "place", "clause", "gloss")
MARKED = "world"


def sheet(path: Path, number: int, draw: int) -> None:
    """Write terms to be marked, chosen among those of all facets, without what they were marked
    before.
    """
    chosen = Random(draw).sample(sorted(terms()), number)
    with path.open("w", encoding="utf-8", newline="") as out:
        rows = csv.DictWriter(out, [*SEEN, MARKED], extrasaction="ignore", restval="")
        rows.writeheader()
        rows.writerows(
            {**terms()[facet, name], "facet": facet, MARKED: ""} for facet, name in chosen
        )


def shared(
    one: dict[str, frozenset[str]], other: dict[str, frozenset[str]], dimension: str
) -> float | None:
    """How much two markings share on a dimension; None if neither speaks of it."""
    if dimension not in one and dimension not in other:
        return None
    every = frozenset(dimensions()[dimension]["values"])
    a, b = one.get(dimension, every), other.get(dimension, every)
    return len(a & b) / len(a | b)


def compare(path: Path) -> None:
    with path.open(encoding="utf-8", newline="") as file:
        rows = [row for row in csv.DictReader(file) if row[MARKED].strip()]
    found: dict[str, list[float]] = {dimension: [] for dimension in dimensions()}
    both: dict[str, list[float]] = {dimension: [] for dimension in dimensions()}
    against = []
    for row in rows:
        first, second = (
            read_world(terms()[row["facet"], row["term"]].get("world") or ""),
            read_world(row[MARKED].strip().removeprefix("-")),
        )
        for dimension, values in found.items():
            if (share := shared(first, second, dimension)) is not None:
                values.append(share)
                both[dimension] += [share] * (dimension in first and dimension in second)
                against += [f"{row['term']}: {dimension}"] * (share == 0)
    print(
        f"{len(rows)} terms marked twice\n\n{'dimension':<12} {'by either':>9} {'shared':>7}"
        f" {'by both':>9} {'shared':>7}"
    )
    found["all"], both["all"] = (
        [v for values in found.values() for v in values],
        [v for values in both.values() for v in values],
    )
    for dimension, values in found.items():
        if values:
            two = both[dimension]
            print(
                f"{dimension:<12} {len(values):>9} {sum(values) / len(values):>7.0%} {len(two):>9} "
                + (f"{sum(two) / len(two):>7.0%}" if two else f"{'-':>7}")
            )
    print(f"\nexclude each other: {len(against)}" + "".join(f"\n  {one}" for one in against))


if __name__ == "__main__":
    if len(sys.argv) > 2:
        sheet(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]) if len(sys.argv) > 3 else 1)
    else:
        compare(Path(sys.argv[1]))
