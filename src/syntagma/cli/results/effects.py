"""effects: what each choice of a family did, how sure that is, and what to send next."""

from __future__ import annotations

import math
from argparse import Namespace
from shlex import quote
from typing import TYPE_CHECKING

from syntagma.cli import args, terminal
from syntagma.core.diagnostics import WARNING, Finding

if TYPE_CHECKING:
    from syntagma.app.results.effects import EffectsReport
    from syntagma.app.results.judged import Judged
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.judging.observed import Factors
    from syntagma.core.judging.planning import PricePerKept
    from syntagma.storage.library import Library

OUTCOMES = ("rating", "approved", "wins", "money")
FAR = 12  # times the money for one approved beyond which its upper bound says nothing


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "name",
        metavar="NAME",
        help=(
            "a sheet or label with judged results; or a family in a file (.jsonl), before you pay"
            " for anything"
        ),
    )
    parser.add_argument(
        "--outcome",
        choices=OUTCOMES,
        help=(
            "the outcome to explain: mean rating, share approved, wins in pairs, or money per"
            " approved result (default: the one asked for first, else rating)"
        ),
    )
    parser.add_argument("--judge", action="append", default=[])
    parser.add_argument(
        "--before",
        action="store_true",
        help="what the design can show, and how wide the intervals will be",
    )
    parser.add_argument("--takes", type=args.within("takes"))
    parser.add_argument(
        "--scatter",
        metavar="N",
        type=args.within("scatter"),
        default=1.0,
        help="with --before: how far prompts scatter, in points of rating (default: 1)",
    )
    parser.add_argument(
        "--phrases", action="store_true", help="report each phrase: shown, missing or overpowering"
    )
    parser.add_argument(
        "--best",
        action="store_true",
        help="the combinations likely to be best, and how sure that is",
    )
    parser.add_argument(
        "--next",
        metavar="N",
        type=args.within("next"),
        help=(
            "the N prompts that would show most; with --best, those closest to the best combination"
        ),
    )
    parser.add_argument("--out", default="")
    parser.add_argument(
        "--figure", metavar="FILE", default="", help="draw the effects (.png .svg .pdf)"
    )
    parser.json("effects", "forecast", "prompts")
    parser.examples(
        "syntagma effects lights.jsonl --takes 3",
        "syntagma effects lights",
        "syntagma effects lights --next 12 --out next.jsonl",
        "syntagma effects lights --best --next 6",
    )


def run(call: Namespace) -> int:
    from pathlib import Path

    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if Path(call.name).suffix.lower() in (".jsonl", ".json", ".csv", ".xlsx"):
        from syntagma.app.results.judged import factors_of_file

        return _before(*factors_of_file(Path(call.name)), call)
    from syntagma.app.results.judged import judged, with_library

    with with_library(workspace) as library:
        family = judged(workspace, library, call.name)
        if call.before:
            from syntagma.core.judging.observed import factors_of

            return _before(factors_of(family.prompts), 1, call)
        return _after(workspace, library, family, call)


def _before(factors: Factors, asked: int, call: Namespace) -> int:
    """What a design could show, worked out before anything is sent."""
    from syntagma.app.results.effects import forecast

    found = forecast(factors, call.takes or asked, call.scatter)
    if call.json:
        terminal.json(found.record())
        return 1 if found.layout.untold else 0
    layout = found.layout
    results = layout.prompts * found.takes
    if layout.untold:
        terminal.say(
            (
                (
                    f"These {layout.prompts} prompts can't separate"
                    f" {', '.join(layout.untold[:4])}{' and others' if len(layout.untold) > 4 else ''},"  # noqa: E501
                    " however many results each has."
                ),
                terminal.WRONG,
            ),
            error=False,
        )
    elif layout.freedom < 2:
        terminal.say(
            (
                (
                    f"These {layout.prompts} prompts can't separate the effect of a choice from"
                    " chance, however many results each has."
                ),
                terminal.WRONG,
            ),
            error=False,
        )
    else:
        terminal.say(
            f"With {results} result{'' if results == 1 else 's'} you will probably see a difference"
            f" of about {1.5 * found.widest:.1f} points or more, but not a smaller one.",
            error=False,
        )
    rows = []
    for width, levels in zip(found.widths, factors.levels, strict=True):
        told = (
            "can't be told"
            if width.axis in layout.untold
            else f"to ±{width.half:.2g}"
            if math.isfinite(width.half)
            else "no interval"
        )
        near = [
            f"{a.second if a.first == width.axis else a.first} ({a.share:.0%})"
            for a in layout.aliases
            if width.axis in (a.first, a.second)
        ]
        rows.append(
            (
                width.axis,
                len(levels),
                told,
                ", ".join(near[:4]) + (f" and {len(near) - 4} more" if len(near) > 4 else ""),
            )
        )
    terminal.table(
        ("axis", "choices", "its effect", "goes together with"), rows, "goes together with"
    )
    terminal.say(
        (
            (
                f"{layout.prompts} prompts, {layout.effects} effects to estimate, of which they"
                f" show {layout.rank}; {layout.freedom} left to estimate the scatter"
            ),
            terminal.QUIET,
        ),
        error=False,
    )
    if layout.untold or layout.freedom < 2:
        why = (
            "each choice appears in too few of them"
            if not layout.untold
            else "some choices always come together"
        )
        terminal.say(
            f"{why}; to make a family that can: syntagma expand … --design effects --count"
            f" {layout.effects + 6}",
            error=False,
        )
    for axis, a, b, share in layout.mistaken[:4]:
        terminal.say(
            (
                (
                    f"the joint effect of {a} and {b} would look like an effect of {axis}"
                    f" ({share:.0%})"
                ),
                terminal.QUIET,
            ),
            error=False,
        )
    if math.isfinite(found.instead):
        now = (
            f"instead of ±{found.widest:.2g}"
            if math.isfinite(found.widest)
            else "where these tell nothing"
        )
        terminal.say(
            f"{results} prompts with one result each cost the same and show more: to"
            f" ±{found.instead:.2g} at most, {now}",
            error=False,
        )
    if math.isfinite(found.widest):
        terminal.say(
            (
                (
                    "the widths assume that prompts with the same choices scatter by"
                    f" {call.scatter:g} point{'' if call.scatter == 1 else 's'} (--scatter)"
                ),
                terminal.QUIET,
            ),
            error=False,
        )
    return 1 if layout.untold else 0


def _after(workspace: Workspace, library: Library, family: Judged, call: Namespace) -> int:
    from syntagma.app.results.effects import looked
    from syntagma.app.results.effects_words import figure
    from syntagma.app.results.next_prompts import FamilyRules, next_prompts
    from syntagma.core.judging.observed import factors_of

    first = library.first_outcome(family.name)
    outcome = call.outcome or first or "rating"
    if first and outcome != first:
        terminal.note(f"you asked for {first} first; {outcome} counts as one more analysis")
    rules = FamilyRules(workspace, family, factors_of(family.prompts))
    if family.by_parts:
        terminal.note(
            "these prompts come from no design: their shared parts count as choices, and something"
            " else that goes with those may be the cause"
        )
    for text in rules.unread:
        terminal.note(f"the rule “{text}” does not affect what was judged here")
    found = looked(library, family, outcome, call.judge or None, rules.allow)
    if call.figure:
        figure(found, call.figure)
    if call.next:
        return _next(
            next_prompts(workspace, family, call.next, found, rules.allow, call.best), call, found
        )
    if call.json:
        terminal.json(found.record())
        return 0
    if call.best:
        _best(found)
        return 0
    _effects(found)
    if call.phrases or found.phrases:
        _phrases(found, call.phrases)
    if call.figure:
        terminal.say(f"the figure is in {call.figure}", error=False)
    return 0


def _effects(found: EffectsReport) -> None:
    """The sentence on top, the table, and what the columns mean."""
    from rich.text import Text

    from syntagma.app.results.effects_words import between, headline, legend, number, verdict

    terminal.say(headline(found), error=False)
    if found.fit.flat:
        return
    rows, last = [], ""
    for e in found.fit.effects:
        said = verdict(e, found)
        style = (
            terminal.NAME
            if said.startswith("better")
            else terminal.WRONG
            if said.startswith("worse")
            else terminal.QUIET
        )
        against = f" (against {e.against})" if e.against else ""
        refused = f"; {e.refused} refused" if e.refused else ""
        spread = found.fit.scatter
        rows.append(
            (
                e.axis if e.axis != last else "",
                e.choice + against,
                number(e.size, found.outcome, spread),
                between(e.low, e.high, found.outcome, spread),
                Text(said + refused, style),
            )
        )
        last = e.axis
    terminal.table(("axis", "choice", "effect", "95 %", "what it means"), rows, "choice")
    for line in legend(found):
        terminal.say((line, terminal.QUIET), error=False)
    _counted(found)
    _more(found)
    for name in found.layout.untold:
        terminal.say(
            (f"{name} can't be separated from the others in these prompts", terminal.WRONG),
            error=False,
        )
    _beside(found)


def _counted(found: EffectsReport) -> None:
    """What it rests on."""
    gone, judges = int(found.table.refused.sum()), len(found.table.judges) or 1
    parts = [
        f"{len(found.table.prompts)} prompts, {found.results} results, {judges}"
        f" judge{'' if judges == 1 else 's'}"
    ]
    if found.outcome != "wins":
        parts.append(
            f"{found.fit.mean:.0%} approved"
            if found.outcome in ("approved", "money")
            else f"mean {found.fit.mean:.2f}"
        )
    if gone:
        parts.append(
            f"{gone} of the results refused, which count as"
            f" {'not approved' if found.outcome in ('approved', 'money') else 'rating 0'}"
        )
    if found.missing:
        parts.append(f"{found.missing} more failed or never came and are left out")
    terminal.say("; ".join(parts), error=False)


def _more(found: EffectsReport) -> None:
    """What more prompts would bring."""
    still = sum(not e.told for e in found.fit.effects)
    widest = max(
        (e.high - e.size for e in found.fit.effects if math.isfinite(e.high)), default=math.inf
    )
    if found.fit.alone:
        terminal.say(
            ("as many effects to estimate as prompts", terminal.WRONG),
            f": more prompts show more than more results of each: syntagma effects {found.name}"
            " --next 6",
            error=False,
        )
    elif found.fit.freedom <= 0:
        terminal.say(
            ("nothing is left to estimate the scatter", terminal.WRONG),
            f": syntagma effects {found.name} --next 6 writes more of them",
            error=False,
        )
    elif still and math.isfinite(found.narrower) and found.narrower < 0.97 * widest:
        unit = (
            (lambda v: f"±{v * 100:.0f} points")
            if found.outcome in ("approved", "money")
            else (lambda v: f"±{v:.2f}")
        )
        terminal.say(
            f"six more prompts would narrow the widest interval from {unit(widest)} to about"
            f" {unit(found.narrower)}: syntagma effects {found.name} --next 6",
            error=False,
        )


def _beside(found: EffectsReport) -> None:
    """Axes together, judges, models, money: what goes with the effects."""
    from syntagma.app.results.effects_words import between, judge_words, number, share

    for one in found.fit.joints:
        if one.told:
            terminal.say(
                (
                    (
                        f"{one.first} and {one.second} interact (by chance in {share(one.chance)}):"
                        " the best choice of one depends on the other; syntagma effects"
                        f" {found.name} --best"
                    ),
                    terminal.CHANGED,
                ),
                error=False,
            )
    if len(found.portraits) > 1 and found.alpha == found.alpha:
        terminal.say(
            (
                (
                    f"the judges agree to {found.alpha:.2f} (Krippendorff's alpha of the raw"
                    " ratings; 1: fully, 0: at random)"
                ),
                terminal.QUIET,
            ),
            error=False,
        )
    for judge in found.portraits:
        if words := judge_words(judge, len(found.portraits) == 1):
            terminal.say((words, terminal.WRONG if judge.stance else terminal.QUIET), error=False)
    if odd := [one.judge for one in found.portraits if one.stance]:
        rest = [one.judge for one in found.portraits if one.judge not in odd]
        if rest:
            terminal.say(
                f"without {' and '.join(odd)}: syntagma effects {found.name}"
                f" {' '.join(f'--judge {quote(name)}' for name in rest)} (one more analysis)",
                error=False,
            )
    spread = found.fit.scatter
    for pair in found.models:
        terminal.say(
            f"{pair.second} against {pair.first}, on {pair.prompts} prompts that both got:"
            f" {number(pair.size, found.outcome, spread)}"
            f" ({between(pair.low, pair.high, found.outcome, spread)})",
            error=False,
        )
    if found.prices:
        unit = f" {found.currency}" if found.currency else ""

        def bounded(p: PricePerKept) -> str:
            return (
                f"{_money(p.low)} to {_money(p.most)}"
                if p.most < FAR * p.size
                else f"{_money(p.low)} or more"
            )

        rows = [
            (
                p.axis,
                p.choice,
                f"{p.kept:.2g} of {p.takes}" if p.kept < 10 else f"{p.kept:.0f} of {p.takes}",
                f"at least {_money(p.low)}{unit}" if not p.kept else f"{_money(p.size)}{unit}",
                bounded(p),
            )
            for p in found.prices
        ]
        terminal.table(
            ("axis", "choice", "approved", "money for one approved", "95 %"), rows, "choice"
        )
    for choice in found.disagree:
        terminal.say(
            (
                f"{choice}: taken only as an order, the ratings say the opposite; trust neither",
                terminal.WRONG,
            ),
            error=False,
        )


def _best(found: EffectsReport) -> None:
    """The combinations that are expected to be the best."""
    from syntagma.app.results.effects_words import share

    if not found.best:
        terminal.say("too few results were judged to name a best combination", error=False)
        return
    unit = (
        (lambda v: f"{v:.0%}") if found.outcome in ("approved", "money") else (lambda v: f"{v:.2f}")
    )
    names = list(found.table.factors.names)
    rows = [
        (
            *found.choices(b.row).values(),
            f"{unit(b.mean)} ({unit(b.low)} to {unit(b.high)})",
            share(b.chance),
            f"{b.tried} times" if b.tried > 1 else "once" if b.tried else "not yet",
        )
        for b in found.best
    ]
    what = {"rating": "rating", "approved": "approved", "money": "approved", "wins": "strength"}[
        found.outcome
    ]
    terminal.table((*names, f"expected {what}", "the best", "tried"), rows, names[-1])
    terminal.say(
        (
            (
                "expected: from all judgements, each choice alone and in pairs, with 95 %; the"
                " best: in how many of 100 cases nothing would beat it"
            ),
            terminal.QUIET,
        ),
        error=False,
    )
    terminal.say(f"to narrow it down: syntagma effects {found.name} --best --next 6", error=False)


def _money(amount: float) -> str:
    return f"{amount:.3g}" if amount < 1000 else f"{amount:,.0f}"


def _phrases(found: EffectsReport, every: bool) -> None:
    if not found.phrases:
        terminal.say(
            "no phrase has been marked as shown or missing: syntagma judge asks for this after the"
            " rating",
            error=False,
        )
        return
    shown = (
        found.phrases if every else [p for p in found.phrases if p.missing or p.overpowering][:8]
    )
    rows = [
        (
            p.slot,
            p.phrase,
            p.shown,
            p.missing,
            p.overpowering,
            (
                ""
                if p.ratings != p.ratings
                else f"{p.ratings:+.2f}{' (clear)' if p.chance <= 0.05 else ''}"
            ),
        )
        for p in shown
    ]
    if rows:
        terminal.table(
            ("slot", "phrase", "shown", "missing", "too much", "ratings where shown"),
            rows,
            "phrase",
        )
    if found.goes:
        g = found.goes
        place = f" (clear, chance {g.place_chance:.2g})" if g.place_chance <= 0.05 else ""
        terminal.say(
            (
                (
                    f"missing phrases begin at {g.place_missing:.0%} of their prompt, shown ones at"
                    f" {g.place_shown:.0%}{place}; they have {g.words_missing:.1f} words against"
                    f" {g.words_shown:.1f}. This is a correlation: nobody varied it."
                ),
                terminal.QUIET,
            ),
            error=False,
        )
    if found.test:
        slot, phrase, number = found.test
        terminal.say(
            (
                (
                    f"to test it, try the same prompt with “{phrase}” in its place and first:"
                    f" syntagma expand --kept {number} --vary order=formula,{slot}"
                ),
                terminal.QUIET,
            ),
            error=False,
        )


def _next(found: list, call: Namespace, report: EffectsReport) -> int:
    from syntagma.app.families.files import write_records

    written = [one.record for one in found if one.record is not None]
    if call.json:
        terminal.items(
            written,
            [
                Finding(
                    WARNING,
                    f"{', '.join(one.choices.values())} can't be written from here: {one.why}",
                    code="not-done",
                )
                for one in found
                if one.record is None
            ],
        )
        return 0
    names = list(report.table.factors.names)
    terminal.table(
        tuple(["#", *names]),
        [(n, *(one.choices[name] for name in names)) for n, one in enumerate(found, 1)],
        names[-1],
    )
    texts = [one.record["text"] for one in found if one.record is not None]
    if again := len(texts) - len(set(texts)):
        terminal.say(
            (
                (
                    f"{again} of them repeat a prompt on the list, because the axes offer no other"
                    " combination that fits"
                ),
                terminal.QUIET,
            ),
            error=False,
        )
    if missing := [one for one in found if one.record is None]:
        terminal.say(f"{len(missing)} can't be written from here: {missing[0].why}")
    if call.out and written:
        fills = list(dict.fromkeys(slot for one in written for slot in one.get("fills", {})))
        count = write_records(call.out, iter(written), fills, [], False, terminal.note)
        terminal.say(
            f"{count} prompts in {call.out}; to send them: syntagma sheet new NAME {call.out}",
            error=False,
        )
    elif written:
        terminal.say(
            (
                (
                    f"--out next.jsonl writes them; one result each is enough: {len(written)}"
                    f" generation{'' if len(written) == 1 else 's'}"
                ),
                terminal.QUIET,
            ),
            error=False,
        )
    return 0
