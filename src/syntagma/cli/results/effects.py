"""effects: what each choice of a family did, how sure that is, and what to send next."""

import math

from syntagma.cli import args, terminal

OUTCOMES = ("mark", "kept", "wins", "money")


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="a sheet or a label whose results were judged; or a family in a file (.jsonl), before anything is paid for")
    parser.add_argument("--outcome", choices=OUTCOMES, help="what is judged by: mean mark, share kept, wins in pairs, money for one that is kept (default: what was said first, else mark)")
    parser.add_argument("--judge", metavar="NAME", action="append", default=[], help="these judges only; may be given again")
    parser.add_argument("--before", action="store_true", help="what the design can tell at all, and how wide the intervals will be")
    parser.add_argument("--draws", metavar="N", type=args.within("draws"), default=2, help="before: how many results a prompt (default: 2)")
    parser.add_argument("--scatter", metavar="N", type=args.within("scatter"), default=1.0, help="before: how far prompts scatter, in marks (default: 1)")
    parser.add_argument("--phrases", action="store_true", help="what became of each phrase: shown, missing, overpowering")
    parser.add_argument("--next", metavar="N", type=args.within("next"), help="the N prompts that would tell most")
    parser.add_argument("--out", metavar="FILE", default="", help="with --next: write them (.jsonl .csv .xlsx .txt)")
    parser.add_argument("--figure", metavar="FILE", default="", help="draw it (.png .svg .pdf)")
    parser.add_argument("--json", action="store_true", help="print it as a record")
    parser.examples("syntagma effects lights.jsonl --draws 3", "syntagma effects crossings", "syntagma effects crossings --next 12 --out next.jsonl")


def run(call) -> int:
    from pathlib import Path

    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if Path(call.name).suffix.lower() in (".jsonl", ".json", ".csv", ".xlsx") and Path(call.name).is_file():
        from syntagma.app.results.judged import factors_of_file

        return _before(factors_of_file(Path(call.name))[0], call)
    from syntagma.app.results.judged import judged, with_library

    with with_library(workspace) as library:
        family = judged(workspace, library, call.name)
        if call.before:
            from syntagma.core.judging.observed import factors_of

            return _before(factors_of(family.prompts), call)
        return _after(workspace, library, family, call)


def _before(factors, call) -> int:
    """What a design can tell, before it is paid for."""
    from syntagma.app.results.effects_report import forecast

    found = forecast(factors, call.draws, call.scatter)
    if call.json:
        terminal.json(found.record())
        return 0
    layout = found.layout
    terminal.say(f"{layout.prompts} prompts, {len(factors.names)} axes: {layout.effects} numbers to find, of which the prompts tell {layout.rank}; {layout.freedom} left for the scatter", error=False)
    rows = []
    for width, levels in zip(found.widths, factors.levels, strict=True):
        told = "can't be told" if width.axis in layout.untold else f"to ±{width.half:.2g}" if math.isfinite(width.half) else "no interval: nothing is left for the scatter"
        near = [f"{a.second if a.first == width.axis else a.first} ({a.share:.0%})" for a in layout.aliases if width.axis in (a.first, a.second)]
        rows.append((width.axis, len(levels), told, ", ".join(near[:4]) + (f" and {len(near) - 4} more" if len(near) > 4 else "")))
    terminal.table(("axis", "choices", "its effect", "goes together with"), rows, "goes together with")
    if layout.untold:
        first = layout.aliases[0] if layout.aliases else None
        why = f"{first.first} can't be told from {first.second}" if first and first.share > 0.99 else f"there are {layout.effects} numbers to find"
        terminal.say((f"in these {layout.prompts} {why}: {len(layout.untold)} of {len(factors.names)} axes can't be told", terminal.WRONG), error=False)
        terminal.say(("  ask for more members, or for a design that tells effects: syntagma expand … --design effects --count N", terminal.QUIET), error=False)
    elif layout.freedom == 0:
        terminal.say(("nothing is left for the scatter of prompts: with two results a prompt or more, intervals speak of these very prompts alone", terminal.WRONG), error=False)
        terminal.say(("  draw the baseline and some others again, or take a design that tells effects: --design effects --count N", terminal.QUIET), error=False)
    for axis, a, b, share in layout.mistaken[:4]:
        terminal.say((f"what {a} and {b} do together would be taken for {axis}'s doing ({share:.0%})", terminal.QUIET), error=False)
    draws = "one result a prompt says nothing of how far draws scatter: at least two, better three" if call.draws < 2 else f"{call.draws} results a prompt; the widths suppose that prompts scatter by {call.scatter:g} marks"
    terminal.say((draws, terminal.QUIET), error=False)
    return 1 if layout.untold else 0


def _after(workspace, library, family, call) -> int:
    from syntagma.app.results.effects_report import figure, report
    from syntagma.app.results.next_prompts import next_prompts

    first = library.base.execute("select outcome from looks where sheet = ? order by rowid limit 1", (family.name,)).fetchone()
    outcome = call.outcome or (first[0] if first else "mark")
    if first and outcome != first[0]:
        terminal.note(f"the outcome that was said first is {first[0]}: what {outcome} says comes after it, and is no proof by itself")
    judged_now = report(family, outcome, 1, call.judge or None)  # raises where there is nothing to look at, before the look is counted
    look = library.look(family.name, judged_now.answers, outcome)
    found = judged_now if look == 1 else report(family, outcome, look, call.judge or None)
    if call.figure:
        figure(found, call.figure)
    if call.next:
        still = [(e.axis, e.choice) for e in found.fit.effects if not e.told]
        return _next(next_prompts(workspace, family, call.next, still), call, found)
    if call.json:
        terminal.json(found.record())
        return 0
    _effects(found)
    if call.phrases or found.phrases:
        _phrases(found, call.phrases)
    if call.figure:
        terminal.say(f"the figure is in {call.figure}", error=False)
    return 0


WORDS = {"mark": "marks", "kept": "of those kept", "money": "of those kept", "wins": "logits"}


def _number(value: float, outcome: str) -> str:
    if not math.isfinite(value):
        return "?"
    return f"{value * 100:+.0f} %" if outcome in ("kept", "money") else f"{value:+.2f}"


def _effects(found) -> None:
    """The table of effects, and what it does and does not say."""
    from rich.text import Text

    rows, last = [], ""
    for e in found.fit.effects:
        told = f"{'better' if e.size > 0 else 'worse'} ({e.chance:.2g})" if e.told else "can't be told yet" if math.isfinite(e.low) else "can't be told"
        style = (terminal.NAME if e.size > 0 else terminal.WRONG) if e.told else terminal.QUIET
        against = f" (against {e.against})" if e.against else ""
        refused = f"; {e.refused} refused" if e.refused else ""
        rows.append((e.axis if e.axis != last else "", e.choice + against, _number(e.size, found.outcome), f"{_number(e.low, found.outcome)} to {_number(e.high, found.outcome)}", Text(told + refused, style)))
        last = e.axis
    terminal.table(("axis", "choice", "effect", "95 %", "what that says"), rows, "choice")
    told, total = sum(e.told for e in found.fit.effects), len(found.fit.effects)
    judges = len(found.judges) or 1
    gone = int(found.table.refused.sum())
    worst = f", {gone} of them refused, which count as 0" if gone else ""
    mean = f"{found.fit.mean:.0%} kept" if found.outcome in ("kept", "money") else f"mean {found.fit.mean:.2f}"
    terminal.say(f"{len(found.table.prompts)} prompts, {int(found.table.draws.sum())} results{worst}, {judges} judge{'' if judges == 1 else 's'}; {mean}. Each choice against the mean of the others of its axis, for these judges.", error=False)
    if found.looks > 1:
        terminal.say((f"look {found.looks}: the intervals hold at every look, and are wider for it", terminal.QUIET), error=False)
    if told:
        terminal.say(("in brackets how often so much would come about by chance, on any of the axes", terminal.QUIET), error=False)
    if told < total and math.isfinite(found.narrower):
        unit = f"±{found.narrower * 100:.0f} %" if found.outcome in ("kept", "money") else f"±{found.narrower:.2g}"
        terminal.say(f"{total - told} of {total} can't be told yet; six more prompts would narrow the widest to {unit}, if they scatter as these do: syntagma effects {found.name} --next 6", error=False)
    elif found.fit.alone:
        terminal.say(("as many numbers to find as prompts: the intervals are over results, and speak of these very prompts alone", terminal.WRONG), f"; syntagma effects {found.name} --next 6 writes some more", error=False)
    elif found.fit.freedom <= 0:
        terminal.say(("nothing is left for the scatter: as many numbers to find as prompts", terminal.WRONG), f"; syntagma effects {found.name} --next 6 writes some more", error=False)
    for name in found.layout.untold:
        terminal.say((f"{name} can't be told from the others in these prompts", terminal.WRONG), error=False)
    _beside(found)


def _beside(found) -> None:
    """Judges, models, money: what stands beside the effects."""
    if len(found.judges) > 1 and found.alpha == found.alpha:
        terminal.say((f"judges agree to {found.alpha:.2f} (Krippendorff's alpha, 1: wholly)" + (f"; with themselves in {found.steady:.0%} of what they judged twice" if found.steady == found.steady else ""), terminal.QUIET), error=False)
    if 1 < len(found.judges) < 5:
        terminal.say(("fewer than five judges: nothing is said of judges at large", terminal.QUIET), error=False)
    for one in found.large:
        if one.low > 0 or one.high < 0:
            terminal.say((f"for judges at large: {one.choice} {one.size:+.2f} ({one.low:+.2f} to {one.high:+.2f})", terminal.QUIET), error=False)
    for pair in found.models:
        terminal.say(f"{pair.second} against {pair.first}, on {pair.prompts} prompts that both had: {_number(pair.size, found.outcome)} ({_number(pair.low, found.outcome)} to {_number(pair.high, found.outcome)})", error=False)
    if found.prices:
        rows = [(p.axis, p.choice, f"{p.kept} of {p.takes}", f"at least {_money(p.low)}" if not p.kept else _money(p.size), f"{_money(p.low)} to {_money(p.most)}" if math.isfinite(p.most) else f"at least {_money(p.low)}") for p in found.prices]
        terminal.table(("axis", "choice", "kept", "money for one", "95 %"), rows, "choice")
    for choice in found.disagree:
        terminal.say((f"{choice}: marks taken as an order only say the opposite; trust neither", terminal.WRONG), error=False)


def _money(amount: float) -> str:
    return f"{amount:.3g}" if amount < 1000 else f"{amount:,.0f}"


def _phrases(found, every: bool) -> None:
    if not found.phrases:
        terminal.say("nobody said of any phrase whether it is shown: syntagma judge asks after the mark", error=False)
        return
    shown = found.phrases if every else [p for p in found.phrases if p.missing or p.overpowering][:8]
    rows = [(p.slot, p.phrase, p.shown, p.missing, p.overpowering, "" if p.marks != p.marks else f"{p.marks:+.2f}{' (told)' if p.chance <= 0.05 else ''}") for p in shown]
    if rows:
        terminal.table(("slot", "phrase", "shown", "missing", "too much", "marks where shown"), rows, "phrase")
    if found.goes:
        g = found.goes
        place = f" (told, chance {g.place_chance:.2g})" if g.place_chance <= 0.05 else ""
        terminal.say((f"phrases that are missing stand at {g.place_missing:.0%} of their prompt, those shown at {g.place_shown:.0%}{place}; {g.words_missing:.1f} words against {g.words_shown:.1f}. That goes with it: nobody set it.", terminal.QUIET), error=False)
    if found.test:
        slot, phrase, number = found.test
        terminal.say((f"a test of it: the same prompt with “{phrase}” where it stands, and first: syntagma kept {number} --expand --vary order=formula,{slot}", terminal.QUIET), error=False)


def _next(found: list, call, report) -> int:
    from syntagma.app.families.files import write_records

    written = [one.record for one in found if one.record is not None]
    if call.json:
        terminal.json([dict(one.record) if one.record is not None else {"choices": dict(one.choices), "why": one.why} for one in found])
        return 0
    names = list(report.table.factors.names)
    terminal.table(tuple(["#", *names]), [(n, *(one.choices[name] for name in names)) for n, one in enumerate(found, 1)], names[-1])
    texts = [one.record["text"] for one in found if one.record is not None]
    if again := len(texts) - len(set(texts)):
        terminal.say((f"{again} of them are further results of a prompt that is among them: the axes have no more that goes together", terminal.QUIET), error=False)
    if missing := [one for one in found if one.record is None]:
        terminal.say(f"{len(missing)} can't be written from here: {missing[0].why}")
    if call.out and written:
        fills = list(dict.fromkeys(slot for one in written for slot in one.get("fills", {})))
        count = write_records(call.out, iter(written), fills, [], False, terminal.note)
        terminal.say(f"{count} prompts in {call.out}; a sheet of their own sends them: syntagma sheet new NAME {call.out}", error=False)
    elif written:
        terminal.say((f"--out next.jsonl writes them; with two results each {len(written) * 2} generations", terminal.QUIET), error=False)
    return 0
