"""mounts: list them, or show one in full."""

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one mount, by name or by file")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma mounts", "syntagma mounts two-inks")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import mount_card, mount_rows
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.name:
        card = mount_card(workspace, call.name)
        terminal.json(card) if call.json else terminal.formula_card(card)
        return 0
    rows = mount_rows(workspace)
    if call.json:
        terminal.json(rows)
        return 0
    for row in rows:
        terminal.block(row["mount"], row.get("media", "both"), [row.get("about", ""), row.get("when", "")])
    if terminal.on_terminal():
        terminal.say("`syntagma compose FORMULA --mount NAME` puts one round a prompt; A,B puts B round A")
    return 0
