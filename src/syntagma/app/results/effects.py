"""What each choice of a family did: from the library's judgements to numbers, before anything is
paid and afterwards.
"""

import hashlib
import sys
from collections.abc import Callable, Sequence
from importlib.util import find_spec
from typing import Any, NamedTuple

import numpy as np

from syntagma.app.results.judged import Judged, answers_of, ratings_of, takes_of, verdicts_of
from syntagma.core.diagnostics import Trouble
from syntagma.core.judging.effects import (
    EffectsFit,
    Level,
    Pairing,
    fit,
    level_out,
    paired,
    too_few,
)
from syntagma.core.judging.layout import Layout, contrasts, layout
from syntagma.core.judging.observed import (
    Factors,
    JudgedTake,
    Table,
    factors_of,
    sum_to_zero,
    table,
)
from syntagma.core.judging.pairs import PairAnswer, hang_together, strengths
from syntagma.core.judging.phrases import MISSING, GoesWith, PhraseCount, counts, goes_with
from syntagma.core.judging.planning import (
    DRAWN,
    SCATTER,
    PricePerKept,
    Width,
    narrowed,
    next_rows,
    prices,
    widths,
)
from syntagma.core.judging.portraits import Portrait, alpha, portraits, steadiness
from syntagma.core.judging.promising import Best, best_rows
from syntagma.core.judging.wins import fit_wins, odds
from syntagma.storage.library import Library, kind_of

ENDS = {"rating": (0.0, 5.0), "approved": (0.0, 1.0), "money": (0.0, 1.0)}  # what an outcome can be
BESTS = 5  # combinations that are listed as the most promising
MORE = 6  # more prompts, for which the narrower intervals are estimated


class Forecast(NamedTuple):
    """What a family will be able to tell: its layout, how wide intervals will be, and what that
    supposes.
    """

    factors: Factors
    layout: Layout
    widths: tuple[Width, ...]
    takes: int
    scatter: float
    instead: float = float(
        "inf"
    )  # the widest interval, if as many results were one each of so many prompts

    @property
    def widest(self) -> float:
        """How far the widest interval reaches to each side, of those that can be determined."""
        return max((w.half for w in self.widths if np.isfinite(w.half)), default=float("inf"))

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        found = self.layout
        return {
            "prompts": found.prompts,
            "columns": found.effects,
            "rank": found.rank,
            "freedom": found.freedom,
            "takes": self.takes,
            "scatter": self.scatter,
            "confounded": list(found.untold),
            "aliases": [
                {"axes": [a.first, a.second], "share": round(a.share, 3)} for a in found.aliases
            ],
            "mistaken": [
                {"axis": axis, "for": [a, b], "share": round(share, 3)}
                for axis, a, b, share in found.mistaken
            ],
            "widths": {
                w.axis: round(w.half, 3) if np.isfinite(w.half) else None for w in self.widths
            },
            "one_result_each": _plain(self.instead),
        }


def forecast(factors: Factors, takes: int = 1, scatter: float = SCATTER) -> Forecast:
    """Look ahead. Raises Trouble if nothing varies."""
    needs("scipy", "effects")
    if not factors.names:
        raise Trouble(
            "nothing varies in it, so there is nothing to compare",
            "a family varies something: syntagma expand … --vary",
            2,
        )
    more = factors._replace(
        rows=np.array(
            [*factors.rows.tolist(), *next_rows(factors, len(factors.rows) * (takes - 1))],
            dtype=int,
        )
    )
    fresh = len({tuple(row) for row in more.rows.tolist()}) == len(more.rows) and takes > 1
    instead = (
        Forecast(factors, layout(more), tuple(widths(more, 1, scatter, DRAWN)), 1, scatter).widest
        if fresh
        else float("inf")
    )
    return Forecast(
        factors,
        layout(factors),
        tuple(widths(factors, takes, scatter, DRAWN)),
        takes,
        scatter,
        instead,
    )


def needs(package: str, what: str) -> None:
    """Raises Trouble if a package of the extra `results` is not installed. `package` is named as it
    is imported.
    """
    if sys.modules.get(package, package) is None or not find_spec(package):
        name = {"PIL": "Pillow", "scipy": "SciPy", "matplotlib": "Matplotlib"}.get(package, package)
        raise Trouble(
            f"{what} needs the package {name}, which is not installed",
            "install it: pip install 'syntagma[results]'",
        )


Claim = tuple[str, str, bool]  # axis, choice, better or worse


class Observed(NamedTuple):
    """What a look rests on: the table of one outcome, by some judges; of wins the pairs and the
    prompt of each result; `data` is a digest of all of it.
    """

    table: Table
    takes: tuple[JudgedTake, ...]
    answers: tuple[PairAnswer, ...]
    prompt_of: tuple[int, ...]
    data: str

    @property
    def count(self) -> int:
        """How many judgements it is made of."""
        return len(self.answers) or sum(len(take.values) for take in self.takes)


class EffectsReport(NamedTuple):
    """What was found of a family that was judged. `earlier` are claims of looks before this one
    which the intervals still bear out.
    """

    name: str
    outcome: str
    table: Table
    layout: Layout
    fit: EffectsFit
    look: int
    earlier: tuple[Claim, ...]
    models: tuple[Pairing, ...]
    prices: tuple[PricePerKept, ...]
    currency: str
    portraits: tuple[Portrait, ...]
    alpha: float
    steady: float
    disagree: tuple[str, ...]
    phrases: tuple[PhraseCount, ...]
    goes: GoesWith | None
    drawn: float
    narrower: float
    missing: int
    answers: int
    kind: str = "result"  # picture, clip or sound, where all of them are
    best: tuple[Best, ...] = ()
    test: tuple[str, str, int] | None = (
        None  # a phrase that was missing, its slot, and a result that can be gone on from
    )

    @property
    def results(self) -> int:
        """How many results it rests on, those that were refused with them."""
        return int(self.table.draws.sum())

    @property
    def claims(self) -> tuple[Claim, ...]:
        """What this look says of choices."""
        return tuple((e.axis, e.choice, e.size > 0) for e in self.fit.effects if e.told)

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        found = {
            "name": self.name,
            "outcome": self.outcome,
            "look": self.look,
            "prompts": len(self.table.prompts),
            "results": self.results,
            "refused": int(self.table.refused.sum()),
            "missing": self.missing,
            "mean": _plain(self.fit.mean),
            "scatter": _plain(self.fit.scatter),
            "scatter_of_takes": _plain(self.drawn),
            "freedom": _plain(self.fit.freedom),
            "of_these_prompts_alone": self.fit.alone,
            "claims_up_to": _plain(self.fit.spends),
            "effects": [
                {
                    "axis": e.axis,
                    "choice": e.choice,
                    **({"against": e.against} if e.against else {}),
                    "size": _plain(e.size),
                    "low": _plain(e.low),
                    "high": _plain(e.high),
                    "chance": _plain(e.chance),
                    "mean": _plain(e.mean),
                    "prompts": e.prompts,
                    "refused": e.refused,
                    "clear": e.told,
                }
                for e in self.fit.effects
            ],
            **(
                {
                    "these_prompts": [
                        {
                            "axis": e.axis,
                            "choice": e.choice,
                            "low": _plain(low),
                            "high": _plain(high),
                        }
                        for e, (low, high) in zip(self.fit.effects, self.fit.own, strict=True)
                    ]
                }
                if self.fit.own
                else {}
            ),
            "together": [
                {"axes": [j.first, j.second], "chance": _plain(j.chance), "clear": j.told}
                for j in self.fit.joints
            ],
            "judges": [_judge(one) for one in self.portraits],
            "agreement": _plain(self.alpha),
            "steadiness": _plain(self.steady),
            "confounded": list(self.layout.untold),
            "six_more": _plain(self.narrower),
        }
        if self.models:
            found["models"] = [
                {
                    "first": p.first,
                    "second": p.second,
                    "size": _plain(p.size),
                    "low": _plain(p.low),
                    "high": _plain(p.high),
                    "prompts": p.prompts,
                }
                for p in self.models
            ]
        if self.prices:
            found["money"] = [
                {
                    "axis": p.axis,
                    "choice": p.choice,
                    "each": _plain(p.size),
                    "low": _plain(p.low),
                    "high": _plain(p.most),
                    "currency": self.currency,
                    "approved": _plain(p.kept),
                    "takes": p.takes,
                    "prompts": p.prompts,
                }
                for p in self.prices
            ]
        if self.phrases:
            found["phrases"] = [
                {
                    "slot": p.slot,
                    "phrase": p.phrase,
                    "shown": p.shown,
                    "missing": p.missing,
                    "overpowering": p.overpowering,
                    "ratings": _plain(p.ratings),
                    "chance": _plain(p.chance),
                }
                for p in self.phrases
            ]
        if self.best:
            found["best"] = [
                {
                    "choices": self.choices(b.row),
                    "mean": _plain(b.mean),
                    "low": _plain(b.low),
                    "high": _plain(b.high),
                    "chance": _plain(b.chance),
                    "results": b.tried,
                }
                for b in self.best
            ]
        return found

    def choices(self, row: Sequence[int]) -> dict[str, str]:
        """The choices of a combination by their names."""
        factors = self.table.factors
        return {name: factors.levels[axis][row[axis]] for axis, name in enumerate(factors.names)}


def _judge(one: Portrait) -> dict[str, Any]:
    """A judge as JSON has it."""
    return {
        "judge": one.judge,
        "results": one.results,
        "pairs": one.pairs,
        "level": _plain(one.level.size) if one.level else None,
        "level_error": _plain(one.level.error) if one.level else None,
        "twice": one.twice.of,
        "same": one.twice.part,
        "agreement": {
            "size": _plain(one.agreement.size),
            "low": _plain(one.agreement.low),
            "high": _plain(one.agreement.high),
            "results": one.agreement.results,
        },
        "drift": _plain(one.drift.size),
        "drift_error": _plain(one.drift.error),
        "decided": one.left.of,
        "left": one.left.part,
        "as_others": one.as_others.part,
        "of_others": one.as_others.of,
        "prefers_a_side": one.sided,
        "stance": one.stance,
    }


def _plain(value: float) -> float | None:
    """A number as JSON takes it: none that is infinite or is not there."""
    return round(float(value), 4) if np.isfinite(value) else None


def observed(family: Judged, outcome: str, judges: Sequence[str] | None = None) -> Observed:
    """What a look at an outcome rests on, by these judges (None: all). Raises Trouble if nothing
    was judged by it, or by them.
    """
    needs("scipy", "effects")
    if unknown := [name for name in judges or () if name not in family.judges]:
        raise Trouble(
            f"nobody called {unknown[0]} judged {family.name}",
            f"the judges are {', '.join(family.judges) or 'none yet'}",
            2,
        )
    if outcome == "wins":
        return _of_pairs(family, judges)
    takes = takes_of(family, outcome)
    if not any(judges is None or judge in judges for take in takes for judge in take.values):
        raise Trouble(
            f"no result of {family.name} was judged {_by(outcome)}",
            f"syntagma judge {family.name}",
            2,
        )
    made = table(family.prompts, takes, judges=judges)
    rests = [
        made.prompts,
        made.factors.levels,
        made.outcome.round(9).tolist(),
        made.draws.tolist(),
        made.refused.tolist(),
        made.judges,
        made.shares.round(9).tolist(),
    ]
    return Observed(
        made, tuple(takes), (), (), _digest("approved" if outcome == "money" else outcome, rests)
    )


def _of_pairs(family: Judged, judges: Sequence[str] | None) -> Observed:
    """What pairs say: the results that were compared, as prompts with their strengths."""
    answers, ids = answers_of(family, judges)
    if not answers:
        raise Trouble(
            f"no result of {family.name} was judged {_by('wins')}",
            f"syntagma judge {family.name} --pairs",
            2,
        )
    if not hang_together(len(ids), answers):
        raise Trouble(
            "the comparisons so far don't connect all choices",
            f"syntagma judge {family.name} --pairs",
            2,
        )
    names = [family.prompt_of[number] for number in ids]
    prompts = [one for one in family.prompts if one.name in set(names)]
    place = {one.name: i for i, one in enumerate(prompts)}
    of = tuple(place[name] for name in names)
    values, draws = strengths(len(ids), answers).values, np.bincount(of, minlength=len(prompts))
    means = np.bincount(of, values, len(prompts)) / draws
    made = Table(
        factors_of(prompts),
        means,
        draws,
        np.zeros(len(prompts), dtype=int),
        tuple(one.name for one in prompts),
        judges=tuple(sorted({a.judge for a in answers})),
    )
    return Observed(
        made, (), tuple(answers), of, _digest("wins", [ids, sorted(map(tuple, answers))])
    )


def _digest(outcome: str, rests: object) -> str:
    return hashlib.sha256(repr((outcome, rests)).encode("utf-8", "surrogatepass")).hexdigest()


def looked(
    library: Library,
    family: Judged,
    outcome: str,
    judges: Sequence[str] | None = None,
    allowed: Callable[[Sequence[int]], bool] = lambda _: True,
) -> EffectsReport:
    """Look at a family: the look is counted, and what it claims is remembered. Raises Trouble if
    there is nothing to look at.
    """
    rests = observed(family, outcome, judges)
    if not rests.table.factors.names:
        raise Trouble(
            "everything judged so far is the same, so there is nothing to compare",
            "judge other members of the family too",
            2,
        )
    if too_few(rests.table):  # such a look claims nothing, and so spends nothing
        return report(family, outcome, rests, 1, (), judges, allowed)
    look = library.look(family.name, outcome, rests.count, rests.data)
    found = report(family, outcome, rests, look.number, look.claims, judges, allowed)
    library.claimed(family.name, rests.data, found.claims)
    return found


def report(
    family: Judged,
    outcome: str,
    rests: Observed,
    look: int = 1,
    claims: Sequence[Claim] = (),
    judges: Sequence[str] | None = None,
    allowed: Callable[[Sequence[int]], bool] = lambda _: True,
) -> EffectsReport:
    """The whole of it; `look`: the how-manieth look at the family this is, `claims` what earlier
    ones said. Raises Trouble.
    """
    made = rests.table
    found = (
        fit_wins(made, rests.prompt_of, rests.answers, look)
        if outcome == "wins"
        else fit(made, look)
    )
    ratings = {
        number: {
            judge: rating for judge, rating in own.items() if judges is None or judge in judges
        }
        for number, own in ratings_of(family).items()
    }
    twice = [one for one in _twice(family) if judges is None or one[0] in judges]
    answers, ids = answers_of(family, judges)
    more = next_rows(made.factors, MORE, allowed) if outcome != "wins" and found.freedom > 0 else []
    verdicts = verdicts_of(family)
    costs, currency = _prices(family, rests, outcome)
    level = made._replace(outcome=level_out(made, found.levels))
    return EffectsReport(
        family.name,
        outcome,
        made,
        layout(made.factors),
        found,
        look,
        _borne_out(found, claims),
        tuple(paired(level, "model")),
        costs,
        currency,
        portraits(
            ratings,
            found.levels if outcome == "rating" else _rating_levels(family, judges),
            _said(family),
            twice,
            answers,
            len(ids),
        ),
        alpha(list(ratings.values())),
        steadiness([(a, b) for _, a, b in twice]),
        _disagree(family, made, found, outcome, judges),
        tuple(counts(verdicts)),
        goes_with(verdicts),
        made.inner,
        narrowed(made.factors, found, more),
        family.missing,
        rests.count,
        _kind(family),
        tuple(best_rows(level, BESTS, allowed, ends=ENDS.get(outcome, (-np.inf, np.inf)))),
        _test(family),
    )


def _kind(family: Judged) -> str:
    """What the results are called, if all are of a kind."""
    kinds = {kind_of(one.ending) for one in family.kept}
    return (
        {"image": "picture", "video": "clip", "audio": "sound"}[kinds.pop()]
        if len(kinds) == 1
        else "result"
    )


def _rating_levels(family: Judged, judges: Sequence[str] | None) -> tuple[Level, ...]:
    """The judges' levels in ratings, where the outcome is another."""
    made = table(family.prompts, takes_of(family, "rating"), judges=judges)
    return fit(made, permuted=1).levels if made.factors.names else ()


def _borne_out(found: EffectsFit, claims: Sequence[Claim]) -> tuple[Claim, ...]:
    """The claims of earlier looks that this one does not make, and whose intervals still lie on
    that side of nothing.
    """
    still: list[Claim] = []
    for e in found.effects:
        names = [
            (e.axis, e.choice, e.size > 0),
            *([(e.axis, e.against, e.size < 0)] if e.against else []),
        ]
        if e.clear and not e.told and any(name in claims for name in names):
            still.append(names[0])
    return tuple(still)


def _said(family: Judged) -> dict[str, list[tuple[int, float]]]:
    """Of each judge the results in the order in which they were rated."""
    found: dict[str, list[tuple[int, float]]] = {}
    for one in family.judgements:
        if one.kind == "rating" and not one.again:
            found.setdefault(one.judge, []).append((one.kept, float(one.value)))
    return found


def _test(family: Judged) -> tuple[str, str, int] | None:
    """The phrase that was missing most often, and a result of which somebody said so."""
    missing = [one for one in family.judgements if one.kind == "phrase" and one.value == MISSING]
    if not missing:
        return None
    names = [(one.slot, one.phrase) for one in missing]
    slot, phrase = max(dict.fromkeys(names), key=names.count)
    return (
        slot,
        phrase,
        next(one.kept for one in missing if (one.slot, one.phrase) == (slot, phrase)),
    )


def _by(outcome: str) -> str:
    return {
        "rating": "by ratings",
        "approved": "as approved or not",
        "money": "as approved or not",
        "wins": "in pairs",
    }[outcome]


def _prices(family: Judged, rests: Observed, outcome: str) -> tuple[tuple[PricePerKept, ...], str]:
    """Money for one that is approved, and in which currency. Raises Trouble if that can't
    be said.
    """
    if outcome != "money":
        return (), ""
    costs: dict[str, list[float]] = {}
    for take in rests.takes:
        if take.cost is not None:
            costs.setdefault(take.prompt, []).append(take.cost)
    if not costs:
        raise Trouble(
            "nobody knows what these results cost",
            "use results of a sheet, which have a cost; or another outcome: --outcome approved",
            2,
        )
    currencies = sorted({one.currency for one in family.kept if one.cost is not None})
    if len(currencies) > 1:
        raise Trouble(
            "these results were paid for in"
            f" {' and '.join(one or 'no currency' for one in currencies)}",
            "take another outcome: --outcome approved",
            2,
        )
    made = rests.table
    mean = float(np.mean([c for own in costs.values() for c in own]))
    return (
        tuple(
            prices(
                made,
                np.array(
                    [
                        float(np.mean(costs[name])) if name in costs else mean
                        for name in made.prompts
                    ]
                ),
            )
        ),
        currencies[0],
    )


def _twice(family: Judged) -> list[tuple[str, float, float]]:
    """What somebody judged twice: ratings of one result, or a pair whose sides were changed; with
    who it was.
    """
    seen: dict[tuple[object, ...], float] = {}
    found: list[tuple[str, float, float]] = []
    key: tuple[object, ...]
    side = {"left": 1.0, "right": 0.0, "tie": 0.5, "neither": 0.5}
    for one in family.judgements:
        if one.kind == "rating":
            key, value = (one.judge, one.kept), float(one.value)
        elif one.kind == "pair":
            turned = one.kept > one.other
            key, value = (
                (one.judge, min(one.kept, one.other), max(one.kept, one.other)),
                (1 - side[one.value] if turned else side[one.value]),
            )
        else:
            continue
        if key in seen:
            found.append((one.judge, seen[key], value))
        seen[key] = value
    return found


def _disagree(
    family: Judged, made: Table, found: EffectsFit, outcome: str, judges: Sequence[str] | None
) -> tuple[str, ...]:
    """Choices of which a fit that takes ratings as an order only, each judge on a scale of their
    own, says the opposite of a claim.
    """
    if outcome != "rating" or not any(e.told for e in found.effects):
        return ()
    place = {name: i for i, name in enumerate(made.prompts)}
    said = [
        (place[name], judge, rating)
        for number, own in ratings_of(family).items()
        if (name := family.prompt_of.get(number, "")) in place
        for judge, rating in own.items()
        if judges is None or judge in judges
    ]
    names = sorted({judge for _, judge, _ in said})
    codes = sum_to_zero(len(names)) if names else np.zeros((0, 0))
    try:
        sizes = odds(
            made.factors,
            [row for row, _, _ in said],
            [rating for _, _, rating in said],
            np.array([codes[names.index(judge)] for _, judge, _ in said]),
        )
    except ValueError:
        return ()
    wanted = contrasts(made.factors)
    return tuple(
        e.choice
        for e, size, _ in zip(found.effects, sizes, wanted, strict=True)
        if e.told and size * e.size < 0
    )
