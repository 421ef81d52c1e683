"""The options that several commands share: each has one meaning, one help text, and if it is used
all day a short form.
"""

from typing import Any, NamedTuple

# ──── The options that several commands share: each has one meaning, one help text, and if it is
# used all day a short form.


class OptionSpec(NamedTuple):
    """What follows an option, and what it means."""

    metavar: str | None
    help: str


SHORT = {
    "--model": "-m",
    "--out": "-o",
    "--count": "-n",
    "--draw": "-d",
}  # besides -q and -v, which every command has

FORMER = {  # what options were called
    "--form": "--layout",
    "--dry": "--dry-run",
    "--explain": "--dry-run",
    "--draws": "--takes",
    "--mount": "--look",
    "--mark": "--rating",
    "--dpi": "--ppi",
    "--save": "--save-plan",
    "--like": "--copy-of",
    "--take": "--import",
    "--dropped": "--removed",
    "--fill": "--ask",
    "--again": "--retry",
    "--anyway": "--allow",
    "--licence": "--licence-file",
    "--note": "--message",
    "--for": "--purpose",
}

SHARED = {
    "--about": OptionSpec("TEXT", "a description of one line"),
    "--all": OptionSpec(None, "show all of them"),
    "--anyway": OptionSpec(None, "go ahead in spite of errors"),
    "--ask": OptionSpec(None, "ask for one slot after another, with suggestions"),
    "--at": OptionSpec(
        "URL", "the address of the local service (for models whose service is on this machine)"
    ),
    "--budget": OptionSpec("N", "the most that all of it may cost, in the model's currency"),
    "--column": OptionSpec(
        "NAME", "the column of a table, or the key of records, that holds the prompts"
    ),
    "--copy-of": OptionSpec("NAME", "begin with a copy of an existing one"),
    "--count": OptionSpec("N", "how many"),
    "--credit": OptionSpec("TEXT", "its author and licence"),
    "--draw": OptionSpec("N", "the number that fixes what is picked"),
    "--dry-run": OptionSpec(None, "show what would happen, and do nothing"),
    "--facet": OptionSpec("FACET", "in this facet"),
    "--find": OptionSpec("WORDS", "only those with these words"),
    "--form": OptionSpec(None, "prose or tags, for no model in particular"),
    "--formula": OptionSpec("NAME", "a formula, by name or by file"),
    "--import": OptionSpec("FILE", "a file that came back (for an answer, - reads standard input)"),
    "--json": OptionSpec(None, "print JSON (`syntagma help json` shows its shape)"),
    "--judge": OptionSpec("NAME", "the name of a judge; repeat it for more than one"),
    "--kept": OptionSpec("ID", "begin with a result of the library, by its number"),
    "--label": OptionSpec("NAME", "a label of your own"),
    "--look": OptionSpec("A,B", "looks to put around it, the innermost first"),
    "--media": OptionSpec(None, "image or video"),
    "--mine": OptionSpec(None, "pick from terms of your own, in the slots that have any"),
    "--model": OptionSpec("NAME", "the generator; A,B for several"),
    "--negative": OptionSpec("TEXT", "words to keep out, separated by commas"),
    "--note": OptionSpec("TEXT", "a note on it"),
    "--out": OptionSpec("FILE", "write to this file; its ending sets the format"),
    "--own": OptionSpec(None, "save to your own folder, for every workspace"),
    "--page": OptionSpec("FILE", "write a page (.html) that works without this program"),
    "--parameter": OptionSpec(
        "NAME=VALUE", "a parameter of the generator: ratio=2:3; can be repeated"
    ),
    "--pick": OptionSpec(None, "pick terms that suit each other for open slots"),
    "--port": OptionSpec("N", "the port on this machine (0: any that is free)"),
    "--ppi": OptionSpec("N", "pixels to an inch"),
    "--rating": OptionSpec("N", "a rating from 0 to 5; in a list, the lowest to show"),
    "--rows": OptionSpec(
        "FILE",
        "a table of fills (.csv, .xlsx), one prompt per row; - reads CSV from standard input",
    ),
    "--set": OptionSpec(
        "PART=TEXT",
        "change one thing and nothing else: light=…, in a film 3/12A/light=…; can be repeated",
    ),
    "--sheet": OptionSpec("NAME", "only results of this sheet"),
    "--stress": OptionSpec("SLOT=N", "weight on a slot or a phrase: light=1.3; can be repeated"),
    "--takes": OptionSpec("N", "how many results each prompt gets"),
    "--text": OptionSpec("PROMPT", "a finished prompt to begin with"),
    "--theme": OptionSpec("A,B", "lean picks towards one theme or several"),
    "--title": OptionSpec("TEXT", "its heading"),
    "--written-with": OptionSpec("NAME", "the formula that the prompt was written with"),
    "--yes": OptionSpec(None, "ask nothing"),
}


def shared(option: str, given: dict[str, Any]) -> dict[str, Any]:
    """The settings of an option as argparse takes them, with what it means everywhere; its default
    is said if it has one of its own.
    """
    if option not in SHARED:
        return given
    default = given.get("default")
    metavar, help_ = SHARED[option]
    said = (
        f"{help_} (default: {default:g})"
        if isinstance(default, int | float) and not isinstance(default, bool)
        else help_
    )
    return {
        **given,
        **({"metavar": metavar} if metavar and "choices" not in given else {}),
        "help": said,
    }
