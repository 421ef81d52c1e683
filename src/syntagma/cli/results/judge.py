"""judge: results rated one at a time, or two side by side; in a browser, by a page that is sent, or
here.
"""

from __future__ import annotations

import sys
from argparse import Namespace
from pathlib import Path
from typing import TYPE_CHECKING

from syntagma.cli import args, terminal

if TYPE_CHECKING:
    from syntagma.app.results.judging import Judging


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "name",
        metavar="NAME",
        help=(
            "a sheet (its finished results go into the library first), a label of the library, or"
            " everything"
        ),
    )
    parser.add_argument(
        "--pairs", action="store_true", help="show two side by side, and choose the better"
    )
    parser.add_argument("--page", default="")
    parser.add_argument("--import", dest="take", action="append", default=[])
    parser.add_argument("--out", default="")
    parser.add_argument("--here", action="store_true", help="ask in the terminal")
    parser.add_argument("--judge", default="")
    parser.add_argument("--undo", action="store_true", help="undo the last judgement of --judge")
    parser.add_argument("--port", type=args.within("port"), default=0)
    parser.add_argument("--title", default="")
    parser.examples(
        "syntagma judge lights",
        "syntagma judge lights --pairs --page judge.html",
        "syntagma judge lights --import lights-judged.csv",
    )


def run(call: Namespace) -> int:
    from syntagma.app.results.judged import judged, with_library
    from syntagma.app.results.judging import Judging, told, write_judgements
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    workspace = Workspace.load(tell=terminal.left_out)
    with with_library(workspace) as library:
        family = judged(workspace, library, call.name)
        if not family.kept:
            raise Trouble(
                f"the library has no result of {call.name}, so there is nothing to judge",
                f"syntagma collect {call.name}, then syntagma library add {call.name}",
                2,
            )
        judging = Judging(library, family, call.pairs)
        title = call.title or call.name
        if call.take:
            return _take(judging, call)
        if call.out:
            count = write_judgements(library, family, call.out)
            terminal.say(f"{count} judgements in {call.out}", error=False)
            return 0
        if call.undo:
            back = judging.undo(call.judge or _person())
            terminal.say(
                (
                    f"undone: {back.kind} {back.value} of {back.kept}"
                    if back
                    else "there is nothing to undo"
                ),
                error=False,
            )
            return 0 if back else 1
        if call.page:
            from syntagma.app.results.pages import write_judge_page

            gone = write_judge_page(judging, Path(call.page), title)
            terminal.say(
                f"{len(family.kept)} results in {call.page}; to import the answers: syntagma judge"
                f" {call.name} --import FILE.csv"
                + (f"; the files of {gone} are missing" if gone else ""),
                error=False,
            )
            return 0
        if call.here:
            return _here(judging, call.judge or _person())
        _serve(judging, title, call.port)
        said = told(library.judgements(family.name))
        names = {
            "rating": "ratings",
            "approve": "approved or rejected",
            "pair": "pairs",
            "phrase": "phrases",
        }
        terminal.say(
            ", ".join(f"{count} {names[kind]}" for kind, count in said.items())
            or "nothing was said"
        )
    return 0


def _person() -> str:
    from syntagma.app.batches.sheets import person

    return person()


def _take(judging: Judging, call: Namespace) -> int:
    from syntagma.app.results.judging import take_judgements

    status = 0
    for path in call.take:
        new, old, wrong = take_judgements(judging, path, call.judge)
        if wrong:
            terminal.mistakes(wrong)
            status = 1
        terminal.say(
            f"{path}: {new} judgements imported"
            + (f", {old} there already" if old else "")
            + (f", {len(wrong)} left out" if wrong else ""),
            error=False,
        )
    return status


def _serve(judging: Judging, title: str, port: int) -> None:
    """Serve the page until the person stops it; what was said is saved already."""
    from syntagma.app.results.judging import JudgeServer
    from syntagma.app.results.pages import judge_page
    from syntagma.core.diagnostics import Trouble

    try:
        server = JudgeServer(judging, judge_page(judging, title), int(port))
    except OSError as error:
        raise Trouble(
            f"port {port:g} can't be used: {(error.strerror or str(error)).lower()}",
            "leave --port out to use any free port",
            2,
        ) from None
    terminal.say(f"{len(judging.ids)} results to judge, on this machine only: {server.address}")
    terminal.say(
        ("Ctrl-C stops it; your answers are saved, and the next run continues", terminal.QUIET)
    )
    try:
        server.serve_forever(poll_interval=0.2)
    except KeyboardInterrupt:
        pass
    finally:
        server.server_close()


HELP = "0 to 5 rating · a approve · r reject · u undo · q quit"
PAIRS = "l left · r right · t as good · n neither · u undo · q end"


def _here(judging: Judging, judge: str) -> int:
    """Ask in the terminal: the file is named, and looked at elsewhere."""
    from syntagma.core.diagnostics import Trouble

    terminal.say((PAIRS if judging.pairs else HELP, terminal.QUIET))
    last = None
    while True:
        now = judging.next(judge)
        if not (now.get("one") or now.get("pair")):
            terminal.say(
                (
                    "that is enough; more pairs would change little"
                    if now.get("enough")
                    else "that was the last one"
                ),
                error=False,
            )
            return 0
        if now.get("pair"):
            terminal.say(
                f"{now['done'] + 1} of {now['of']}  left {judging.kept[now['pair'][0]['id']].path} "
                f" right {judging.kept[now['pair'][1]['id']].path}",
                error=False,
            )
        else:
            terminal.say(
                f"{now['done'] + 1} of {now['of']}  {judging.kept[now['one']['id']].path}",
                error=False,
            )
        sys.stderr.write("› ")
        sys.stderr.flush()
        answer = sys.stdin.readline()
        said = answer.strip().lower()
        if not answer or said == "q":
            return 0
        if said == "u":
            terminal.say(
                "undone" if judging.undo(judge) else "there is nothing to undo", error=False
            )
            continue
        try:
            last = _said(judging, judge, now, said, last)
        except Trouble as trouble:
            terminal.say((str(trouble), terminal.WRONG), f": {trouble.remedy}")


def _said(judging: Judging, judge: str, now: dict, said: str, last: int | None) -> int | None:
    from syntagma.core.diagnostics import Trouble

    if now.get("pair"):
        sides = {"l": "left", "r": "right", "t": "tie", "n": "neither"}
        if said not in sides:
            raise Trouble(f"“{said}” is not an answer", PAIRS, 1)
        judging.say(
            {
                "judge": judge,
                "kind": "pair",
                "kept": now["pair"][0]["id"],
                "other": now["pair"][1]["id"],
                "value": sides[said],
            }
        )
        return None
    if said in ("a", "r"):
        if last is None:
            raise Trouble("nothing was rated yet", HELP, 1)
        judging.say(
            {"judge": judge, "kind": "approve", "kept": last, "value": "1" if said == "a" else "0"}
        )
        return last
    if said not in ("0", "1", "2", "3", "4", "5"):
        raise Trouble(f"“{said}” is not a rating", HELP, 1)
    judging.say(
        {
            "judge": judge,
            "kind": "rating",
            "kept": now["one"]["id"],
            "value": said,
            "again": now["one"]["again"],
        }
    )
    kept = judging.kept[now["one"]["id"]]
    terminal.say((f"   {kept.model}: {kept.text}", terminal.QUIET), error=False)
    return kept.id
