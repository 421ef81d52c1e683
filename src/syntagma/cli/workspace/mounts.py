"""mounts: list them, or show one in full."""

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared

HINT = "`syntagma compose FORMULA --mount NAME` puts one round a prompt; A,B puts B round A"


def arguments(parser: args.Parser) -> None:
    shared.shelf_arguments(parser, "mount")
    parser.examples("syntagma mounts", "syntagma mounts two-inks")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import mount_card, mount_rows

    return shared.shelf(call, mount_card, terminal.formula_card, mount_rows, lambda rows: shared.blocks(rows, "mount"), HINT)
