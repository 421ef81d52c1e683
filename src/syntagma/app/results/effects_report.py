"""What each choice of a family did: from the library's judgements to numbers, before anything is paid and afterwards."""

from importlib.util import find_spec
from typing import Any, NamedTuple

import numpy as np

from syntagma.app.results.judged import Judged, answers_of, marks_of, takes_of, verdicts_of
from syntagma.core.judging.agreement import alpha, between, steadiness
from syntagma.core.judging.effects import LEAST_JUDGES, AtLarge, Fit, Pairing, Price, at_large, fit, paired, prices
from syntagma.core.judging.layout import Layout, contrasts, layout
from syntagma.core.judging.observed import Factors, Table, table
from syntagma.core.judging.odds import odds
from syntagma.core.judging.pairs import hang_together
from syntagma.core.judging.phrases import MISSING, GoesWith, PhraseCount, counts, goes_with
from syntagma.core.judging.planning import DRAWN, SCATTER, Width, narrowed, widths
from syntagma.storage.trouble import Trouble

MORE = 6  # prompts by which it is told how much narrower intervals would be


class Forecast(NamedTuple):
    """What a family will be able to tell: its layout, how wide intervals will be, and what that supposes."""

    factors: Factors
    layout: Layout
    widths: tuple[Width, ...]
    draws: int
    scatter: float

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        found = self.layout
        return {
            "prompts": found.prompts, "columns": found.effects, "rank": found.rank, "freedom": found.freedom, "draws": self.draws, "scatter": self.scatter, "untold": list(found.untold),
            "aliases": [{"axes": [a.first, a.second], "share": round(a.share, 3)} for a in found.aliases],
            "mistaken": [{"axis": axis, "for": [a, b], "share": round(share, 3)} for axis, a, b, share in found.mistaken],
            "widths": {w.axis: round(w.half, 3) if np.isfinite(w.half) else None for w in self.widths},
        }  # fmt: skip


def forecast(factors: Factors, draws: int = 2, scatter: float = SCATTER) -> Forecast:
    """Look ahead. Raises Trouble where nothing varies."""
    needs("scipy", "effects")
    if not factors.names:
        raise Trouble("nothing varies in it, so that nothing can be told apart", "a family varies something: syntagma expand … --vary", 2)
    return Forecast(factors, layout(factors), tuple(widths(factors, draws, scatter, DRAWN)), draws, scatter)


def needs(package: str, what: str) -> None:
    """Raises Trouble where a package of the extra `results` is not there."""
    if not find_spec(package):
        raise Trouble(f"{what} needs the package {package}, which is not here", "install the extra: pip install 'syntagma[results]'")


class Report(NamedTuple):
    """What was found of a family that was judged."""

    name: str
    outcome: str
    table: Table
    layout: Layout
    fit: Fit
    looks: int
    large: tuple[AtLarge, ...]
    models: tuple[Pairing, ...]
    prices: tuple[Price, ...]
    judges: tuple[str, ...]
    alpha: float
    pairs: dict[tuple[str, str], float]
    steady: float
    disagree: tuple[str, ...]
    phrases: tuple[PhraseCount, ...]
    goes: GoesWith | None
    drawn: float
    narrower: float
    answers: int = 0  # that the outcome is made of
    test: tuple[str, str, int] | None = None  # a phrase that was missing, its slot, and a result that can be gone on from

    def record(self) -> dict[str, Any]:
        """As JSON has it."""
        found = {
            "name": self.name, "outcome": self.outcome, "look": self.looks, "prompts": len(self.table.prompts), "draws": int(self.table.draws.sum()), "refused": int(self.table.refused.sum()),
            "mean": _plain(self.fit.mean), "scatter": _plain(self.fit.scatter), "scatter_of_draws": _plain(self.drawn), "freedom": self.fit.freedom, "of_these_prompts_alone": self.fit.alone,
            "effects": [{"axis": e.axis, "choice": e.choice, **({"against": e.against} if e.against else {}), "size": _plain(e.size), "low": _plain(e.low), "high": _plain(e.high), "chance": _plain(e.chance), "mean": _plain(e.mean), "prompts": e.prompts, "refused": e.refused, "told": e.told} for e in self.fit.effects],
            "judges": list(self.judges), "agreement": _plain(self.alpha), "steadiness": _plain(self.steady), "can_not_be_told": list(self.layout.untold), "six_more": _plain(self.narrower),
        }  # fmt: skip
        if self.models:
            found["models"] = [{"first": p.first, "second": p.second, "size": _plain(p.size), "low": _plain(p.low), "high": _plain(p.high), "prompts": p.prompts} for p in self.models]
        if self.large:
            found["judges_at_large"] = [{"axis": a.axis, "choice": a.choice, "size": _plain(a.size), "low": _plain(a.low), "high": _plain(a.high)} for a in self.large]
        if self.prices:
            found["money"] = [{"axis": p.axis, "choice": p.choice, "each": _plain(p.size), "low": _plain(p.low), "high": _plain(p.most), "kept": p.kept, "takes": p.takes} for p in self.prices]
        if self.phrases:
            found["phrases"] = [{"slot": p.slot, "phrase": p.phrase, "shown": p.shown, "missing": p.missing, "overpowering": p.overpowering, "marks": _plain(p.marks), "chance": _plain(p.chance)} for p in self.phrases]
        return found


def _plain(value: float) -> float | None:
    """A number as JSON takes it: none that is infinite or is not there."""
    return round(float(value), 4) if np.isfinite(value) else None


def report(family: Judged, outcome: str, look: int, judges: list[str] | None = None) -> Report:
    """The whole of it; `look`: the how-manieth time this is looked at. Raises Trouble where nothing was judged by that outcome."""
    needs("scipy", "effects")
    takes = takes_of(family, outcome)
    if not any(take.values and not take.refused for take in takes):
        raise Trouble(f"nothing of {family.name} was judged {_by(outcome)}", f"syntagma judge {family.name}{' --pairs' if outcome == 'wins' else ''}", 2)
    worst = min((v for take in takes for v in take.values.values()), default=0.0) if outcome == "wins" else 0.0
    made = table(family.prompts, takes, worst, judges)
    if outcome == "wins" and not hang_together(len(family.kept), answers_of(family)[0]):
        raise Trouble("not everything was compared with everything else yet, not even through others", f"syntagma judge {family.name} --pairs", 2)
    if not made.factors.names:
        raise Trouble("what was judged so far differs in nothing", "judge more of it", 2)
    found = fit(made, look)
    marks = list(marks_of(family).values())
    twice = _twice(family)
    return Report(
        family.name, outcome, made, layout(made.factors), found, look, _large(family, takes, outcome), tuple(paired(made, "model")), _prices(family, takes, made, outcome),
        tuple(family.judges), alpha(marks), between(marks), steadiness(twice), _disagree(family, made, found, outcome), tuple(counts(verdicts_of(family))), goes_with(verdicts_of(family)),
        made.inner, narrowed(made.factors, found, MORE, look), sum(len(take.values) for take in takes), _test(family),
    )  # fmt: skip


def _test(family: Judged) -> tuple[str, str, int] | None:
    """The phrase that was missing most often, and a result of which somebody said so."""
    missing = [one for one in family.judgements if one.kind == "phrase" and one.value == MISSING]
    if not missing:
        return None
    names = [(one.slot, one.phrase) for one in missing]
    slot, phrase = max(dict.fromkeys(names), key=names.count)
    return slot, phrase, next(one.kept for one in missing if (one.slot, one.phrase) == (slot, phrase))


def _by(outcome: str) -> str:
    return {"mark": "by marks", "kept": "as kept or not", "money": "as kept or not", "wins": "in pairs"}[outcome]


def _large(family: Judged, takes: list, outcome: str) -> tuple[AtLarge, ...]:
    """Effects for judges at large, where enough of them judged all of it."""
    judges = [name for name in family.judges if any(name in take.values for take in takes)]
    if len(judges) < LEAST_JUDGES or outcome == "wins":
        return ()
    return tuple(at_large([table(family.prompts, takes, judges=[name]) for name in judges]))


def _prices(family: Judged, takes: list, made: Table, outcome: str) -> tuple[Price, ...]:
    if outcome != "money":
        return ()
    costs: dict[str, list[float]] = {}
    for take in takes:
        if take.cost is not None:
            costs.setdefault(take.prompt, []).append(take.cost)
    if not costs:
        raise Trouble("nobody knows what these results cost", "results of a sheet know it; or take another outcome: --outcome kept", 2)
    mean = float(np.mean([c for own in costs.values() for c in own]))
    return tuple(prices(made, np.array([float(np.mean(costs[name])) if name in costs else mean for name in made.prompts])))


def _twice(family: Judged) -> list[tuple[float, float]]:
    """What somebody judged twice: marks of one result, or a pair whose sides were changed."""
    seen: dict[tuple, float] = {}
    found: list[tuple[float, float]] = []
    key: tuple[object, ...]
    side = {"left": 1.0, "right": 0.0, "tie": 0.5, "neither": 0.5}
    for one in family.judgements:
        if one.kind == "mark":
            key, value = (one.judge, one.kept), float(one.value)
        elif one.kind == "pair":
            turned = one.kept > one.other
            key, value = (one.judge, min(one.kept, one.other), max(one.kept, one.other)), 1 - side[one.value] if turned else side[one.value]
        else:
            continue
        if key in seen:
            found.append((seen[key], value))
        seen[key] = value
    return found


def _disagree(family: Judged, made: Table, found: Fit, outcome: str) -> tuple[str, ...]:
    """Choices of which a fit that takes marks as an order only says the opposite of a claim."""
    if outcome != "mark":
        return ()
    place = {name: i for i, name in enumerate(made.prompts)}
    prompts, marks = [], []
    for number, own in marks_of(family).items():
        if (name := family.prompt_of.get(number, "")) in place:
            prompts += [place[name]] * len(own)
            marks += own.values()
    try:
        sizes = odds(made.factors, prompts, marks)
    except ValueError:
        return ()
    wanted = contrasts(made.factors)
    return tuple(e.choice for e, size, _ in zip(found.effects, sizes, wanted, strict=True) if e.told and size * e.size < 0)


def figure(found: Report, path: str) -> None:
    """Draw the effects with their intervals (Matplotlib). Raises Trouble."""
    needs("matplotlib", "a figure")
    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot

    effects = [e for e in found.fit.effects if np.isfinite(e.low)]
    labels = [_short(e.choice) if not e.against else f"{_short(e.choice)},\nagainst {_short(e.against)}" for e in effects]
    pyplot.rcParams.update({"font.family": "serif", "font.size": 10.5, "svg.hashsalt": "syntagma"})
    drawn, axes = pyplot.subplots(figsize=(9.4, 1.5 + 0.4 * (len(effects) + len(found.table.factors.names))))
    at, ticks = 0.0, []
    for axis in found.table.factors.names:
        own = [(e, label) for e, label in zip(effects, labels, strict=True) if e.axis == axis]
        if not own:
            continue
        axes.text(0.0, at, axis, transform=axes.get_yaxis_transform(), fontsize=11, weight="bold", va="center", ha="right", color="#22252b")
        at -= 1
        for e, label in own:
            colour = "#2a6f63" if e.told and e.size > 0 else "#a4441c" if e.told else "#7a7d85"
            axes.plot([e.low, e.high], [at, at], color=colour, linewidth=2.4, solid_capstyle="round")
            axes.plot([e.size], [at], "o", color=colour, markersize=6.5)
            ticks.append((at, label))
            at -= 1
        at -= 0.3
    axes.axvline(0, color="#22252b", linewidth=0.9)
    axes.set_yticks([place for place, _ in ticks], [label for _, label in ticks])
    axes.set_ylim(at + 0.4, 0.8)
    axes.set_xlabel(f"{_what(found.outcome)} than the other choices of its axis, with 95 % intervals")
    axes.tick_params(axis="y", length=0)
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
    axes.grid(axis="x", color="#d8d2c4", linewidth=0.6)
    axes.set_axisbelow(True)
    told = sum(e.told for e in effects)
    title = f"{found.name}: {len(found.table.prompts)} prompts, {int(found.table.draws.sum())} results; {f'{told} of {len(effects)} effects told' if told else 'nothing can be told yet'}"
    drawn.suptitle(title, x=0.02, y=0.985, ha="left", va="top", fontsize=12.5)
    drawn.tight_layout(rect=(0.01, 0, 0.985, 0.97))
    try:
        drawn.savefig(path, dpi=140, metadata={"Software": ""} if path.lower().endswith(".png") else None)
    except (OSError, ValueError) as error:
        raise Trouble(f"{path} can't be written: {error}", "name a .png, .svg or .pdf in a folder that is yours", 2) from None
    finally:
        pyplot.close(drawn)


def _what(outcome: str) -> str:
    return {"mark": "marks more", "kept": "share kept more", "money": "share kept more", "wins": "logits stronger"}[outcome]


def _short(text: str) -> str:
    return text if len(text) <= 44 else f"{text[:43]}…"

