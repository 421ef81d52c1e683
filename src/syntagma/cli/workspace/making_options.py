"""What the commands that make something of a person's own share."""

from syntagma.cli import args, terminal


def arguments(parser: args.Parser, deeds: tuple[str, ...]) -> None:
    parser.add_argument("deed", choices=deeds, help="what to do")
    parser.add_argument("name", metavar="NAME", help="its name: small letters and hyphens")
    parser.add_argument("--like", metavar="OTHER", default="", help="a copy of one that is there, to change in an editor")
    parser.add_argument("--about", metavar="TEXT", default="", help="one line that says what it is")
    parser.add_argument("--when", metavar="TEXT", default="", help="when to use it")
    parser.add_argument("--own", action="store_true", help="into your own folder, not the workspace")


def made(workspace, path, remarks, then: str) -> int:
    """Say what was made, what there is to remark, and how to go on."""
    terminal.say((workspace.shown(path), terminal.NAME), "  is made; change it in any editor", error=False)
    terminal.findings(remarks)
    terminal.say((then, terminal.QUIET))
    return 0
