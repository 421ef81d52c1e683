"""The findings of effects in words, and their figure."""

import math
from collections.abc import Callable, Sequence

import numpy as np

from syntagma.app.results.effects import Claim, EffectsReport, needs
from syntagma.core.diagnostics import Trouble
from syntagma.core.judging.effects import Effect
from syntagma.core.judging.portraits import ALL_ALIKE, BY_CHANCE, CONTRARY, Portrait
from syntagma.storage.files import why

# ──── What effects say, in words that a designer reads without having learned statistics: one
# sentence on top, a reason for each line, what a judge is like.


SHARES = ("approved", "money")  # outcomes that are shares
DRIFTED = 0.5  # ratings that a judge's measure has to drift to be worth a word
UNLIKE = 0.5  # ratings that a judge's level has to differ from the others' to be worth a word


def number(value: float, outcome: str, spread: float = 0.0) -> str:
    """An effect as the table has it: ratings, percentage points, or the share of pairs that are
    won.
    """
    if not math.isfinite(value):
        return "?"
    if outcome in SHARES:
        return f"{value * 100:+.0f} points"
    return f"{pairs_won(value, spread):.0%} of pairs" if outcome == "wins" else f"{value:+.2f}"


def between(low: float, high: float, outcome: str, spread: float = 0.0) -> str:
    """An interval as the table has it."""
    if not (math.isfinite(low) and math.isfinite(high)):
        return "?"
    if outcome in SHARES:
        return f"{low * 100:+.0f} to {high * 100:+.0f}"
    return (
        f"{pairs_won(low, spread):.0%} to {pairs_won(high, spread):.0%}"
        if outcome == "wins"
        else f"{low:+.2f} to {high:+.2f}"
    )


def pairs_won(logits: float, spread: float) -> float:
    """The share of pairs that results with a choice win against results without it, when results
    scatter by `spread` logits besides (the logistic of a normal, as approximated by S. L. Zeger,
    K.-Y. Liang and P. S. Albert, Biometrics 44, 1988).
    """
    return 1 / (1 + math.exp(-logits / math.sqrt(1 + 0.346 * 2 * spread**2)))


def headline(found: EffectsReport) -> str:
    """The findings on the whole, in one sentence."""
    count, axes = found.results, found.fit
    pictures = f"{count} {found.kind}{'' if count == 1 else 's'}"
    helped = [e for e in axes.effects if e.told or _claim(e) in found.earlier]
    if axes.alone:
        return (
            f"Each change was tried in one prompt only, so these {pictures} can't say what a choice"
            " does in other prompts."
        )
    if axes.few:
        return (
            f"{pictures} of {len(found.table.prompts)} prompts are too few to show what any choice"
            " does."
        )
    if axes.flat:
        return (
            f"These {pictures} were all judged alike, so nothing can be learned from them."
            if found.table.outcome.std() < 1e-9
            else (
                f"These {pictures} follow exactly from their choices, without any scatter, which"
                " real ratings never do."
            )
        )
    if not helped:
        least = min(
            (e.high - e.size for e in axes.effects if math.isfinite(e.high)), default=math.inf
        )
        seen = (
            f" (only one of {_least(least, found)} or more is likely to be seen)"
            if math.isfinite(least) and found.outcome != "wins"
            else ""
        )
        return f"In these {pictures} no choice made a difference that could be seen{seen}."
    two = [
        f"{e.choice} did {'better' if e.size > 0 else 'worse'} than {e.against}"
        for e in helped
        if e.against
    ]
    good = [e.choice for e in helped if not e.against and e.size > 0]
    bad = [e.choice for e in helped if not e.against and e.size < 0]
    parts = [
        *two,
        *([f"{_listed(good)} helped"] if good else []),
        *([f"{_listed(bad)} hurt"] if bad else []),
    ]
    rest = (
        "; the rest made no difference that could be seen"
        if len(helped) < len(axes.effects)
        else ""
    )
    return f"In these {pictures} {_listed(parts)}{rest}."


def _least(value: float, found: EffectsReport) -> str:
    size = 1.5 * value  # a claim takes more than an interval clear of zero
    return (
        f"{size * 100:.0f} percentage points" if found.outcome in SHARES else f"{size:.1f} points"
    )


def _claim(e: Effect) -> Claim:
    return e.axis, e.choice, e.size > 0


def _listed(parts: Sequence[str]) -> str:
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"


def verdict(e: Effect, found: EffectsReport) -> str:
    """What one line of the table comes to, with the reason if it does not speak for itself."""
    word = "better" if e.size > 0 else "worse"
    if e.told:
        return word
    if _claim(e) in found.earlier:
        return f"{word}, as an earlier analysis found"
    if found.fit.alone:
        low, high = found.fit.own[found.fit.effects.index(e)]
        return (
            f"in this one prompt: {between(low, high, found.outcome, found.fit.scatter)}"
            if math.isfinite(low)
            else "can't be told"
        )
    if not math.isfinite(e.low):
        return "can't be told"
    return f"not sure yet: {share(e.chance)} by chance" if e.clear else "no clear effect yet"


def share(chance: float) -> str:
    """A chance in words that count: 3 of 100."""
    if chance >= 0.01:
        return f"{chance * 100:.0f} of 100"
    return (
        f"{max(1, round(chance * 1000))} of 1,000" if chance >= 0.0005 else "less than 1 of 1,000"
    )


def legend(found: EffectsReport) -> list[str]:
    """What the columns mean, a line each."""
    effects = found.fit.effects
    what = {
        "rating": "in points of rating (0 to 5)",
        "approved": "in percentage points of the share approved",
        "money": "in percentage points of the share approved",
        "wins": "as the share of pairs won; 50 % is not a difference",
    }[found.outcome]
    lines = [
        f"effect: against the other choices of its axis, {what}, for these judges; 95 %: its"
        " interval, taken alone"
    ]
    if any(e.clear for e in effects) and not found.fit.alone:
        lines.append(
            f"better, worse: chance alone would show this on any of the {len(effects)} choices in"
            f" at most {share(found.fit.spends)}; over all analyses of a family, in 5 of 100"
        )
    return lines


def judge_words(one: Portrait, alone: bool) -> str:
    """What a judge is like, in a sentence or none."""
    parts, agreement, others = [], one.agreement, one.as_others
    if one.stance == CONTRARY:
        basis = (
            f"correlation {agreement.size:+.2f}"
            if agreement.high < 0
            else f"as they would in {others.part} of {others.of} pairs"
        )
        parts.append(f"disagrees with the others throughout ({basis})")
    elif one.stance == BY_CHANCE:
        alike = (
            f"{others.part} of {others.of} pairs as the others"
            if others.of
            else f"{one.twice.part} of {one.twice.of} that were asked twice"
        )
        parts.append(
            "judges at random"
            f" ({f'correlation {agreement.size:+.2f} over {agreement.results} results' if agreement.low <= 0 else alike})"  # noqa: E501
        )
    elif one.stance == ALL_ALIKE:
        parts.append(f"gave all {one.results} results the same rating")
    if one.level and not alone and abs(one.level.size) >= max(UNLIKE, 2 * one.level.error):
        parts.append(
            f"rates {abs(one.level.size):.1f} {'above' if one.level.size > 0 else 'below'} the mean"
            " of all judges, which is corrected for"
        )
    if one.sided:
        right = one.left.of - one.left.part
        parts.append(
            f"chose the {'left' if one.left.part > right else 'right'} side in"
            f" {max(one.left.part, right)} of {one.left.of} pairs, which is corrected for"
        )
    if abs(one.drift.size) >= max(DRIFTED, 2.5 * one.drift.error):
        parts.append(
            f"rated {abs(one.drift.size):.1f} {'higher' if one.drift.size > 0 else 'lower'} at the"
            " end than at the beginning"
        )
    if one.twice.of >= 3 and one.stance != BY_CHANCE:
        parts.append(f"gave the same answer again in {one.twice.part} of {one.twice.of} repeats")
    if not one.stance and math.isfinite(agreement.size):
        parts.append(f"agrees with the others ({agreement.size:+.2f}; 1 is full agreement)")
    return f"{one.judge}: {'; '.join(parts)}" if parts else ""


# ──── The figure of effects: each choice with its interval, what is said of it, and the sentence on
# top.


INK, GREY, BETTER, WORSE, LINE = "#22252b", "#5f636b", "#2a6f63", "#a4441c", "#d8d2c4"
LONGEST = 44  # letters of a choice beside its line
WRAPPED = 104  # letters of a line of the title


def figure(found: EffectsReport, path: str) -> None:
    """Draw the effects with their intervals (Matplotlib). Raises Trouble."""
    needs("matplotlib", "a figure")
    from textwrap import fill

    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot

    effects = [e for e in found.fit.effects if np.isfinite(e.low)]
    scale, nothing, label = _scale(found)
    pyplot.rcParams.update({"font.family": "serif", "font.size": 10.5, "svg.hashsalt": "syntagma"})
    drawn, axes = pyplot.subplots(
        figsize=(9.4, 1.9 + 0.4 * (len(effects) + len(found.table.factors.names)))
    )
    at, ticks = 0.0, []
    for axis in found.table.factors.names:
        own = [e for e in effects if e.axis == axis]
        if not own:
            continue
        axes.text(
            0.0,
            at,
            axis,
            transform=axes.get_yaxis_transform(),
            fontsize=11,
            weight="bold",
            va="center",
            ha="right",
            color=INK,
        )
        at -= 1
        for e in own:
            said = verdict(e, found)
            colour = (
                BETTER if said.startswith("better") else WORSE if said.startswith("worse") else GREY
            )
            axes.plot(
                [scale(e.low), scale(e.high)],
                [at, at],
                color=colour,
                linewidth=2.4,
                solid_capstyle="round",
            )
            axes.plot([scale(e.size)], [at], "o", color=colour, markersize=6.5)
            axes.annotate(
                said.partition(":")[0],
                (1.0, at),
                xycoords=axes.get_yaxis_transform(),
                xytext=(6, 0),
                textcoords="offset points",
                fontsize=9,
                va="center",
                color=colour,
                annotation_clip=False,
            )
            ticks.append(
                (
                    at,
                    (
                        _short(e.choice)
                        if not e.against
                        else f"{_short(e.choice)},\nagainst {_short(e.against)}"
                    ),
                )
            )
            at -= 1
        at -= 0.3
    axes.axvline(nothing, color=INK, linewidth=0.9)
    axes.set_yticks([place for place, _ in ticks], [name for _, name in ticks])
    axes.set_ylim(at + 0.4, 0.8)
    axes.set_xlabel(
        f"{label}\ndot: the effect; line: its 95 % interval, taken alone; grey: no claim",
        fontsize=9.5,
    )
    axes.tick_params(axis="y", length=0)
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
    axes.grid(axis="x", color=LINE, linewidth=0.6)
    axes.set_axisbelow(True)
    title = fill(headline(found), WRAPPED)
    drawn.suptitle(title, x=0.02, y=0.985, ha="left", va="top", fontsize=12)
    drawn.tight_layout(
        rect=(0.01, 0, 0.99, 1 - (0.12 + 0.22 * (1 + title.count("\n"))) / drawn.get_figheight())
    )
    try:
        drawn.savefig(
            path, dpi=140, metadata={"Software": ""} if path.lower().endswith(".png") else None
        )
    except ValueError as error:  # an ending that is none
        raise Trouble(f"{path} can't be written: {error}", "name a .png, .svg or .pdf", 2) from None
    except OSError as error:
        raise Trouble(
            f"{path} can't be written: {why(error)}",
            "name a .png, .svg or .pdf in a folder that you can write to",
        ) from None
    finally:
        pyplot.close(drawn)


def _scale(found: EffectsReport) -> tuple[Callable[[float], float], float, str]:
    """How an effect is drawn, where nothing lies on that scale, and what the scale is called."""
    if found.outcome == "wins":
        return (
            lambda value: pairs_won(value, found.fit.scatter) * 100,
            50.0,
            "% of pairs won against the other choices of its axis (50: no difference)",
        )
    if found.outcome == "rating":
        return lambda value: value, 0.0, "points of rating more than the other choices of its axis"
    return (
        lambda value: value * 100,
        0.0,
        "percentage points more approved than of the other choices of its axis",
    )


def _short(text: str) -> str:
    return text if len(text) <= LONGEST else f"{text[: LONGEST - 1]}…"
