"""What effects say, in words that a designer reads without having learned statistics: one sentence on top, a reason for each line, what a judge is like."""

import math
from collections.abc import Sequence

from syntagma.app.results.effects_report import Claim, Report
from syntagma.core.judging.effects import Effect
from syntagma.core.judging.portraits import ALL_ALIKE, BY_CHANCE, CONTRARY, Portrait

SHARES = ("kept", "money")  # outcomes that are shares
DRIFTED = 0.5  # marks by which a judge's measure has to move to be worth a word
UNLIKE = 0.5  # marks by which a judge's level has to differ from the others' to be worth a word


def number(value: float, outcome: str, spread: float = 0.0) -> str:
    """An effect as the table has it: marks, percentage points, or the share of pairs that are won."""
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
    return f"{pairs_won(low, spread):.0%} to {pairs_won(high, spread):.0%}" if outcome == "wins" else f"{low:+.2f} to {high:+.2f}"


def pairs_won(logits: float, spread: float) -> float:
    """The share of pairs that results with a choice win against results without it, when results scatter by `spread` logits besides (the logistic of a normal, as
    approximated by S. L. Zeger, K.-Y. Liang and P. S. Albert, Biometrics 44, 1988)."""
    return 1 / (1 + math.exp(-logits / math.sqrt(1 + 0.346 * 2 * spread**2)))


def headline(found: Report) -> str:
    """What can be said of the whole, in one sentence."""
    count, axes = found.results, found.fit
    pictures = f"{count} {found.kind}{'' if count == 1 else 's'}"
    helped = [e for e in axes.effects if e.told or _claim(e) in found.earlier]
    if axes.alone:
        return f"Each change was tried in one prompt only, so these {pictures} can't say what a choice does in other prompts."
    if axes.few:
        return f"{pictures} of {len(found.table.prompts)} prompts are too few to say anything of choices."
    if axes.flat:
        return f"These {pictures} were all judged alike, so nothing can be learned from them." if found.table.outcome.std() < 1e-9 else f"These {pictures} are just what their choices make them: nothing scatters, which no real judging does."
    if not helped:
        least = min((e.high - e.size for e in axes.effects if math.isfinite(e.high)), default=math.inf)
        seen = f" (only one of {_least(least, found)} or more is likely to be seen)" if math.isfinite(least) and found.outcome != "wins" else ""
        return f"In these {pictures} no choice made a difference that could be seen{seen}."
    two = [f"{e.choice} did {'better' if e.size > 0 else 'worse'} than {e.against}" for e in helped if e.against]
    good = [e.choice for e in helped if not e.against and e.size > 0]
    bad = [e.choice for e in helped if not e.against and e.size < 0]
    parts = [*two, *([f"{_listed(good)} helped"] if good else []), *([f"{_listed(bad)} hurt"] if bad else [])]
    rest = "; the rest made no difference that could be seen" if len(helped) < len(axes.effects) else ""
    return f"In these {pictures} {_listed(parts)}{rest}."


def _least(value: float, found: Report) -> str:
    size = 1.5 * value  # a claim takes more than an interval clear of zero
    return f"{size * 100:.0f} points" if found.outcome in SHARES else f"{size:.1f} marks"


def _claim(e: Effect) -> Claim:
    return e.axis, e.choice, e.size > 0


def _listed(parts: Sequence[str]) -> str:
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"


def verdict(e: Effect, found: Report) -> str:
    """What one line of the table comes to, with the reason where it does not speak for itself."""
    word = "better" if e.size > 0 else "worse"
    if e.told:
        return word
    if _claim(e) in found.earlier:
        return f"{word}, as an earlier look found"
    if found.fit.alone:
        low, high = found.fit.own[found.fit.effects.index(e)]
        return f"in this one prompt: {between(low, high, found.outcome, found.fit.scatter)}" if math.isfinite(low) else "can't be told"
    if not math.isfinite(e.low):
        return "can't be told"
    return f"no clear effect yet: comes by chance in {share(e.chance)}" if e.clear else "no clear effect yet"


def share(chance: float) -> str:
    """A chance in words that count: 3 of 100."""
    if chance >= 0.01:
        return f"{chance * 100:.0f} of 100"
    return f"{max(1, round(chance * 1000))} of 1,000" if chance >= 0.0005 else "less than 1 of 1,000"


def legend(found: Report) -> list[str]:
    """What the columns mean, a line each."""
    effects = found.fit.effects
    what = {"mark": "in marks", "kept": "in percentage points of the share kept", "money": "in percentage points of the share kept", "wins": "as the share of pairs won; 50 % is no difference"}[found.outcome]
    lines = [f"effect: against the other choices of its axis, {what}, for these judges; 95 %: where it lies with that certainty, each line by itself"]
    if any(e.clear for e in effects) and not found.fit.alone:
        lines.append(f"better, worse: said where chance alone brings so much, on any of the {len(effects)} choices, in at most {share(found.fit.spends)}; over all looks at a family that comes to 5 of 100")
    return lines


def judge_words(one: Portrait, alone: bool) -> str:
    """What a judge is like, in a sentence or none."""
    parts = []
    if one.stance == CONTRARY:
        parts.append("says the opposite of the others" + (f" (correlation {one.agreement:+.2f})" if math.isfinite(one.agreement) and one.high < 0 else f" (as they would in {one.as_others} of {one.of_others} pairs)"))
    elif one.stance == BY_CHANCE:
        basis = f"correlation {one.agreement:+.2f} over {one.shared} results" if one.shared >= 5 and math.isfinite(one.agreement) and one.low <= 0 else f"{one.as_others} of {one.of_others} pairs" if one.of_others else f"{one.same} of {one.twice} that were asked twice"
        parts.append(f"judges as chance would ({basis})")
    elif one.stance == ALL_ALIKE:
        parts.append(f"gave all {one.results} results the same mark")
    if math.isfinite(one.level) and not alone and abs(one.level) >= UNLIKE and abs(one.level) > 2 * one.level_error:
        parts.append(f"marks {abs(one.level):.1f} {'above' if one.level > 0 else 'below'} the mean of all judges, which is taken out")
    if one.sided:
        parts.append(f"chose the {'left' if one.left * 2 > one.decided else 'right'} side in {max(one.left, one.decided - one.left)} of {one.decided} pairs, which is taken out")
    if math.isfinite(one.drift) and abs(one.drift) >= DRIFTED and abs(one.drift) > 2.5 * one.drift_error:
        parts.append(f"marked {abs(one.drift):.1f} {'higher' if one.drift > 0 else 'lower'} at the end than at the beginning")
    if one.twice >= 3 and one.stance != BY_CHANCE:
        parts.append(f"said the same again in {one.same} of {one.twice} that came twice")
    if one.shared >= 5 and not one.stance and math.isfinite(one.agreement):
        parts.append(f"goes with the others ({one.agreement:+.2f}, where 1 is wholly)")
    return f"{one.judge}: {'; '.join(parts)}" if parts else ""
