"""The options that several commands share: each has one meaning, one help text, and if it is used all day a short form."""

from typing import Any, NamedTuple


class Option(NamedTuple):
    """What follows an option, and what it means."""

    metavar: str | None
    help: str


SHORT = {"--model": "-m", "--out": "-o", "--count": "-n", "--draw": "-d"}  # besides -q and -v, which every command has

FORMER = {  # what options were called
    "--form": "--layout", "--dry": "--dry-run", "--explain": "--dry-run",
    "--draws": "--takes", "--mount": "--look", "--mark": "--rating", "--dpi": "--ppi", "--save": "--save-plan", "--like": "--copy-of", "--take": "--import", "--dropped": "--removed", "--fill": "--ask", "--again": "--retry",
    "--anyway": "--allow", "--licence": "--licence-file", "--note": "--message", "--for": "--purpose",
}  # fmt: skip

SHARED = {
    "--about": Option("TEXT", "a description of one line"),
    "--all": Option(None, "show all of them"),
    "--anyway": Option(None, "go ahead in spite of errors"),
    "--ask": Option(None, "ask for one slot after another, with suggestions"),
    "--at": Option("URL", "the address of the local service (for models whose service is on this machine)"),
    "--budget": Option("N", "the most that all of it may cost, in the model's currency"),
    "--column": Option("NAME", "the column of a table, or the key of records, that holds the prompts"),
    "--copy-of": Option("NAME", "begin with a copy of an existing one"),
    "--count": Option("N", "how many"),
    "--credit": Option("TEXT", "its author and licence"),
    "--draw": Option("N", "the number that fixes what is picked"),
    "--dry-run": Option(None, "show what would happen, and do nothing"),
    "--facet": Option("FACET", "in this facet"),
    "--find": Option("WORDS", "only those with these words"),
    "--form": Option(None, "prose or tags, for no model in particular"),
    "--formula": Option("NAME", "a formula, by name or by file"),
    "--import": Option("FILE", "a file that came back (for an answer, - reads standard input)"),
    "--json": Option(None, "print JSON (`syntagma help json` shows its shape)"),
    "--judge": Option("NAME", "the name of a judge; repeat it for more than one"),
    "--kept": Option("ID", "begin with a result of the library, by its number"),
    "--label": Option("NAME", "a label of your own"),
    "--look": Option("A,B", "looks to put around it, the innermost first"),
    "--media": Option(None, "image or video"),
    "--mine": Option(None, "pick from terms of your own, in the slots that have any"),
    "--model": Option("NAME", "the generator; A,B for several"),
    "--negative": Option("TEXT", "words to keep out, separated by commas"),
    "--note": Option("TEXT", "a note on it"),
    "--out": Option("FILE", "write to this file; its ending sets the format"),
    "--own": Option(None, "save to your own folder, for every workspace"),
    "--page": Option("FILE", "write a page (.html) that works without this program"),
    "--parameter": Option("NAME=VALUE", "a parameter of the generator: ratio=2:3; can be repeated"),
    "--pick": Option(None, "pick terms that suit each other for open slots"),
    "--port": Option("N", "the port on this machine (0: any that is free)"),
    "--ppi": Option("N", "pixels to an inch"),
    "--rating": Option("N", "a rating from 0 to 5; in a list, the lowest to show"),
    "--rows": Option("FILE", "a table of fills (.csv, .xlsx), one prompt per row; - reads CSV from standard input"),
    "--set": Option("PART=TEXT", "change one thing and nothing else: light=…, in a film 3/12A/light=…; can be repeated"),
    "--sheet": Option("NAME", "only results of this sheet"),
    "--stress": Option("SLOT=N", "weight on a slot or a phrase: light=1.3; can be repeated"),
    "--takes": Option("N", "how many results each prompt gets"),
    "--text": Option("PROMPT", "a finished prompt to begin with"),
    "--theme": Option("A,B", "lean picks towards one theme or several"),
    "--title": Option("TEXT", "its heading"),
    "--written-with": Option("NAME", "the formula that the prompt was written with"),
    "--yes": Option(None, "ask nothing"),
}


def shared(option: str, given: dict[str, Any]) -> dict[str, Any]:
    """The settings of an option as argparse takes them, with what it means everywhere; its default is said if it has one of its own."""
    if option not in SHARED:
        return given
    default = given.get("default")
    metavar, help_ = SHARED[option]
    said = f"{help_} (default: {default:g})" if isinstance(default, int | float) and not isinstance(default, bool) else help_
    return {**given, **({"metavar": metavar} if metavar and "choices" not in given else {}), "help": said}
