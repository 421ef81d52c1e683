"""film: a shot list or a script made into prompts that cut together."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, terminal
from syntagma.core.diagnostics import ERROR, REMARK, Finding

if TYPE_CHECKING:
    from syntagma.app.film.film_prompts import Film, FilmPrompts
    from syntagma.app.film.outputs import FilmBill
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.models.profile import Profile

# ──── How a film looks in a terminal: the strip by scene, to scale and as a table; what it costs;
# what each shot really has.


RULE = 76  # characters of a ruler
SOME = 12  # clips that are named below the bill


def strip(scenes: Sequence) -> None:
    """Each scene: a ruler to scale, its shots, and the findings on them."""
    longest = max((scene.seconds for scene in scenes), default=1.0)
    for number, scene in enumerate(scenes):
        if number:
            terminal.line()
        terminal.say(
            (f"{scene.number}  ", terminal.NAME),
            scene.place,
            (f"  {scene.start:.3g} s in, {scene.seconds:.3g} s long", terminal.QUIET),
            error=False,
        )
        _ruler(scene, longest)
        rows = [_row(box) for box in scene.boxes]
        terminal.table(
            ("shot", "s", "clip", "what is seen and heard"), rows, "what is seen and heard"
        )
        told_by_place([finding for box in scene.boxes for finding in box.findings])


def _ruler(scene: Any, longest: float) -> None:
    """The shots of a scene to scale, and below them when somebody speaks."""
    width = max(8, round(RULE * scene.seconds / longest))
    scale = width / scene.seconds
    shots, said = ["━"] * width, [" "] * width
    for box in scene.boxes:
        at = min(round(box.start * scale), width - 1)
        for i, letter in enumerate(box.shot.number[: max(1, round(box.seconds * scale) - 1)]):
            shots[min(at + i, width - 1)] = letter
    for bar in scene.bars:
        if bar.track == "voice":
            for i in range(
                round(bar.start * scale),
                min(width, max(round(bar.stop * scale), round(bar.start * scale) + 1)),
            ):
                said[i] = "·" if i > round(bar.start * scale) else "“"
    terminal.say(("".join(shots), terminal.QUIET), error=False)
    if any(letter != " " for letter in said):
        terminal.say(("".join(said).rstrip(), terminal.QUIET), error=False)


def _row(box: Any) -> tuple[str, ...]:
    cells = box.shot.cells
    lines = [
        ", ".join(
            part
            for part in (cells.get("size", ""), cells.get("angle", ""), cells.get("move", ""))
            if part
        )
    ]
    lines.append(cells.get("action", "") or "; ".join(box.shot.who))
    lines += [
        f"{line.speaker.upper()}{'' if line.voice == 'on screen' else f' ({line.voice})'}:"
        f" “{line.text}”"
        for line in box.shot.lines
    ]
    lines += [
        f"{what} frame: {cells[f'{what} frame']}"
        for what in ("first", "last")
        if what in box.stills
    ]
    sounds = [text for text in (cells.get("sfx", ""),) if text]
    lines += [f"sound: {', '.join(sounds)}"] if sounds else []
    clip = box.clip.rpartition("/")[2] if box.begins else "″"
    return box.shot.number, f"{box.seconds:.3g}", clip, "\n".join(line for line in lines if line)


def told_by_place(found: Sequence[Finding], error: bool = False) -> None:
    """Findings below what they are about, each with its place."""
    for finding in found:
        style = (
            terminal.WRONG
            if finding.kind == ERROR
            else terminal.CHANGED
            if finding.kind != REMARK
            else terminal.QUIET
        )
        terminal.hanging(
            (finding.kind, style),
            f" {finding.place}: {finding.message}",
            (f"; {finding.remedy}" if finding.remedy else "", terminal.QUIET),
            error=error,
        )


def bill_table(found: Sequence) -> None:
    """What a film costs on each model."""
    columns = ("model", "clips", "stills", "takes", "seconds", "money")
    terminal.table(columns, [[bill.row[name] for name in columns] for bill in found], "money")
    for bill in found:
        clips = ", ".join(f"{name} {seconds:g} s" for name, seconds in bill.named[:SOME])
        terminal.say(
            (
                (
                    f"{bill.model}:"
                    f" {clips}{f' … and {len(bill.named) - SOME} more' if len(bill.named) > SOME else ''}"  # noqa: E501
                ),
                terminal.QUIET,
            ),
            error=False,
        )
        if bill.kept:
            terminal.say(
                (
                    (
                        f"{bill.model}: {bill.kept} clip{'s' if bill.kept > 1 else ''} that"
                        f" {'were' if bill.kept > 1 else 'was'} sent stay as they are and cost"
                        " nothing more"
                    ),
                    terminal.QUIET,
                ),
                error=False,
            )
        if bill.next_best is not None and bill.priced and bill.money:
            clips = bill.money[0][0]
            more = bill.next_best - clips if bill.stills == 0 or len(bill.money) > 1 else None
            if more is not None and more > 1e-6:
                terminal.say(
                    (
                        (
                            f"{bill.model}: the next best way to pack it costs {bill.next_best:g}"
                            " for its clips"
                        ),
                        terminal.QUIET,
                    ),
                    error=False,
                )


def filled_list(
    headings: Sequence[str],
    rows: Sequence[Sequence[str]],
    given: Sequence[Sequence[str]],
    own: Sequence[str],
) -> None:
    """Each shot with what it really has, a cell per line; what stood in no cell of its own in
    brackets.
    """
    at = {heading: i for i, heading in enumerate(own)}
    for row, stood in zip(rows, given, strict=True):
        cells = dict(zip(headings, row, strict=True))
        scene, shot = (
            next((cell for heading, cell in cells.items() if heading.strip().lower() == name), "")
            for name in ("scene", "shot")
        )
        terminal.say((f"{scene}/{shot}", terminal.NAME), error=False)
        for heading, cell in cells.items():
            if not cell or heading.strip().lower() in ("scene", "shot"):
                continue
            inherited = heading not in at or not stood[at[heading]]
            terminal.say(
                (f"    {heading:<12} ", terminal.QUIET),
                (f"({cell})", terminal.QUIET) if inherited else cell,
                error=False,
            )


# ──── film: a shot list or a script made into prompts that cut together.


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "source",
        metavar="LIST",
        nargs="?",
        default="",
        help="blank: the lists of this folder; `film prompts` makes prompts from one",
    )
    parser.json("films")
    parser.examples(
        "syntagma film",
        "syntagma film prompts ticket-nine.csv --model whimbrel-motion",
        "syntagma film new crossing --shots 5",
    )


def run(call: Namespace) -> int:
    """The shot lists and scripts of this folder."""
    from pathlib import Path

    from syntagma.app.film.lists import films_in
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    if call.source:
        if Path(call.source).suffix.lower() in (".csv", ".xlsx", ".fountain"):
            raise Trouble(
                "choose a verb: new, check or prompts",
                "`syntagma film prompts LIST` makes its prompts",
                2,
            )
        args.no_verb("film", args.CALLED[1:], VERBS)
    found = films_in(Workspace.load(tell=terminal.left_out), Path.cwd())
    if call.json:
        terminal.items({"source": path.name, "shots": shots} for path, shots in found)
        return 0
    if not found:
        terminal.say("This folder has no shot list or script. To start one: syntagma film new NAME")
        return 0
    terminal.table(("list", "shots"), [(path.name, shots) for path, shots in found], "list")
    return 0


def _new_arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="its name")
    parser.add_argument(
        "--shots",
        metavar="N",
        type=args.within("shots"),
        default=12,
        help="how many rows (default: 12)",
    )
    parser.add_argument("--formula")
    parser.examples("syntagma film new crossing --shots 5")


def _list_arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "source", metavar="LIST", help="a shot list (.csv, .xlsx) or a script (.fountain)"
    )
    parser.add_argument("--model")
    parser.add_argument(
        "--stills", metavar="NAME", help="the image model for first and last frames"
    )
    parser.add_argument("--formula")
    parser.add_argument("--look")
    parser.add_argument("--draw", type=args.within("draw"), default=1)
    parser.add_argument("--set", action="append", default=[])
    parser.add_argument(
        "--sent",
        metavar="FILE",
        help="records of clips already sent; they stay as they are if their shots have not changed",
    )
    parser.add_argument(
        "--repack",
        action="store_true",
        help="pack everything again, sent clips too, and show what you would pay twice",
    )
    parser.add_argument(
        "--results",
        dest="takes",
        metavar="FILE",
        help=(
            "the results (.csv, .xlsx: clip, file, seconds, speech end, chosen), for the timeline"
            " and the frames"
        ),
    )
    parser.add_argument(
        "--filled",
        action="store_true",
        help=(
            "fill in blank cells, to show what each shot really has; with --list: write it that way"
        ),
    )
    parser.add_argument(
        "--list",
        metavar="FILE",
        dest="list_out",
        help="write the shot list (.csv, .xlsx), as changed by --set or made from a script",
    )
    parser.add_argument("--out", action="append", default=[])
    parser.add_argument("--dry-run", action="store_true")
    parser.json("prompts", "shots")
    parser.examples(
        "syntagma film prompts ticket-nine.csv --model whimbrel-motion",
        "syntagma film check ticket-nine.csv --model whimbrel-motion",
    )


def _new(call: Namespace) -> int:
    from syntagma.app.film.lists import new_list
    from syntagma.app.workspace.workspace import Workspace

    path = new_list(
        Workspace.load(tell=terminal.left_out), call.name, call.shots, call.formula or "film-shot"
    )
    terminal.say(
        f"{path}: {call.shots} shots to fill in; then syntagma film prompts {path} --model …"
    )
    return 0


def _prompts(call: Namespace) -> int:
    return _film(call, False)


def _check(call: Namespace) -> int:
    return _film(call, True)


def _film(call: Namespace, only: bool) -> int:
    from syntagma.app.film.lists import FilmList
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    found = FilmList(workspace, call.source, call.formula or "", args.listed(call.look))
    for change in call.set:
        place, equals, text = change.partition("=")
        if not equals:
            from syntagma.core.diagnostics import Trouble

            raise Trouble(f"“{change}” changes nothing", 'write --set 3/12A/2="…"', 2)
        old = found.change(place.strip(), text)
        terminal.note(f"{place.strip()}: “{old or 'blank'}” is now “{text or 'blank'}”")
    for note in found.notes:
        terminal.note(note)
    for lost in found.lost:
        terminal.note(f"a shot list has no place for {lost}, so it is left out")
    if found.further:
        terminal.note(f"columns that Syntagma keeps but does not use: {', '.join(found.further)}")
    if found.wrong:
        terminal.mistakes(found.wrong)
        return 1
    if call.list_out:
        from syntagma.app.film.outputs import write_list

        write_list(found, call.list_out, call.filled, terminal.note)
        terminal.say(f"{len(found.shots.shots)} shots in {call.list_out}")
    if call.filled and not call.list_out:
        return _filled(found, call)
    if call.list_out and not (call.out or call.json or call.model or only):
        return 0
    return _planned(workspace, found, call, only)


def _filled(found: Any, call: Namespace) -> int:
    """What each shot really has, what was filled in marked."""
    from syntagma.app.film.lists import table_of

    if call.json:
        terminal.items(
            {key: cell for key, cell in shot.cells.items() if cell} for shot in found.shots.shots
        )
        return 0
    headings, rows = table_of(found.shots, filled=True)
    filled_list(headings, rows, table_of(found.shots)[1], list(found.shots.headings))
    return 0


def _planned(workspace: Workspace, found: Any, call: Namespace, only: bool) -> int:
    from pathlib import Path

    from syntagma.app.asked import Taste
    from syntagma.app.film.outputs import FilmFiles, bill_of, frames_wanted, read_takes, save_frames

    film, by_model = found.film(Taste(draw=call.draw)), []
    sent = _sent(call)
    for profile in _models(workspace, found, call):
        by_model.append(_made(workspace, film, profile, found, call, {} if call.repack else sent))
    bills = [bill_of(prompts) for prompts in by_model]
    first = by_model[0]
    takes = (
        read_takes(call.takes, [made.name for made in first.made if made.kind == "clip"])
        if call.takes
        else {}
    )
    if first.beside and not call.json:
        what = " and ".join(first.beside)
        in_clips = ", ".join(f'"{one}"' for one in first.beside)
        terminal.note(
            f"{what}: on {'tracks' if len(first.beside) > 1 else 'a track'} of the timeline, not in"
            " the prompts, where each clip would begin it anew; for that, write in_clips ="
            f" [{in_clips}] in {Path(call.source).with_suffix('.toml').name}"
        )
    files = FilmFiles(found, by_model, bills, takes, terminal.note)
    findings = [*first.findings, *_of_prompts(first), *files.cut_findings, *first.wrong]
    worst = (
        1
        if any(
            f.kind == ERROR
            for prompts in by_model
            for f in (*prompts.wrong, *prompts.plan.findings, *_of_prompts(prompts))
        )
        else 0
    )
    if call.json:
        terminal.items((record for prompts in by_model for record in prompts.records()), findings)
    elif only:
        told_by_place(findings)
        terminal.say(_summed(findings), error=False)
    else:
        if not call.out:
            strip(files.scenes(findings))
            terminal.line()
        bill_table(bills)
    told = {(finding.code, finding.place) for finding in findings}
    if call.out and not call.json:  # report what no file can hold
        told_by_place([finding for prompts in by_model for finding in prompts.wrong], error=True)
    for prompts in by_model[1:] if not call.out else ():
        told_by_place(
            [
                f
                for f in (*prompts.findings, *_of_prompts(prompts), *prompts.wrong)
                if (f.code, f.place) not in told
            ],
            error=bool(call.json),
        )
    if call.repack and sent:
        _repacked(workspace, film, found, call, sent, bills)
    for path in call.out:
        terminal.say(f"{path} would be written" if call.dry_run else files.write(path, findings))
    if call.takes:
        for said in save_frames(first, takes, Path.cwd()):
            terminal.note(said)
    elif not only and not call.json and (wanted := frames_wanted(first)):
        terminal.note(
            f"{', '.join(f'{file} (the last picture of {clip})' for clip, file in wanted)}: from"
            " the takes that you choose; --results FILE names them"
        )
    return worst


def _made(
    workspace: Workspace, film: Film, profile: Profile, found: Any, call: Namespace, sent: Any
):
    from syntagma.app.film.film_prompts import FilmPrompts

    stills = workspace.model(
        call.stills or found.settings.stills or _first_still(workspace, profile)
    )
    return FilmPrompts(film, profile, stills, sent)


def _first_still(workspace: Workspace, profile: Profile) -> str | None:
    """Where no image model is named: the workspace's, unless it makes films."""
    model = workspace.model(None)
    return model.name if model.name and model.makes != "video" else "curlew-still"


def _models(workspace: Workspace, found: Any, call: Namespace) -> list:
    """The film models that are asked for. Raises Trouble."""
    from syntagma.core.diagnostics import Trouble

    names = args.listed(call.model) or args.listed(found.settings.model)
    if not names:
        own = workspace.model(None)
        if own.name and own.makes != "image":
            return [own]
        films = [one.name for one in workspace.readable_models() if one.makes == "video"]
        raise Trouble(
            "no film model was named",
            f"write --model {films[0] if films else 'NAME'} (the film models are"
            f' {", ".join(films)}), or model = "…" in the film\'s .toml',
            2,
        )
    models = [workspace.model(name) for name in names]
    for model in models:
        if model.makes == "image":
            raise Trouble(
                f"{model.name} makes pictures, not films",
                "name a film model: `syntagma model` lists them",
                2,
            )
    return models


def _sent(call: Namespace):
    """The clips that were sent, by model. Raises Trouble."""
    if not call.sent:
        return {}
    from syntagma.app.film.film_prompts import sent_clips
    from syntagma.app.prompt_files import prompts_of_file
    from syntagma.core.diagnostics import Refused

    read = list(prompts_of_file(call.sent, records=True))
    if wrong := [one.mistake for one in read if one.mistake]:
        raise Refused(wrong)
    return sent_clips([one.record for one in read])


def _repacked(
    workspace: Workspace,
    film: Film,
    found: Any,
    call: Namespace,
    sent: Any,
    bills: Sequence[FilmBill],
) -> None:
    """What packing everything again would pay again."""
    from syntagma.app.film.outputs import bill_of

    for profile, bill in zip(_models(workspace, found, call), bills, strict=True):
        kept = bill_of(_made(workspace, film, profile, found, call, sent))
        terminal.say(
            f"{profile.name}: packed again {bill.clips} clips and {bill.stills} stills"
            f" ({bill.money_shown}); if sent clips stay, {kept.clips} clips and {kept.stills}"
            f" stills ({kept.money_shown})"
        )


def _of_prompts(prompts: FilmPrompts) -> list:
    """The findings on single prompts, each once, at its shot."""
    found = {}
    for made in prompts.made:
        for finding in made.findings:
            if finding.kind != REMARK:
                found.setdefault(
                    (finding.code, finding.message),
                    finding._replace(place=made.name.partition(" ")[0]),
                )
    return list(found.values())


def _summed(findings: Sequence[Finding]) -> str:
    count = {kind: sum(f.kind == kind for f in findings) for kind in ("error", "warning", "remark")}
    parts = [
        f"{number} {kind}{'s' if number != 1 else ''}" for kind, number in count.items() if number
    ]
    return ", ".join(parts) if parts else "nothing to mend"


VERBS = {
    "new": args.Verb("start a shot list", _new_arguments, _new),
    "check": args.Verb("check a shot list or a script", _list_arguments, _check),
    "prompts": args.Verb("make prompts that cut together", _list_arguments, _prompts),
}
