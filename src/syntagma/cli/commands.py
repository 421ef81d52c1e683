"""The commands: what they are for, where their modules lie, what they were called; and the parser
of a call.
"""

from importlib import import_module

HEADINGS = {  # the commands by what they are for
    "write": "compose read rewrite shorten compare check",
    "words": "term situation formula look theme model",
    "many": "expand film sheet send collect service",
    "judge": "library duplicates judge effects",
    "share": "brief form bundle pack dataset campaign",
    "begin": "tour start",
}
ROOMS = {  # where the module of a command lies
    "workspace": "tour start term situation formula look theme",
    "composing": "compose",
    "families": "expand",
    "existing": "check read rewrite shorten compare",
    "models": "model",
    "handing_on": "brief form bundle pack dataset campaign",
    "film": "film",
    "batches": "sheet send collect service",
    "results": "library duplicates judge effects",
}
COMMANDS = {
    "compose": "write one prompt, or one for each row of a table",
    "read": "take a finished prompt apart, or read a picture",
    "rewrite": "put a prompt into another formula, model or order; or change words in it",
    "shorten": "make prompts shorter, or fit them into a model's limits",
    "compare": "compare two prompts part by part",
    "check": "check prompts, a formula, or the workspace",
    "term": "browse and search the words to pick from; add your own",
    "situation": "list and search what picks begin with; add your own",
    "formula": "list the formulas, show one, make or learn your own",
    "look": "list the looks that go around any content; make your own",
    "theme": "list the themes that picks lean towards; make your own",
    "model": "list the generators, rank them, describe your own",
    "expand": "write many prompts from one",
    "film": "turn a shot list or a script into prompts that cut together",
    "sheet": "look prompts over before you pay: edit, approve, remove",
    "send": "send approved rows to their services, within a budget",
    "collect": "check what was sent and download what is finished",
    "service": "choose which services models may use; run a local one for trials",
    "library": "keep results with the prompts that made them; find and rate them",
    "duplicates": "find near-duplicate prompts or pictures",
    "judge": "rate results one at a time, or choose between two",
    "effects": "see what each choice did, how sure that is, and what to try next",
    "brief": "teach an assistant to write in a formula, and take its answer",
    "form": "make a form for people without this program",
    "bundle": "name, resize and zip chosen results",
    "pack": "share formulas, words, looks and models; take someone else's",
    "dataset": "make pairs of instruction and prompt; check such a file",
    "campaign": "plan and make the pictures of a whole business",
    "tour": "see the whole job on demo data",
    "start": "start a workspace of your own",
}
OLD = {  # what commands were called
    "facets": "term",
    "terms": "term",
    "formulas": "formula",
    "learn": "formula learn",
    "mounts": "look",
    "mount": "look",
    "themes": "theme",
    "models": "model",
    "fill": "compose --ask",
    "recast": "rewrite",
    "condense": "shorten",
    "fit": "shorten",
    "near": "duplicates",
    "see": "read",
    "board": "film prompts",
    "keep": "library add",
    "kept": "library",
    "gallery": "library page",
    "term add": "term new",
    "service bind": "service add",
    "service unbind": "service remove",
    "service list": "service",
    "sheet take": "sheet import",
    "sheet strike": "sheet remove",
    "sheet open": "sheet restore",
    "sheet list": "sheet",
    "kept mark": "library rate",
    "kept drop": "library remove",
    "kept restore": "library restore",
    "kept label": "library label",
    "kept unlabel": "library unlabel",
    "kept note": "library note",
    "kept money": "library money",
    "kept backup": "library backup",
    "board new": "film new",
    "board check": "film check",
    "pack take": "pack import",
}


def module_of(name: str):
    """The module of a command, imported."""
    room = next(room for room, names in ROOMS.items() if name in names.split())
    return import_module(f"syntagma.cli.{room}.{name}")


def parser_of(name: str, argv: list[str]):
    """The parser of a call, what runs it, and the words that are left: of a verb of the command if
    one is named, else of the command by itself.
    """
    from syntagma.cli.args import Parser

    command = module_of(name)
    verbs = getattr(command, "VERBS", {})
    if argv and argv[0] in verbs:
        verb = verbs[argv[0]]
        parser, run, argv = (
            Parser(f"{name} {argv[0]}", verb.about, words=argv[1:], beside=verbs),
            verb.run,
            argv[1:],
        )
        verb.arguments(parser)
    else:
        parser, run = Parser(name, COMMANDS[name], verbs, argv), command.run
        command.arguments(parser)
    return parser, run, argv


def printed_by() -> dict[str, tuple[str, ...]]:
    """Each command or verb that has --json, with the shapes of what it may print."""
    calls = [
        [name, *verb]
        for name in COMMANDS
        for verb in ([], *([verb] for verb in getattr(module_of(name), "VERBS", {})))
    ]
    return {
        " ".join(call): shapes
        for call in calls
        if (shapes := parser_of(call[0], call[1:])[0].shapes)
    }
