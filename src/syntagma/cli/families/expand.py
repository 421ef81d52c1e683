"""expand: a family of prompts out of one."""

from __future__ import annotations

import re
import sys
from argparse import Namespace
from typing import TYPE_CHECKING

from syntagma.cli import args, options, terminal

if TYPE_CHECKING:
    from syntagma.app.families.family import Family
    from syntagma.app.families.spec import FamilySpec
    from syntagma.app.workspace.workspace import Workspace

SCREEN = 200  # prompts above which a family is not shown on a screen unasked


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "formula",
        metavar="FORMULA",
        nargs="?",
        default="",
        help=(
            "a formula's name, a .formula file, a formula on one line in quotes, or a plan (.toml)"
        ),
    )
    parser.add_argument(
        "fills", metavar="slot=text", nargs="*", help="what is the same in all prompts"
    )
    parser.add_argument("--text")
    parser.add_argument(
        "--vary",
        metavar="AXIS",
        action="append",
        default=[],
        help=(
            'what varies: SLOT (all its terms), SLOT="a; b; c" (these; a,b,c where no value has a'
            " comma; #tag, * for favourites), SLOT:4 (four picks), light+palette=a/b,c/d"
            " (together), stress.SLOT=0.8..1.4/0.2, parameter.NAME=a,b, seed=1..4, model=A,B,"
            " look=none,A, theme=A,B, detail=bare,rich, order=formula,camera; can be repeated"
        ),
    )
    parser.add_argument(
        "--design",
        help=(
            "single: one change at a time against the baseline (the default) · ladder: one axis in"
            " even steps · full: every combination · cover: every pair in few · spread: balanced"
            " and far apart · random: draws · mixed: for the effects in --interest · effects: to"
            " measure what each choice does (the default for several axes when --takes or --count"
            " asks for more results)"
        ),
    )
    parser.add_argument("--count", type=args.within("count"))
    parser.add_argument("--takes", type=args.within("takes"))
    parser.add_argument("--all", action="store_true")
    parser.add_argument(
        "--strength",
        metavar="N",
        action="append",
        default=[],
        help=(
            "cover: every pair (2, the default), every triple (3); 3:light+medium+lens for a group"
            " of axes; can be repeated"
        ),
    )
    parser.add_argument(
        "--effort",
        metavar="N",
        type=args.within("effort"),
        help="how thoroughly to search for a design (default: 1)",
    )
    parser.add_argument(
        "--interest", metavar="AXIS,…", help="for mixed: axes, and pairs of axes as light*lens"
    )
    parser.add_argument(
        "--rule",
        metavar="RULE",
        action="append",
        default=[],
        help=(
            'what may not go together: "never A with B", "if light is A then lens is B or C", "only'
            ' A with B"; can be repeated'
        ),
    )
    parser.add_argument("--rules", metavar="FILE", help="a file of rules, one per line")
    parser.add_argument(
        "--allow",
        metavar="LEVEL",
        action="append",
        default=[],
        help="keep a choice that contradicts what is fixed or another choice; can be repeated",
    )
    parser.add_argument(
        "--different",
        metavar="N",
        type=args.within("different"),
        help="the least difference between two texts, 0 to 1",
    )
    parser.add_argument("--without", metavar="N,…", help="leave out members by their number")
    parser.add_argument("--refill", action="store_true", help="replace members that are left out")
    parser.add_argument("--kept", default="")
    parser.add_argument("--model")
    options.form_argument(parser)
    options.arguments(parser)
    parser.add_argument("--budget", type=args.within("budget"))
    parser.add_argument(
        "--part",
        metavar="K/N",
        help="write only one of N parts; joined, the parts are the whole family",
    )
    parser.add_argument(
        "--on",
        metavar="ADDRESS",
        help=(
            "write the parts on a Dask cluster (host:port of its scheduler) and join them in --out"
            " FILE"
        ),
    )
    parser.add_argument(
        "--resume", action="store_true", help="continue where an interruption left FILE.partial"
    )
    parser.add_argument(
        "--save-plan",
        dest="save",
        metavar="PLAN",
        help="save the whole command as a plan (.toml); `syntagma expand PLAN` runs it again",
    )
    parser.add_argument("--dry-run", dest="explain", action="store_true")
    parser.add_argument(
        "--report",
        action="store_true",
        help="report how balanced the family is, which pairs it covers, what it costs",
    )
    parser.add_argument(
        "--table",
        metavar="FILE",
        help="the design as a table, prompts by axes: - in the terminal, or a .png",
    )
    parser.json("prompts", "family")
    parser.add_argument("--out")
    options.plain_argument(parser)
    parser.examples(
        'syntagma expand poster medium=linocut subject="car ferry" --vary light="sodium quay'
        ' lamps,low moon behind scud"',
        "syntagma expand poster --count 12 --model curlew-still,dunlin-still --out crossings.csv",
    )


def run(call: Namespace) -> int:
    from syntagma.app.families.family import Family, counted, keep_to
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    if call.kept:
        from syntagma.cli import prompt_input

        return prompt_input.go_on("expand", call.kept, prompt_input.without(call.words, "--kept"))
    options.as_form(call)
    _vary_meant(call)
    wish = _wish(call)
    if call.table and call.table != "-" and not call.table.endswith(".png"):
        raise Trouble(
            f"can't draw a table as {call.table}",
            "write --table - for the terminal, or --table design.png",
            2,
        )
    if call.on and (call.part or call.resume or not call.out):
        raise Trouble(
            "--on writes a whole family to a file",
            "leave --part and --resume out, and name the file: --out FILE.jsonl",
            2,
        )
    if call.resume and not call.out:
        raise Trouble(
            "--resume continues a file, and none was named",
            "write --out FILE, as in the interrupted command",
            2,
        )
    workspace = Workspace.load(tell=terminal.left_out)
    if call.save:
        _save(wish, call.save)
    if call.budget is not None:
        keep_to(call.budget, workspace, wish)
    family = Family(workspace, wish)
    for line in family.foreseen.lines:
        terminal.say((line, terminal.CHANGED))
    if call.part:
        family.window = counted(workspace, wish).part(*args.part(call.part))
    if terminal.remarks_seen():
        terminal.findings(family.remarks + family.vocabulary_remarks())
    if call.explain or call.table:
        return _look_over(family, call)
    if call.on:
        return _on_cluster(workspace, wish, family, call)
    if call.out:
        _to_file(family, call)
    elif call.json:
        _stream(family, "json")
    elif terminal.on_terminal():
        _fits_a_screen(family)
        _show(family)
    else:
        _stream(family, "text")
    status = _close(family)
    if call.report:
        _look_over(Family(workspace, wish), call)
    return status


def _vary_meant(call: Namespace) -> None:
    """Raises Trouble if what varies was said in a way that nothing takes, with the call that was
    meant.
    """
    from syntagma.core.diagnostics import Trouble

    listed = [
        word
        for word in call.fills
        if re.search(r",(?! )" if call.vary or call.count else ",", word.partition("=")[2])
    ]
    if listed and not call.formula.endswith(".toml"):
        raise Trouble(
            f"“{listed[0]}” is a single value as written",
            f"write --vary {args.quote(listed[0])}",
            2,
        )
    slots = [word.partition("=")[0] for word in call.vary if "=" in word]
    if twice := next((slot for slot in slots if slots.count(slot) > 1), ""):
        raise Trouble(f"“{twice}” is varied twice", "give all its values in one --vary", 2)


def _wish(call: Namespace):
    """What the call wants: a plan with what the call says over it, or the call alone. Raises
    Trouble or Refused.
    """
    from syntagma.app.asked import Taste
    from syntagma.app.families.spec import FamilySpec, read_vary
    from syntagma.core.diagnostics import Trouble
    from syntagma.storage.files import read_text

    manner, taste = options.manner(call), options.taste(call)
    words = [call.formula, *call.fills] if call.text and call.formula else call.fills
    if call.formula.endswith(".toml"):
        from syntagma.app.families.spec import read_plan

        wish = read_plan(read_text(call.formula, "a plan"), call.formula)
    elif not call.formula and not call.text:
        raise Trouble("FORMULA is missing", 'write a formula\'s name, a plan, or --text "…"', 2)
    else:
        wish = FamilySpec("" if call.text else call.formula, text=call.text or "")
    strength, groups = args.strengths(call.strength)
    rules = [
        *call.rule,
        *(read_text(call.rules, "a file of rules").splitlines() if call.rules else ()),
    ]
    own, wanted = wish.taste, wish.design
    name = call.design or wanted.name
    takes = call.takes or wanted.takes
    several = takes > 1 and len(wish.vary) + len(call.vary) > 1
    count = (
        max(1, call.count // takes)
        if call.count and (name == "effects" or (not name and several))
        else call.count
    )  # results are counted there
    design = wanted._replace(
        name=name,
        takes=takes,
        count=count or wanted.count,
        everything=call.all or wanted.everything,
        rules=[*wanted.rules, *rules],
        strength=strength or wanted.strength,
        groups=groups or wanted.groups,
        effort=wanted.effort if call.effort is None else call.effort,
        interest=args.listed(call.interest) or wanted.interest,
        different=wanted.different if call.different is None else call.different,
        without=tuple(args.numbers(call.without)) or wanted.without,
        refill=call.refill or wanted.refill,
        allow=[*wanted.allow, *call.allow],
    )
    before = wish.manner
    return wish._replace(
        given={**wish.given, **args.fills(words)},
        vary=[*wish.vary, *map(read_vary, call.vary)],
        design=design,
        models=args.names(call.model) if call.model else wish.models,
        looks=args.listed(call.look) or wish.looks,
        taste=Taste(
            taste.themes or own.themes,
            call.detail or own.detail,
            own.draw if call.draw is None else call.draw,
            taste.mine or own.mine,
        ),
        manner=before._replace(
            stress={**before.stress, **manner.stress},
            parameters={**before.parameters, **manner.parameters},
            references=[*before.references, *manner.references],
        ),
        pick=wish.pick or bool(call.detail or call.theme),
    )


def _save(wish: FamilySpec, path: str) -> None:
    from syntagma.app.families.spec import plan_text
    from syntagma.core.diagnostics import Trouble
    from syntagma.storage.files import write_text

    if not path.endswith(".toml"):
        raise Trouble(f"{path} is not a name for a plan", f"write --save-plan {path}.toml", 2)
    write_text(path, plan_text(wish))
    terminal.say(f"the plan is in {path}: syntagma expand {path} makes it again")


def _look_over(family: Family, call: Namespace) -> int:
    """The report or the table of a family, which is not written."""
    from syntagma.app.families.report import draw_table, report
    from syntagma.core.diagnostics import Trouble

    if not family.compiled.axes:
        raise Trouble(
            "a family of picks has no design to report", "name what varies: --vary light", 2
        )
    found = report(family)
    if call.table and call.table.endswith(".png"):
        draw_table(found, call.table)
        terminal.say(f"{len(found.rows)} members by {len(found.axes)} axes in {call.table}")
    elif call.table:
        terminal.design_table(found.axes, found.table())
    elif call.json:
        terminal.json(found.record())
    else:
        terminal.report(found)
    for line in family.statement():
        terminal.say(line)
    return 0


def _to_file(family: Family, call: Namespace) -> None:
    from syntagma.app.families.files import check_lines, write_family
    from syntagma.app.families.forecast import LONG, estimate

    path = call.out
    if call.part:
        check_lines(family, path, "--part")

    total, window = family.compiled.wish.design.count or family.compiled.size, family.window
    if total and total >= LONG and not call.part:
        terminal.say((estimate(family.compiled, total, path), terminal.QUIET))
    with terminal.Progress(total, "writing") as tell:
        names = write_family(family, path, tell, call.resume, call.plain_csv, terminal.note)
    _say_where(family, int(min(family.tally.written, window.high) - window.low), names)


def _say_where(family: Family, members: int, names: list[str]) -> None:
    each = (
        f", each for {len(family.compiled.writers)} models"
        if len(family.compiled.writers) > 1
        else ""
    )
    terminal.say(f"{members:,} prompts{each} in {' and '.join(names)}")


def _on_cluster(workspace: Workspace, wish: FamilySpec, family: Family, call: Namespace) -> int:
    from syntagma.app.families.cluster import write_on

    with terminal.Progress(None, "writing") as tell:
        names, whole = write_on(call.on, workspace, wish, call.out, tell)
    _say_where(family, whole.tally.written, names)
    return _close(whole)


def _fits_a_screen(family: Family) -> None:
    """A family of hundreds goes to a screen only when that is asked for. Raises Trouble."""
    from syntagma.core.diagnostics import Trouble

    design = family.compiled.wish.design
    size = design.count or family.compiled.size
    if size and size > SCREEN and not design.everything:
        models = len(family.compiled.writers)
        each = f", each for {models} models" if models > 1 else ""
        raise Trouble(
            f"the family has {size:,} prompts{each}",
            f"--out FILE writes them, --count {SCREEN // 10} takes a few, --dry-run shows the"
            " design and cost, --all prints them here",
            2,
        )


def _stream(family: Family, how: str) -> None:
    from syntagma.app.families.files import stream_family
    from syntagma.formats.prompts_out import JsonOut, TextOut

    kind = JsonOut if how == "json" else TextOut
    stream_family(family, [kind(sys.stdout, list(family.compiled.writer.position))])
    sys.stdout.flush()


def _show(family: Family) -> None:
    from syntagma.app.families.files import FamilyRecords
    from syntagma.formats.prompts_out import changes

    records = FamilyRecords(family)
    for member in family.members():
        fills = family.fills_of(member)
        every = records.of(member)
        if family.compiled.axes:
            what, differs = (
                ", ".join(changes(every[0])) or "baseline",
                [s for name in family.changes(member) for s in name.split("+")],
            )
        else:  # everything differs: say what was picked first, and mark nothing
            what, differs = ", ".join(f.shown for f in member.combination[:3] if f), []
        written = [
            (
                terminal.marked(writer.pieces(fills), differs),
                " · ".join(
                    filter(
                        None, (writer.profile.name, terminal.size(record), terminal.price(record))
                    )
                ),
            )
            for writer, record in zip(family.writers_of(member), every, strict=True)
        ]
        terminal.member(member.number + 1, what, written)


def _close(family: Family) -> int:
    """What is said at the end, and the exit status."""
    from syntagma.core.models.prices import in_all

    for line in family.statement():
        terminal.say(line)
    if terminal.remarks_seen():
        bills = [bill for bill in family.bills() if bill.amount is not None]
        for bill in bills:
            terminal.say((bill.shown(), terminal.QUIET))
        if len(bills) > 1:
            terminal.say((f"in all: {in_all(bills)}", terminal.QUIET))
    terminal.findings(family.tally.failures)
    if family.tally.failed:
        terminal.say(
            (
                (
                    f"{family.tally.failed:,} prompt{'' if family.tally.failed == 1 else 's'} could"
                    " not be written"
                ),
                terminal.WRONG,
            )
        )
    return 1 if family.tally.failed else 0
