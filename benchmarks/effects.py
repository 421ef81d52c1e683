"""Effects, judged by simulation with known truth: python -m benchmarks.effects [RUNS] [SCENE …].

Fifteen scenes at 40 and at 200 pictures, RUNS (300) families each. Designs, truths, judges and
ratings are made here, without any code of the program; the program gets a family as its library
holds it, and says what it would say to a person. Told are, for each scene: how often the 95 %
intervals hold the truth (the difference of the mean outcome over all combinations, for these
judges), with its standard error, and if there are several looks the lowest and the highest of them;
and in how many families, over all looks, anything at all is claimed if nothing has an effect. The
settings of each scene are the table below.
"""

import os
import sys
from concurrent.futures import ProcessPoolExecutor
from itertools import product
from math import sqrt
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import NamedTuple

os.environ.setdefault("OMP_NUM_THREADS", "1")  # before NumPy is there: families run side by side

import numpy as np
from scipy.stats import norm


class Scene(NamedTuple):
    """One scene. Standard deviations: `effect` of choices, `between` prompts of the same choices,
    `drawn` results of one prompt, `noise` of one rating, `crossed` of joint effects of two axes;
    `mean` the mean of what is rated from 0 to 5. `levels`: how far above the truth each judge
    ratings. What each judge sees: all, or `sees` (first half: the second judge saw the first half
    of the sheet alone; a share: by chance). `random`: that many of the judges rating at random;
    `drift`: by how much ratings fall from the first to the last; `refused`, `lost`: shares of
    results (refusals of one choice only); `draws`: results per prompt, 0: one to four; `looks`: so
    many, results coming in parts; `pairs`: pairs for each picture in place of ratings.
    """

    name: str
    levels: tuple[float, ...] = (0.0,)
    sees: str | float = "all"
    random: int = 0
    drift: float = 0.0
    refused: float = 0.0
    lost: float = 0.0
    draws: int = 2
    mean: float = 2.6
    effect: float = 0.5
    between: float = 0.5
    drawn: float = 0.5
    noise: float = 0.4
    crossed: float = 0.0
    looks: int = 1
    pairs: float = 0.0


SCENES = (
    Scene("one judge, two results a prompt"),
    Scene("one judge, one result a prompt", draws=1),
    Scene("three judges of unlike strictness", levels=(-0.8, 0.0, 0.8)),
    Scene("one of two, milder by 2, saw the first half", levels=(-0.8, 1.2), sees="first half"),
    Scene("each of three saw a random half", levels=(-0.7, 0.0, 0.7), sees=0.5),
    Scene("one of three ratings at random", levels=(-0.4, 0.0, 0.4), random=1),
    Scene("ratings drift by 1.5 from first to last", levels=(-0.3, 0.3), drift=1.5),
    Scene("one choice refused in 30 %", levels=(-0.3, 0.3), refused=0.3),
    Scene("a quarter of the ratings missing", levels=(-0.6, 0.0, 0.6), sees=0.75),
    Scene("a fifth of the results lost", levels=(-0.3, 0.3), lost=0.2),
    Scene("one to four results a prompt", levels=(-0.3, 0.3), draws=0),
    Scene("at the ceiling", levels=(-0.2, 0.2), mean=4.5),
    Scene("five judges", levels=(-0.8, -0.4, 0.0, 0.4, 0.8)),
    Scene("seventeen looks", levels=(-0.3, 0.3), looks=17),
    Scene("pairs, stopped early", pairs=1.5, effect=0.8, between=0.8, drawn=0.8),
    Scene("joint effects of two axes", levels=(-0.3, 0.3), crossed=0.35),
)
SIZES = {40: (3, 3, 2, 2), 200: (4, 4, 3, 3)}  # pictures, and how many choices the axes have
AXES = ("light", "palette", "medium", "lens")


def matrix(rows: np.ndarray, sizes: tuple[int, ...]) -> np.ndarray:
    """Main effects in 0 and 1, the first choice of each axis left out."""
    return np.column_stack(
        [
            np.ones(len(rows)),
            *(rows[:, a] == v for a, size in enumerate(sizes) for v in range(1, size)),
        ]
    ).astype(float)


def design(sizes: tuple[int, ...], count: int, random: np.random.Generator) -> np.ndarray:
    """Combinations, none twice while there are others: of sixty random choices the one with the
    largest determinant.
    """
    every = np.array(list(product(*map(range, sizes))))
    best, most = every[:0], -np.inf
    for _ in range(60):
        rows = every[
            np.concatenate(
                [random.permutation(len(every)) for _ in range(-(-count // len(every)))]
            )[:count]
        ]
        sign, log = np.linalg.slogdet(matrix(rows, sizes).T @ matrix(rows, sizes))
        if sign > 0 and log > most:
            best, most = rows, log
    return best


def mean_rating(latent: np.ndarray, spread: float) -> np.ndarray:
    """The mean of a rating, rounded and bound to 0 to 5, if what is rated scatters round
    `latent`.
    """
    return sum(norm.sf((k - 0.5 - latent) / spread) for k in range(1, 6))


class World:
    """A truth, and a family that is judged by it."""

    def __init__(self, scene: Scene, pictures: int, seed: int, effect: bool):
        self.scene, self.sizes, self.random = scene, SIZES[pictures], np.random.default_rng(seed)
        r, s, sizes = self.random, scene, self.sizes
        each = {0: 2.5}.get(s.draws, float(s.draws))
        count = min(int(pictures / each), int(np.prod(sizes)))
        self.rows = design(sizes, count, np.random.default_rng(seed % 20))
        self.own = [r.normal(0, s.effect * effect, size) for size in sizes]
        self.crossed = (
            {
                (a, b): centred(r.normal(0, s.crossed, (sizes[a], sizes[b])))
                for a, b in product(range(4), repeat=2)
                if a < b
            }
            if effect
            else {}
        )
        self.at_risk = r.permutation(sizes[0])[0] if effect else -1
        if s.sees == "first half":
            self.rows = self.rows[
                np.lexsort(self.rows.T[::-1])
            ]  # a sheet in the order of its first axis
        else:
            self.rows = r.permutation(self.rows)

    def latent(self, rows: np.ndarray) -> np.ndarray:
        found = self.scene.mean + sum(own[rows[:, a]] for a, own in enumerate(self.own))
        return found + sum(m[rows[:, a], rows[:, b]] for (a, b), m in self.crossed.items())

    def truth(self) -> dict[tuple[int, int], float]:
        """The mean of each choice less that of the others of its axis, over all combinations."""
        s, every = self.scene, np.array(list(product(*map(range, self.sizes))))
        if s.pairs:
            mean = self.latent(every)
        else:
            spread = sqrt(
                s.between**2 + s.drawn**2 + s.noise**2 + (s.drift**2 / 12 if s.drift else 0.0)
            )
            steady = [level for level in s.levels[s.random :]]
            mean = np.mean(
                [
                    *(mean_rating(self.latent(every) + level, spread) for level in steady),
                    *([np.full(len(every), 2.5)] * s.random),
                ],
                axis=0,
            )
            mean = mean * np.where(
                every[:, 0] == self.at_risk,
                1 - s.refused,
                1 if self.at_risk >= 0 else 1 - s.refused / 3,
            )
        return {
            (a, v): float(mean[every[:, a] == v].mean() - mean[every[:, a] != v].mean())
            for a, size in enumerate(self.sizes)
            for v in range(size)
        }

    def judged(self) -> tuple[list[tuple[int, int]], list[tuple[int, int, float]], list[int], int]:
        """Results as (number, prompt), ratings as (result, judge, rating), the prompts of refused
        results, how many were lost.
        """
        s, r = self.scene, self.random
        results: list[tuple[int, int]] = []
        latent: list[float] = []
        refused, lost = [], 0
        for prompt, value in enumerate(self.latent(self.rows)):
            here = value + r.normal(0, s.between)
            risk = (
                s.refused
                if self.rows[prompt, 0] == self.at_risk
                else 0.0
                if self.at_risk >= 0
                else s.refused / 3
            )
            for _ in range(s.draws or int(r.integers(1, 5))):
                if r.random() < risk:
                    refused.append(prompt)
                elif r.random() < s.lost:
                    lost += 1
                else:
                    results.append((len(results) + 1, prompt))
                    latent.append(here + r.normal(0, s.drawn))
        ratings = []
        for judge, level in enumerate(s.levels):
            order = r.permutation(len(results))
            for place, i in enumerate(order):
                if s.sees == "first half" and judge == 1 and i >= len(results) / 2:
                    continue
                if isinstance(s.sees, float) and r.random() > s.sees:
                    continue
                drift = s.drift * (0.5 - place / len(order))
                rating = (
                    r.integers(0, 6)
                    if judge < s.random
                    else np.clip(round(latent[i] + level + drift + r.normal(0, s.noise)), 0, 5)
                )
                ratings.append((int(i) + 1, judge, float(rating)))
        self.strength = np.array(latent)
        return results, ratings, refused, lost

    def pairs(self, count: int) -> list[tuple[int, int, bool]]:
        """Pairs in a ring and by chance, and which of the two won."""
        r = self.random
        order, asked = r.permutation(count), int(self.scene.pairs * count)
        pairs = [(order[i], order[(i + 1) % count]) for i in range(count)] + [
            tuple(r.choice(count, 2, replace=False)) for _ in range(asked - count)
        ]
        return [
            (
                int(a) + 1,
                int(b) + 1,
                bool(r.random() < 1 / (1 + np.exp(self.strength[b] - self.strength[a]))),
            )
            for a, b in pairs
        ]


def centred(m: np.ndarray) -> np.ndarray:
    """A joint effect without any effect of one axis alone."""
    return m - m.mean(axis=0) - m.mean(axis=1)[:, None] + m.mean()


def family_of(world: World, name: str, results, ratings, refused, lost, pairs=()):
    """A family as the program's library has it."""
    from syntagma.app.results.judged import Judged
    from syntagma.core.judging.observed import FamilyPrompt
    from syntagma.storage.library import Judgement, Kept

    said = [
        {axis: f"{axis} {value}" for axis, value in zip(AXES, row, strict=True)}
        for row in world.rows.tolist()
    ]
    names = [str(choices) for choices in said]
    prompts = {n: FamilyPrompt(n, choices) for n, choices in zip(names, said, strict=True)}
    blank = ("", ".png", 0, "", "", "", "", "", "", name, "", None, "", None, "", "", "", "", {})
    kept = tuple(Kept(number, *blank) for number, _ in results)
    judgements = [
        Judgement(f"judge {judge}", name, "rating", number, str(int(rating)))
        for number, judge, rating in ratings
    ]
    judgements += [
        Judgement("judge 0", name, "pair", a, "left" if won else "right", b) for a, b, won in pairs
    ]
    gone: dict[str, int] = {}
    for prompt in refused:
        gone[names[prompt]] = gone.get(names[prompt], 0) + 1
    return Judged(
        name,
        tuple(prompts.values()),
        kept,
        {number: names[prompt] for number, prompt in results},
        gone,
        tuple(judgements),
        lost,
    )


def looks_at(world: World, library, name: str) -> list:
    """What the program says, at each look."""
    from syntagma.app.results.effects import looked

    results, ratings, refused, lost = world.judged()
    outcome = "wins" if world.scene.pairs else "rating"
    reports = []
    for look in range(1, world.scene.looks + 1):
        most = len(results) * look // world.scene.looks
        if world.scene.looks > 1 and most < 12:
            continue
        part = [one for one in results if one[0] <= most]
        said = [one for one in ratings if one[0] <= most]
        reports.append(
            looked(
                library,
                family_of(
                    world,
                    name,
                    part,
                    said,
                    refused,
                    lost,
                    world.pairs(len(results)) if world.scene.pairs else (),
                ),
                outcome,
            )
        )
    return reports


def held(world: World, report) -> list[bool]:
    """Of each effect: does its interval hold the truth? One that has none says nothing."""
    true = world.truth()
    found = []
    for e in report.fit.effects:
        axis, value = AXES.index(e.axis), int(e.choice.split()[-1])
        if np.isfinite(e.low):
            found.append(e.low <= true[axis, value] <= e.high)
    return found


def run(
    scene: Scene, pictures: int, seeds: range
) -> tuple[list[list[tuple[int, int]]], int, float, int]:
    """Some families of a scene: at each look how many intervals hold the truth and how many there
    are, a family; false claims; true effects found.
    """
    from syntagma.storage.library import Library

    inside: list[list[tuple[int, int]]] = []
    claims, told, there = 0, 0.0, 0
    with TemporaryDirectory() as folder, Library(Path(folder)).whole() as library:
        library.base.execute("pragma synchronous=off")
        for seed in seeds:
            world = World(scene, pictures, 1000 + seed, True)
            reports = looks_at(world, library, f"family {seed}")
            inside.append(
                [(sum(one), len(one)) for one in (held(world, report) for report in reports)]
            )
            last = reports[-1].fit.effects
            true = world.truth()
            large = [
                e for e in last if abs(true[AXES.index(e.axis), int(e.choice.split()[-1])]) > 0.5
            ]
            told, there = told + sum(e.told for e in large), there + len(large)
            nothing = World(scene, pictures, 500_000 + seed, False)
            claims += any(
                report.claims or any(j.told for j in report.fit.joints)
                for report in looks_at(nothing, library, f"nothing {seed}")
            )
    return inside, claims, told, there


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 300
    scenes = [
        scene
        for scene in SCENES
        if len(sys.argv) < 3 or any(word in scene.name for word in sys.argv[2:])
    ]
    print(
        f"{'':46} {'pictures':>8} {'95 % intervals hold':>20} {'at every look':>16}"
        f" {'claims of nothing':>18} {'large effects found':>20}"
    )
    parts = [range(begin, min(begin + 25, runs)) for begin in range(0, runs, 25)]
    with ProcessPoolExecutor() as pool:
        jobs = {
            (scene, pictures): [pool.submit(run, scene, pictures, part) for part in parts]
            for scene in scenes
            for pictures in SIZES
        }
        for (scene, pictures), waiting in jobs.items():
            found = [one.result() for one in waiting]
            inside = [family for one in found for family in one[0]]
            share = [
                sum(good for good, _ in family) / max(1, sum(of for _, of in family))
                for family in inside
            ]
            looks = max(map(len, inside))
            at = [
                sum(f[-k][0] for f in inside if len(f) >= k)
                / max(1, sum(f[-k][1] for f in inside if len(f) >= k))
                for k in range(1, looks + 1)
            ]
            claims, told, there = (
                sum(one[1] for one in found) / runs,
                sum(one[2] for one in found),
                sum(one[3] for one in found),
            )
            every = f"{min(at):.1%} to {max(at):.1%}" if looks > 1 else ""
            print(
                f"{scene.name:46} {pictures:8} {np.mean(share):12.1%} ±"
                f" {np.std(share) / sqrt(runs):.1%} {every:>16} {claims:11.1%} ±"
                f" {sqrt(claims * (1 - claims) / runs):.1%} {told / max(1, there):15.0%}",
                flush=True,
            )


if __name__ == "__main__":
    main()
