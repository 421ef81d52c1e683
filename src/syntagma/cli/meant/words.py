"""What people call things that have another name here: commands, verbs, options, parameters."""

WISH = frozenset("write prompt generate make create new draw describe picture image video".split())  # before a wish, these say what the program does anyway
COMMANDS = {
    "search": "term find", "find": "term find", "facets": "term", "templates": "formula", "template": "formula", "styles": "look", "style": "look", "generators": "model", "vary": "expand", "variations": "expand",
    "batch": "expand", "many": "expand", "shoot": "film", "script": "film", "approve": "sheet approve", "pay": "send", "run": "send", "submit": "send", "download": "collect", "fetch": "collect", "results": "library",
    "rate": "library rate", "dedupe": "duplicates", "rank": "model rank", "diff": "compare", "parse": "read", "explain": "read", "analyse": "read", "analyze": "read", "lint": "check", "validate": "check", "trim": "shorten",
    "cut": "shorten", "convert": "rewrite", "translate": "rewrite", "edit": "rewrite", "init": "start", "demo": "tour", "zip": "bundle", "share": "pack", "plan": "campaign plan", "price": "model rank", "export": "bundle",
}  # fmt: skip
VERBS = {  # by what they are near in sense; "" is the noun alone
    "list": "", "ls": "", "show": "", "all": "", "search": "find", "look": "find", "add": "new", "create": "new", "make": "new", "begin": "new", "start": "new", "delete": "remove", "rm": "remove", "drop": "remove", "strike": "remove",
    "undo": "restore", "open": "restore", "take": "import", "load": "import", "test": "try", "probe": "try", "verify": "check", "lint": "check", "ok": "approve", "accept": "approve", "mark": "rate", "tag": "label", "log": "log",
    "history": "log", "run": "prompts", "write": "prompts", "expand": "prompts", "cost": "money", "spent": "money", "favourite": "star", "favorite": "star", "keep": "add", "view": "show", "get": "show", "retry": "redraw",
}  # fmt: skip
OPTIONS = {
    "--output": "--out", "--save": "--out", "--save-as": "--out", "--file": "--out", "--to-file": "--out", "--out-file": "--out", "--outfile": "--out", "--export": "--out", "--number": "--count", "--num": "--count", "--amount": "--count", "--how-many": "--count", "--n": "--count", "--variations": "--count",
    "--style": "--look", "--mount": "--look", "--replace": "--swap", "--change": "--swap", "--into": "--formula", "--template": "--formula", "--generator": "--model", "--engine": "--model", "--for": "--model", "--target": "--model",
    "--random": "--pick", "--auto": "--pick", "--interactive": "--ask", "--wizard": "--ask", "--csv": "--rows", "--table": "--rows", "--wish": "--from", "--idea": "--ideas", "--weight": "--stress", "--weights": "--stress",
    "--param": "--parameter", "--params": "--parameter", "--preview": "--dry-run", "--simulate": "--dry-run", "--test": "--dry-run", "--force": "--yes", "--results": "--takes", "--repeat": "--takes", "--images": "--takes",
    "--without-slot": "--without", "--max-cost": "--budget", "--budget": "--at-most", "--max-price": "--at-most", "--silent": "--quiet", "--debug": "--verbose", "--mood-board": "--page", "--html": "--page", "--where-is": "--where", "--filter": "--where",
}  # fmt: skip
LENGTHS = {  # of shorten: the unit that the option says
    "--words": "w", "--word": "w", "--max-words": "w", "--characters": "c", "--chars": "c", "--letters": "c", "--max-chars": "c", "--max": "", "--length": "", "--limit": "", "--size": "", "--maximum": "", "--under": "",
}  # fmt: skip
PARAMETERS = {  # what generators call so, and no slot is called
    "ratio": "ratio", "seed": "seed", "seconds": "seconds", "size": "size", "rate": "rate", "sound": "sound", "aspect": "ratio", "aspect-ratio": "ratio", "shape": "ratio", "format": "ratio", "duration": "seconds", "length": "seconds",
    "fps": "rate", "frames": "rate", "steps": "steps", "quality": "quality", "resolution": "size", "width": "width", "height": "height",
}  # fmt: skip
AS_OPTIONS = frozenset("model theme look draw detail stress out count takes".split())  # written as slot=text, these are options
SIBLINGS = {"compose": ("expand",), "expand": ("compose",), "check": ("read", "shorten"), "read": ("rewrite", "check"), "sheet": ("send",), "library": ("bundle",)}  # another command for what a command does not do
DECIDING = frozenset("approve remove choose settle redraw".split())  # verbs that are put into nobody's mouth
