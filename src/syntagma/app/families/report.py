"""What a family is worth as a design: balance, pairs covered, distances, lengths and cost; and its
table, prompts by axes.
"""

from collections import Counter
from importlib.util import find_spec
from itertools import combinations
from math import prod
from typing import NamedTuple

from syntagma.app.families.family import Family
from syntagma.app.families.variants import groups_of
from syntagma.core.designs.level_rows import impossible
from syntagma.core.diagnostics import Trouble
from syntagma.core.models.prices import Bill
from syntagma.storage.files import whole_file

MANY = 2000  # members among which distances are looked at


class FamilyReport(NamedTuple):
    """A family looked over. `rows` are level numbers by member; `impossible` the pairs (or triples)
    that no member can have, in words; `lengths` the least, mean and most of each model's texts, in
    the unit of its limit.
    """

    axes: list[str]
    levels: list[list[str]]
    rows: list[tuple[int, ...]]
    strength: int
    covered: int
    possible: int
    impossible: list[str]
    full: int
    distances: dict[int, int]
    lengths: dict[str, tuple[float, float, float, str]]
    bills: list[Bill]
    efficiency: float | None = None
    grouped: bool = False  # do groups of axes with a strength of their own count among the covered?

    def balance(self) -> list[tuple[str, list[tuple[str, int]]]]:
        """How often each level of each axis comes up."""
        counts = [Counter(row[i] for row in self.rows) for i in range(len(self.axes))]
        return [
            (axis, [(name, counts[i][v]) for v, name in enumerate(self.levels[i])])
            for i, axis in enumerate(self.axes)
        ]

    def table(self) -> list[list[str]]:
        """Prompts by axes, in words."""
        return [[self.levels[i][v] for i, v in enumerate(row)] for row in self.rows]

    def record(self) -> dict[str, object]:
        """The report as `--json` gives it."""
        return {
            "prompts": len(self.rows),
            "full": self.full,
            "strength": self.strength,
            "covered": self.covered,
            "possible": self.possible,
            "impossible": self.impossible,
            "balance": {axis: dict(levels) for axis, levels in self.balance()},
            "distances": {str(k): v for k, v in sorted(self.distances.items())},
            "lengths": {
                m: {"least": a, "mean": round(b, 1), "most": c, "unit": u}
                for m, (a, b, c, u) in self.lengths.items()
            },
            "costs": [
                {"model": b.model, "cost": {"amount": b.amount, "currency": b.currency}}
                for b in self.bills
                if b.amount is not None
            ],
        } | ({} if self.efficiency is None else {"efficiency": round(self.efficiency, 4)})


def report(family: Family) -> FamilyReport:
    """Run through a family that has axes and look it over."""
    places = [
        {id(level): v for v, level in enumerate(axis.levels)} for axis in family.compiled.axes
    ]
    rows: list[tuple[int, ...]] = []
    sizes: dict[str, list[int]] = {}
    units: dict[str, str] = {}
    for member in family.members():
        rows.append(
            tuple(place[id(level)] for place, level in zip(places, member.combination, strict=True))
        )
        for writer, prompt in zip(family.writers_of(member), member.prompts, strict=True):
            name, limit = writer.profile.name or "no model", writer.profile.text_limit
            sizes.setdefault(name, []).append(prompt.used if limit else len(prompt.text))
            units[name] = limit.unit if limit else "characters"
    strength = min(family.compiled.wish.design.strength, len(family.compiled.axes))
    space = family.compiled.clashes.space()
    groups = [
        *combinations(range(len(family.compiled.axes)), strength),
        *(axes for axes in groups_of(family.compiled) if len(axes) > strength),
    ]
    held = {(axes, tuple(row[a] for a in axes)) for row in rows for axes in groups}
    never = [
        found
        for size in sorted({len(axes) for axes in groups})
        for found in impossible(space, size)
        if found[0] in groups
    ]
    every = sum(prod(space.levels[a] for a in axes) for axes in groups)
    return FamilyReport(
        [axis.slot for axis in family.compiled.axes],
        [[axis.label(v) for v in range(len(axis.levels))] for axis in family.compiled.axes],
        rows,
        strength,
        len(held - set(never)),
        every - len(never),
        [_words(family, axes, at) for axes, at in never],
        prod(space.levels),
        _distances(rows),
        {m: (min(s), sum(s) / len(s), max(s), units[m]) for m, s in sizes.items()},
        family.bills(),
        family.efficiency,
        bool(family.compiled.wish.design.groups),
    )


def _words(family: Family, axes: tuple[int, ...], at: tuple[int, ...]) -> str:
    return " with ".join(family.compiled.axes[a].label(v) for a, v in zip(axes, at, strict=True))


def _distances(rows: list[tuple[int, ...]]) -> dict[int, int]:
    """In how many axes two members differ: how many pairs of members by number of axes."""
    if len(rows) > MANY:
        return {}
    return dict(
        Counter(
            sum(a != b for a, b in zip(one, other, strict=True))
            for one, other in combinations(rows, 2)
        )
    )


def draw_table(found: FamilyReport, path: str) -> None:
    """The table as a picture (PNG): a line per member, a column an axis, a colour a level. Raises
    Trouble if what draws is not installed.
    """
    if not find_spec("matplotlib"):
        raise Trouble(
            "drawing a table needs matplotlib",
            "install it: pip install 'syntagma[plots]'; or write --table -",
            2,
        )
    from matplotlib import use

    use("Agg")
    import matplotlib.pyplot as plt

    rows, columns = len(found.rows), len(found.axes)
    widths = [max(len(name) for name in [*found.levels[i], found.axes[i]]) for i in range(columns)]
    figure, axes = plt.subplots(
        figsize=(min(40, 1 + sum(widths) * 0.085), min(60, 0.8 + rows * 0.3)), dpi=100
    )
    starts = [sum(widths[:i]) for i in range(columns + 1)]
    for i in range(columns):
        palette = plt.get_cmap("Pastel1" if len(found.levels[i]) <= 9 else "tab20")
        axes.text(starts[i] + 0.6, -0.5, found.axes[i], va="center", fontsize=9, fontweight="bold")
        for r, row in enumerate(found.rows):
            colour = palette(row[i] % palette.N)
            axes.add_patch(
                plt.Rectangle((starts[i], r), widths[i], 1, facecolor=colour, edgecolor="white")
            )
            axes.text(starts[i] + 0.6, r + 0.5, found.levels[i][row[i]], va="center", fontsize=8)
    for r in range(rows):
        axes.text(-0.6, r + 0.5, str(r + 1), va="center", ha="right", fontsize=8, color="#666666")
    axes.set_xlim(-4, starts[-1])
    axes.set_ylim(rows, -1.2)
    axes.axis("off")
    with whole_file(path) as file:
        figure.savefig(file.buffer, bbox_inches="tight", format="png")
    plt.close(figure)
