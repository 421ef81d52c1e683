"""formulas: when to use each, its parts in order and an example prompt; or one in full."""

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared

HINT = "`syntagma formulas NAME` shows one in full; `syntagma compose NAME --pick` writes with it"


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one formula, by name or by file")
    parser.add_argument("--media", choices=("image", "video"), help="only those for pictures, or for clips")
    parser.add_argument("--find", metavar="WORDS", default="", help="only those that say these words of themselves")
    parser.add_argument("--short", action="store_true", help="a line each")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma formulas --media video", "syntagma formulas poster")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import formula_card, formula_rows

    rows = lambda workspace: formula_rows(workspace, call.media or "", call.find)  # noqa: E731
    return shared.shelf(call, formula_card, terminal.formula_card, rows, _short if call.short else _long, HINT)


def _short(rows: list[dict]) -> None:
    columns = ("formula", "medium", "slots", "what it makes")
    terminal.table(columns, [(r["formula"], r.get("media", "both"), len(r["slots"]), r.get("about", "")) for r in rows], columns[-1])


def _long(rows: list[dict]) -> None:
    for row in rows:
        lines = [row.get("when") or row.get("about", ""), " › ".join(row["parts"]), row.get("example", {}).get("text", "")]
        terminal.block(row["formula"], row.get("media", "both"), lines)
