"""Effects, judged by simulation with known truth: python -m benchmarks.effects [RUNS].

Ten scenarios, RUNS (600) families in each: how often 95 % intervals of the stated estimand (the difference of the mean mark over the prompts of the whole
design space, for these judges) hold the truth, each figure with its own standard error; and how often anything is claimed where nothing has an effect.
The settings of each scenario are the table below. The alias table of a cover of ten two-level axes stands at the end.
"""

import sys
from itertools import product
from random import Random
from typing import NamedTuple

import numpy as np

from syntagma.core.designs.level_rows import Space
from syntagma.core.designs.mixed import Model, mixed
from syntagma.core.judging.effects import fit
from syntagma.core.judging.layout import contrasts, layout
from syntagma.core.judging.observed import Factors, Prompt, Take, factors_of, table
from syntagma.core.judging.planning import next_rows


class Scene(NamedTuple):
    """One scenario. `sizes`: axes; `prompts`, `draws`, `judges`; standard deviations: `effect` of choices, `between` prompts, `drawn` draws, `judge` of a judge's
    own level, `noise` of one mark, `crossed` of joint effects of two axes; `mean` the mean mark; marks are rounded to 0 to 5. `keep`: the outcome is kept or
    not, with this share. `looks`: so many looks, the prompts coming in parts. `then`: so many prompts chosen by --next."""

    name: str
    sizes: tuple[int, ...] = (3, 3, 2)
    prompts: int = 24
    draws: int = 2
    judges: int = 1
    effect: float = 0.5
    between: float = 0.5
    drawn: float = 0.5
    judge: float = 0.4
    noise: float = 0.4
    crossed: float = 0.0
    mean: float = 2.7
    keep: float = 0.0
    looks: int = 1
    then: int = 0


SCENES = (
    Scene("one judge, two draws"),
    Scene("one draw", draws=1),
    Scene("six judges", judges=6),
    Scene("small: ten prompts, two axes", sizes=(2, 3), prompts=10, draws=3),
    Scene("many axes: seven of two", sizes=(2,) * 7, prompts=24),
    Scene("at the ceiling", mean=4.5, effect=0.4),
    Scene("joint effects of two axes", sizes=(3, 3, 4), crossed=0.35),
    Scene("few are kept (12 %)", keep=0.12, prompts=36, draws=3),
    Scene("twelve more by --next", prompts=16, then=12),
    Scene("six looks, the last", prompts=36, looks=6),
)


def centred(m: np.ndarray) -> np.ndarray:
    """A joint effect without any effect of one axis alone."""
    return m - m.mean(axis=0) - m.mean(axis=1)[:, None] + m.mean()


class World:
    """A truth, and marks drawn from it."""

    def __init__(self, scene: Scene, seed: int, effect: bool = True):
        self.scene, self.random = scene, np.random.default_rng(seed)
        sizes = scene.sizes
        self.every = list(product(*(range(size) for size in sizes)))
        own = [self.random.normal(0, scene.effect * effect, size) for size in sizes]
        joint = {(a, b): centred(self.random.normal(0, scene.crossed, (sizes[a], sizes[b]))) for a in range(len(sizes)) for b in range(a)}
        self.latent = {row: scene.mean + sum(own[a][v] for a, v in enumerate(row)) + sum(m[row[a], row[b]] for (a, b), m in joint.items()) for row in self.every}
        self.levels = self.random.normal(0, scene.judge, scene.judges)
        self.prompts: list[Prompt] = []
        self.takes: list[Take] = []

    def mark(self, latent: np.ndarray) -> np.ndarray:
        if self.scene.keep:
            return (latent > self.cut).astype(float)
        return np.clip(np.round(latent), 0, 5)

    @property
    def cut(self) -> float:
        from scipy.stats import norm

        s = self.scene
        return s.mean + norm.ppf(1 - s.keep) * np.sqrt(s.effect**2 * len(s.sizes) + s.between**2 + s.drawn**2 + s.noise**2)

    def truth(self) -> np.ndarray:
        """The mean outcome of each combination, over prompts, draws and noise, for these judges: by 3,000 draws of what scatters."""
        s = self.scene
        scatter = np.random.default_rng(7).normal(0, np.sqrt(s.between**2 + s.drawn**2 + s.noise**2), 3000)
        return np.array([np.mean([self.mark(self.latent[row] + judge + scatter).mean() for judge in self.levels]) for row in self.every])

    def effects(self, factors: Factors) -> list[float]:
        """The true contrasts, as `contrasts` orders them."""
        mean = dict(zip(self.every, self.truth(), strict=True))
        found = []
        for c in contrasts(factors):
            axis = int(factors.names[c.axis])
            level = int(factors.levels[c.axis][c.level])
            rows = [(row[axis], value) for row, value in mean.items()]
            found.append(np.mean([v for at, v in rows if at == level]) - np.mean([v for at, v in rows if at != level]))
        return found

    def judge(self, rows) -> None:
        s = self.scene
        for row in rows:
            name = f"p{len(self.prompts)}"
            self.prompts.append(Prompt(name, {str(a): str(v) for a, v in enumerate(row)}))
            own = self.latent[tuple(row)] + self.random.normal(0, s.between)
            for _ in range(s.draws):
                here = own + self.random.normal(0, s.drawn)
                marks = self.mark(here + self.levels + self.random.normal(0, s.noise, s.judges))
                self.takes.append(Take(name, {f"j{i}": float(m) for i, m in enumerate(marks)}))


def designed(scene: Scene, seed: int, count: int) -> list[tuple[int, ...]]:
    found = mixed(Space(list(scene.sizes), ()), count, Model(tuple(range(len(scene.sizes)))), Random(seed), 0.25)
    return [tuple(row) for row in found.rows.tolist()]


def judged(scene: Scene, seed: int, design, effect: bool = True) -> tuple[World, list]:
    """A world whose design is judged; its fits, one a look."""
    world = World(scene, seed, effect)
    fits = []
    part = len(design) // scene.looks
    order = list(design)
    Random(seed).shuffle(order)
    for look in range(scene.looks):
        world.judge(order[part * look : part * (look + 1)])
        if scene.looks == 1 or look > 0:
            made = table(world.prompts, world.takes)
            fits.append((made.factors, fit(made, look + 1, permuted=400)))
    if scene.then:
        factors = factors_of(world.prompts)
        told = [not e.told for e in fits[-1][1].effects]
        rows = next_rows(factors, scene.then, weights=[1.0 if open_ else 0.3 for open_ in told])
        world.judge([tuple(int(factors.levels[a][v]) for a, v in enumerate(row)) for row in rows])
        made = table(world.prompts, world.takes)
        fits.append((made.factors, fit(made, 2, permuted=400)))
    return world, fits


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 600
    print(f"{'':32} of 95 % intervals hold   at every look   half width   claims with no effect")
    for scene in SCENES:
        held, whole, half, claims, usable = [], [], [], 0, 0
        designs = [designed(scene, seed, scene.prompts) for seed in range(12)]
        for run in range(runs):
            world, fits = judged(scene, 10_000 + run, designs[run % 12])
            factors, last = fits[-1]
            if last.scatter > 1e-9 and all(np.isfinite(e.low) for e in last.effects):
                true = world.effects(factors)
                inside = [e.low <= t <= e.high for e, t in zip(last.effects, true, strict=True)]
                held.append(np.mean(inside))
                half.append(np.mean([(e.high - e.low) / 2 for e in last.effects]))
                every = [i for f, one in fits for i in [e.low <= t <= e.high for e, t in zip(one.effects, world.effects(f), strict=True)]]
                whole.append(np.mean([every[i :: len(last.effects)].count(False) == 0 for i in range(len(last.effects))]) if len(every) % len(last.effects) == 0 else np.nan)
                usable += 1
            _, fits = judged(scene, 50_000 + run, designs[run % 12], False)
            claims += any(e.told for _, one in fits for e in one.effects)
        error = np.std(held) / np.sqrt(len(held))
        share = claims / runs
        more = f"{np.nanmean(whole):13.1%}" if len(fits) > 1 else " " * 13
        print(f"{scene.name:32} {np.mean(held):10.1%} ± {error:.1%} {more}       {np.mean(half):8.2f}     {share:8.1%} ± {(share * (1 - share) / runs) ** 0.5:.1%}   {usable} of {runs} could be told", flush=True)
    print("\nA cover of every pair of ten axes of two choices, in six:")
    cover = [(0,) * 10, *(tuple(row) for row in [(0, 0, 0, 0, 1, 1, 1, 1, 1, 1), (0, 1, 1, 1, 0, 0, 0, 1, 1, 1), (1, 0, 1, 1, 0, 1, 1, 0, 0, 1), (1, 1, 0, 1, 1, 0, 1, 0, 1, 0), (1, 1, 1, 0, 1, 1, 0, 1, 0, 0)])]
    looked = layout(factors_of([Prompt(str(i), {f"axis {a + 1}": str(v) for a, v in enumerate(row)}) for i, row in enumerate(cover)]))
    print(f"  rank {looked.rank} of {looked.effects}; can't be told: {len(looked.untold)} of 10 axes; {len(looked.aliases)} pairs of axes go together")


if __name__ == "__main__":
    main()
