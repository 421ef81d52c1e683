"""The words of a call that stand by themselves, set right: names, fills, prompts, files,
numbers.
"""

import re
from pathlib import Path

from syntagma.cli.known import KnownNames, like
from syntagma.cli.meant import words as say
from syntagma.cli.meant.calls import CorrectedCall, Lost, lost
from syntagma.cli.meant.options import PICTURES, number_for

NAMED = {  # what the first word of a command names
    "formula": "formulas",
    "formula check": "formulas",
    "look": "looks",
    "theme": "themes",
    "model": "models",
    "model try": "models",
    "sheet": "sheets",
    "send": "sheets",
    "collect": "sheets",
    "judge": "sheets",
    "effects": "sheets",
    "bundle": "sheets",
    "campaign plan": "campaigns",
    "campaign make": "campaigns",
    "campaign approve": "campaigns",
    "campaign import": "campaigns",
    "campaign remove": "campaigns",
    "campaign restore": "campaigns",
    **{
        f"sheet {verb}": "sheets"
        for verb in "show import approve remove restore redraw choose settle log".split()
    },
}
PROMPTS = (".jsonl", ".json", ".txt", ".csv", ".xlsx", ".parquet")
LISTS = (".csv", ".xlsx", ".fountain", ".toml")
FILE = re.compile(r"[^\s=]+\.[A-Za-z]\w{0,9}")
SETTING = "rate"
_LEADING = frozenset(
    "of a an the in on at with and for by".split()
)  # what goes on so is not a fill, but a sentence


def places_mended(call: CorrectedCall, known: KnownNames) -> list[str]:
    """Set the words right; the words again where another command was meant, else nothing. Raises
    Lost.
    """
    command = " ".join(call.head)
    if command in ("compose", "expand", "model rank"):
        return _fills(call, known)
    if command in ("read", "rewrite", "shorten"):
        return _prompt(call, known)
    if command == "compare":
        return _two_prompts(call, known)
    if command == "check":
        return _checked(call, known)
    if command.startswith("film"):
        return _film(call, known)
    if command == "sheet new":
        return _new_sheet(call, known)
    if command.startswith("library"):
        return _library(call, known)
    if (
        command in ("term", "brief", "form", "dataset")
        and call.places
        and (again := _term(call, known))
    ):
        return again
    if command == "term new" and call.places and call.places[0] not in known.facets:
        call.places[0] = like(call.places[0], known.facets) or lost()
    if command in ("duplicates", "dataset check", "pack show", "pack import", "term import"):
        call.places = [
            place if Path(place).exists() else known.file(place) or lost() for place in call.places
        ]
    if command in NAMED and call.places:
        return _named(call, NAMED[command], known)
    return []


def _is_file(word: str, endings: tuple[str, ...] = PROMPTS) -> bool:
    return bool(FILE.fullmatch(word)) and word.lower().endswith(endings)


def _named(call: CorrectedCall, what: str, known: KnownNames) -> list[str]:
    """The first word is a name of a kind; a file of prompts becomes a sheet."""
    word, names = call.places[0], known.names(what)
    if word in names:
        files = [n for n, place in enumerate(call.places[1:], 1) if FILE.fullmatch(place)]
        for n in files:
            call.places[n] = known.file(call.places[n]) or call.places[n]
        return []
    stem = Path(word).stem
    if what == "sheets" and _is_file(word):
        if call.head[0] in ("judge", "effects", "collect", "bundle") and stem in names:
            call.places[0] = stem
            return []
        if call.head[-1] == "import" and stem in names:
            call.places.insert(0, stem)
            return []
        return ["sheet", "new", _free(stem, names), word]
    if word.endswith((".toml", ".formula")) and Path(word).is_file():
        return []
    call.places[0] = (
        (like(stem, names) if FILE.fullmatch(word) else "") or like(word, names) or word
    )
    return []


def _free(name: str, names: list[str]) -> str:
    """A name that nothing has."""
    n = 2
    found = name
    while found in names:
        found, n = f"{name}-{n}", n + 1
    return found


def _new_sheet(call: CorrectedCall, known: KnownNames) -> list[str]:
    files = [place for place in call.places if _is_file(place)]
    if not files:
        raise Lost
    name = next((place for place in call.places if place not in files), Path(files[0]).stem)
    call.places = [
        _free(name, known.sheets),
        *(known.file(file, PROMPTS) or lost() for file in files),
    ]
    return []


def _term(call: CorrectedCall, known: KnownNames) -> list[str]:
    if call.head == ["term"]:
        if call.places[0] not in known.facets:
            call.places[0] = (
                known.slot(call.places[0], "") or like(call.places[0], known.facets) or lost()
            )
        return []
    call.places = [
        place if place in known.formulas or "[" in place else like(place, known.formulas) or lost()
        for place in call.places
    ]
    return []


# Fills


def _fills(call: CorrectedCall, known: KnownNames) -> list[str]:
    """FORMULA SLOT=TEXT …"""
    places = call.places
    options = dict((name, value) for name, value in call.options)
    begun = any(
        name in options for name in ("--kept", "--text", "--base", "--family", "--plan", "--from")
    )
    first = places[0] if places else ""
    if "--from" in options:
        return _wished(call, known)
    if not places:
        return []
    if (
        first not in known.formulas
        and not begun
        and "[" not in first
        and not (Path(first).is_file() and not _is_file(first))
    ):
        if re.match(r"[\w-]+\s*[=:]", first):
            slots = [re.split(r"[=:]", place)[0].strip() for place in places]
            wanted = [
                name
                for name in ("poster", "photograph", *known.formulas)
                if all(known.slot(slot, name, near=False) for slot in slots if slot)
            ]
            places.insert(0, wanted[0] if wanted else lost())
        elif _is_file(first):
            return (
                ["read", known.file(first, PROMPTS) or lost()]
                if call.head == ["compose"]
                else lost()
            )
        elif " " in first or (
            len(places) > 1
            and not any("=" in place for place in places)
            and not (
                like(first, known.formulas) and known.slot(places[1], like(first, known.formulas))
            )
        ):
            return [
                "compose",
                "--from",
                " ".join(places),
                *call.words()[len(call.head) + len(places) :],
            ]
        else:
            places[0] = like(first, known.formulas) or lost()
    formula = places[0] if places[0] in known.formulas else ""
    if (
        call.head == ["compose"]
        and len(places) > 2
        and places[1].lower() in _LEADING
        and not any("=" in place for place in places)
    ):
        return [
            "compose",
            "--from",
            " ".join(places),
            *call.words()[len(call.head) + len(places) :],
        ]
    rest = places[1:] if formula else places
    if formula:
        call.places = [formula, *_parted(call, rest, formula, known)]
    return []


def _wished(call: CorrectedCall, known: KnownNames) -> list[str]:
    """A wish that is not one word of the shell: the rest is a call of its own."""
    one = next(one for one in call.options if one[0] == "--from")
    plain = [place for place in call.places if "=" not in place]
    if plain and one[1] and " " in one[1]:
        call.places = [
            place for place in call.places if place not in plain
        ]  # the wish is whole; what is not a formula goes
    elif plain and plain[0] not in known.formulas:
        one[1] = " ".join([one[1] or "", *plain]).strip()
        call.places = [place for place in call.places if place not in plain]
    return []


def _parted(call: CorrectedCall, words: list[str], formula: str, known: KnownNames) -> list[str]:
    """Fills of a formula out of words in which =, quotation marks or spaces are wrong."""
    fills: dict[str, str] = {}
    last = ""
    words = _single(words, formula, known)
    while words:
        word = words.pop(0)
        match = re.match(r"^([A-Za-z][\w -]*?)\s*(?:[=:]|->)+\s*(.*)$", word, re.S)
        name = match[1].strip() if match else ""
        if match and name in say.AS_OPTIONS and not known.slot(name, formula, near=False):
            call.options.append([f"--{name}", match[2]])
        elif match and name in say.PARAMETERS and not known.slot(name, formula, near=False):
            call.options.append(["--parameter", f"{say.PARAMETERS[name]}={match[2]}"])
        elif match and (slot := known.slot(name, formula)):
            text = match[2].strip()
            text = text.rstrip(",;").strip() if words else text
            if (
                call.head == ["expand"]
                and "," in text
                and ", " not in text
                and not any(v and v.startswith(f"{slot}=") for v in call.values("--vary"))
            ):
                call.options.append(["--vary", f"{slot}={text}"])
                continue
            fills[slot] = f"{fills[slot]}; {text}" if slot in fills else text
            last = slot
        elif match:
            raise Lost
        elif word.lower() in ("and", "with", "&", "->") and words:
            continue
        elif _is_file(word, (".csv", ".xlsx")):
            call.options.append(["--rows", known.file(word, (".csv", ".xlsx")) or lost()])
        elif last and " " not in word:
            fills[last] = f"{fills[last]} {word}".strip()
        elif not last and words and known.slot(word, formula, near=False):
            fills[known.slot(word, formula)], last = words.pop(0), known.slot(word, formula)
        elif not last and " " in word and call.head == ["compose"]:
            call.options.insert(0, ["--from", word])
        elif not fills and known.slot("subject", formula):
            fills["subject"], last = word, "subject"
        else:
            raise Lost
    return [f"{slot}={text}" for slot, text in fills.items() if text or lost()]


def _single(words: list[str], formula: str, known: KnownNames) -> list[str]:
    """The words with = or -> of their own put to their slot, and several fills in one word taken
    apart.
    """
    found: list[str] = []
    for word in words:
        if word in ("=", "->", ":", "==") and found:
            found[-1] += "="
        elif (word.startswith("=") and found and "=" not in found[-1]) or (
            found and found[-1].endswith("=") and "=" not in word
        ):
            found[-1] += word
        else:
            marks = [
                m
                for m in re.finditer(r"(?:^|(?<=[\s,;]))([A-Za-z][\w-]*)\s*[=:](?!\d)", word)
                if known.slot(m[1], formula, near=m.start() == 0)
            ]
            cuts = [m.start() for m in marks[1:]]
            found += [
                word[a:b].strip(" ,;") if cuts else word
                for a, b in zip([0, *cuts], [*cuts, len(word)], strict=True)
            ]
    return found


# Prompts and files


def _prompt(call: CorrectedCall, known: KnownNames) -> list[str]:
    """One PROMPT: text, a file or -."""
    places = call.places
    command = call.head[0]
    if (
        command == "shorten"
        and len(places) > 1
        and re.fullmatch(r"\d+(w|c|words?|chars?)?", places[-1])
        and not call.values("--to")
    ):
        call.options.append(
            [
                "--to",
                (
                    f"{places[-1].rstrip('abcdefghijklmnopqrstuvwxyz')}{'c' if 'c' in places[-1] else 'w'}"  # noqa: E501
                ),
            ]
        )
        places.pop()
    if command == "rewrite" and len(places) == 2:
        for option, names in (("--formula", known.formulas), ("--model", known.names("models"))):
            for at in (1, 0):
                if places[at] in names and " " in places[1 - at]:
                    call.options.append([option, places.pop(at)])
                    return []
        near = like(places[1], known.formulas)
        if " " in places[0] and near:
            call.options.append(["--formula", near])
            places.pop()
    if not places:
        raise Lost
    call.places = [" ".join(places)]
    if FILE.fullmatch(call.places[0]) and not Path(call.places[0]).is_file():
        call.places = [known.file(call.places[0], (*PROMPTS, *PICTURES)) or lost()]
    if command == "rewrite" and not {name for name, _ in call.options} & {
        "--formula",
        "--model",
        "--order",
        "--set",
        "--swap",
        "--look",
        "--theme",
        "--pick",
    }:
        call.options.append(["--formula", "poster"])
    return []


def _two_prompts(call: CorrectedCall, known: KnownNames) -> list[str]:
    """Two prompts: of words without quotation marks, parted where the second begins as the first
    did, else in the middle.
    """
    places = call.places
    if len(places) > 2:
        again = [n for n, word in enumerate(places) if n and word.lower() == places[0].lower()]
        at = (
            again[0]
            if again
            else next(
                (n for n, word in enumerate(places) if word.lower() in ("and", "with", "vs", "to")),
                len(places) // 2,
            )
        )
        first, second = places[:at], places[at:]
        call.places = [
            " ".join(first),
            " ".join(
                second if second[0].lower() not in ("and", "with", "vs", "to") else second[1:]
            ),
        ]
    elif len(places) == 1:
        call.places = [places[0], "a blue fox"]
    call.places = [
        known.file(place) or lost() if FILE.fullmatch(place) else place for place in call.places
    ]
    return []


def _checked(call: CorrectedCall, known: KnownNames) -> list[str]:
    """A file of prompts, or a formula; a prompt by itself is read."""
    if len(call.places) > 1 or (call.places and " " in call.places[0]):
        return ["read", " ".join(call.places)]
    if call.places and call.places[0] not in known.formulas:
        place = call.places[0]
        call.places = [
            (known.file(place, PROMPTS) if FILE.fullmatch(place) else "")
            or like(place, known.formulas)
            or lost()
        ]
    return []


def _film(call: CorrectedCall, known: KnownNames) -> list[str]:
    """A shot list or a script."""
    if call.head[-1] == "new" or not call.places:
        return []
    place = call.places[0]
    call.places = [known.file(place, LISTS) or (place if FILE.fullmatch(place) else lost())]
    return ["film", "prompts", *call.words()[1:]] if call.head == ["film"] else []


def _library(call: CorrectedCall, known: KnownNames) -> list[str]:
    """Numbers of results; a picture is added, a sheet narrows the list."""
    verb, places = " ".join(call.head[1:]), call.places
    if verb == SETTING:
        call.places = (
            [*places[:-1], number_for(_rating, places[-1])] if len(places) > 1 else [*places, "4"]
        )
        return []
    if verb == "add":
        call.places = [
            (
                place
                if place in known.sheets
                else known.file(place) or (like(place, known.sheets) or lost())
            )
            for place in places
        ]
        return []
    if verb in ("", "show") and places and not all(place.isdigit() for place in places):
        if _is_file(places[0], PICTURES):
            return [
                "library",
                "add",
                known.file(places[0], PICTURES) or lost(),
                *call.words()[len(call.head) + 1 :],
            ]
        near = places[0] if places[0] in known.sheets else like(places[0], known.sheets)
        return ["library", "--sheet", near] if near else ["library", "find", " ".join(places)]
    return []


def _rating(word: str) -> float:
    from syntagma.core.notation.ranges import OutOfRange, number

    try:
        return number("rating", word)
    except OutOfRange as wrong:
        raise ValueError(str(wrong)) from None


_rating.range = "rating"  # type: ignore[attr-defined]
