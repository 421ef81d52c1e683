"""How a film looks in a terminal: the strip by scene, to scale and as a table; what it costs; what each shot really has."""

from collections.abc import Sequence

from syntagma.cli import terminal
from syntagma.core.diagnostics.findings import ERROR, REMARK, Finding

RULE = 76  # characters of a ruler
SOME = 12  # clips that are named below the bill


def strip(scenes: Sequence) -> None:
    """Each scene: a ruler to scale, its shots, and the findings on them."""
    longest = max((scene.seconds for scene in scenes), default=1.0)
    for number, scene in enumerate(scenes):
        if number:
            terminal.line()
        terminal.say((f"{scene.number}  ", terminal.NAME), scene.place, (f"  {scene.start:.3g} s in, {scene.seconds:.3g} s long", terminal.QUIET), error=False)
        _ruler(scene, longest)
        rows = [_row(box) for box in scene.boxes]
        terminal.table(("shot", "s", "clip", "what is seen and heard"), rows, "what is seen and heard")
        told_by_place([finding for box in scene.boxes for finding in box.findings])


def _ruler(scene, longest: float) -> None:
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
            for i in range(round(bar.start * scale), min(width, max(round(bar.stop * scale), round(bar.start * scale) + 1))):
                said[i] = "·" if i > round(bar.start * scale) else "“"
    terminal.say(("".join(shots), terminal.QUIET), error=False)
    if any(letter != " " for letter in said):
        terminal.say(("".join(said).rstrip(), terminal.QUIET), error=False)


def _row(box) -> tuple[str, ...]:
    cells = box.shot.cells
    lines = [", ".join(part for part in (cells.get("size", ""), cells.get("angle", ""), cells.get("move", "")) if part)]
    lines.append(cells.get("action", "") or "; ".join(box.shot.who))
    lines += [f"{line.speaker.upper()}{'' if line.voice == 'on screen' else f' ({line.voice})'}: “{line.text}”" for line in box.shot.lines]
    lines += [f"{what} frame: {cells[f'{what} frame']}" for what in ("first", "last") if what in box.stills]
    sounds = [text for text in (cells.get("sfx", ""),) if text]
    lines += [f"sound: {', '.join(sounds)}"] if sounds else []
    clip = box.clip.rpartition("/")[2] if box.begins else "″"
    return box.shot.number, f"{box.seconds:.3g}", clip, "\n".join(line for line in lines if line)


def told_by_place(found: Sequence[Finding], error: bool = False) -> None:
    """Findings below what they are about, each with its place."""
    for finding in found:
        style = terminal.WRONG if finding.kind == ERROR else terminal.CHANGED if finding.kind != REMARK else terminal.QUIET
        terminal.hanging((finding.kind, style), f" {finding.place}: {finding.message}", (f"; {finding.remedy}" if finding.remedy else "", terminal.QUIET), error=error)


def bills(found: Sequence) -> None:
    """What a film costs on each model."""
    columns = ("model", "clips", "stills", "takes", "seconds", "money")
    terminal.table(columns, [[bill.row[name] for name in columns] for bill in found], "money")
    for bill in found:
        clips = ", ".join(f"{name} {seconds:g} s" for name, seconds in bill.named[:SOME])
        terminal.say((f"{bill.model}: {clips}{f' … and {len(bill.named) - SOME} more' if len(bill.named) > SOME else ''}", terminal.QUIET), error=False)
        if bill.kept:
            terminal.say((f"{bill.model}: {bill.kept} clip{'s' if bill.kept > 1 else ''} that {'were' if bill.kept > 1 else 'was'} sent stay as they are and cost nothing more", terminal.QUIET), error=False)
        if bill.next_best is not None and bill.priced and bill.money:
            clips = bill.money[0][0]
            more = bill.next_best - clips if bill.stills == 0 or len(bill.money) > 1 else None
            if more is not None and more > 1e-6:
                terminal.say((f"{bill.model}: the next best way to pack it costs {bill.next_best:g} for its clips", terminal.QUIET), error=False)


def filled_list(headings: Sequence[str], rows: Sequence[Sequence[str]], given: Sequence[Sequence[str]], own: Sequence[str]) -> None:
    """Each shot with what it really has, a cell per line; what stood in no cell of its own in brackets."""
    at = {heading: i for i, heading in enumerate(own)}
    for row, stood in zip(rows, given, strict=True):
        cells = dict(zip(headings, row, strict=True))
        scene, shot = (next((cell for heading, cell in cells.items() if heading.strip().lower() == name), "") for name in ("scene", "shot"))
        terminal.say((f"{scene}/{shot}", terminal.NAME), error=False)
        for heading, cell in cells.items():
            if not cell or heading.strip().lower() in ("scene", "shot"):
                continue
            inherited = heading not in at or not stood[at[heading]]
            terminal.say((f"    {heading:<12} ", terminal.QUIET), (f"({cell})", terminal.QUIET) if inherited else cell, error=False)
