"""The options of a call that is set right: their names, then their values."""

import re
from argparse import Action
from collections.abc import Callable
from typing import Any

from syntagma.cli import registry
from syntagma.cli.commands import COMMANDS, module_of, parser_of
from syntagma.cli.known import KnownNames, like, number_in
from syntagma.cli.meant import words as say
from syntagma.cli.meant.calls import CorrectedCall, Lost, lost
from syntagma.core.diagnostics import nearest
from syntagma.core.vocabulary import facets

LISTS = {
    "model": "models",
    "look": "looks",
    "theme": "themes",
    "formula": "formulas",
    "facet": "facets",
    "sheet": "sheets",
    "written_with": "formulas",
}  # what an option names
SAMPLES = {
    "--draw": "2",
    "--count": "4",
    "--takes": "2",
    "--ideas": "4",
    "--budget": "10",
    "--rating": "4",
    "--to": "40w",
    "--out": "prompts.txt",
    "--swap": "red=blue",
    "--stress": "subject=1.2",
    "--parameter": "ratio=2:3",
}
PICTURES = (".png", ".jpg", ".jpeg", ".webp")


def options_mended(call: CorrectedCall, known: KnownNames) -> list[str]:
    """Set the options right; the words again where another command or verb has what was asked for,
    else nothing. Raises Lost.
    """
    for one in list(call.options):
        if one[0] not in call.known and (again := _name(call, one, known)):
            return again
    call.options = [one for one in call.options if one[0]]
    _joined(call, known)
    for one in call.options:
        _value(call, one, known)
    return []


def _name(call: CorrectedCall, one: list, known: KnownNames) -> list[str]:
    """The right name for an option that the command has not."""
    name, value = one
    command, verbs = call.head[0], getattr(module_of(call.head[0]), "VERBS", {})
    said = name.lower().replace("_", "-")
    for new in (
        said,
        registry.FORMER.get(name, ""),
        say.OPTIONS.get(said, ""),
        said.removesuffix("s"),
    ):
        if new in call.known:
            return _renamed(call, one, new)
    if command == "shorten" and said in say.LENGTHS and value:
        one[0], one[1] = (
            "--to",
            (value if value[-1:].isalpha() else value + (say.LENGTHS[said] or "w")),
        )
        return []
    plain = said.removeprefix("--")
    verb = plain if plain in verbs else say.VERBS.get(plain, "")
    if verb in verbs and verb not in say.DECIDING and len(call.head) == 1:
        call.options.remove(one)
        return [command, verb, *([value] if value else []), *call.words()[1:]]
    for other in say.SIBLINGS.get(command, ()) if len(call.head) == 1 else ():
        parser, _, _ = parser_of(other, [])
        has = {option for action in parser._actions for option in action.option_strings}
        if new := next((new for new in (said, say.OPTIONS.get(said, "")) if new in has), ""):
            one[0] = new
            return [other, *(word for word in call.words()[1:])] if other in COMMANDS else []
    if "--parameter" in call.known and plain in say.PARAMETERS and value:
        one[0], one[1] = "--parameter", f"{say.PARAMETERS[plain]}={value}"
        return []
    if value and (slot := _slot(call, plain, known)):
        if "fills" in call.dests:
            call.options.remove(one)
            call.places.append(f"{slot}={value}")
        else:
            one[0], one[1] = "--set", f"{slot}={value}"
        return []
    for other, its in verbs.items():  # another verb of the noun has it
        parser, _, _ = parser_of(command, [other])
        if (
            other not in say.DECIDING
            and its
            and any(said in action.option_strings for action in parser._actions)
        ):
            return [command, other, *call.words()[len(call.head) :]]
    if new := nearest(name, [option for option in call.known if option.startswith("--")]):
        return _renamed(call, one, new)
    raise Lost


def _renamed(call: CorrectedCall, one: list, new: str) -> list[str]:
    one[0] = new
    if not call.takes(new) and one[1] is not None:  # what follows it was no value
        call.places.append(one[1])
        one[1] = None
    return []


def _slot(call: CorrectedCall, word: str, known: KnownNames) -> str:
    """The slot, or the facet, that an option is named like; "" for none."""
    formula = next((place for place in call.places if place in known.formulas), "")
    if formula and (slot := known.slot(word, formula, near=False)):
        return slot
    facet = word if word in known.facets else facets.facet_of_label(word)
    return facet if facet in known.facets else ""


def _joined(call: CorrectedCall, known: KnownNames) -> None:
    """Values that were given in several words: --vary light --vary light, --swap red blue, --vary
    light medium.
    """
    varied: dict[str, list] = {}
    for one in list(call.options):
        name, value = one
        if name == "--vary" and value and "=" in value:
            slot, _, rest = value.partition("=")
            if slot in varied:
                before = varied[slot]
                mark = (
                    "; " if any(" " in part or "," in part for part in (before[1], rest)) else ","
                )
                before[1] += f"{mark}{rest}"
                call.options.remove(one)
            else:
                varied[slot] = one
        elif (
            name in ("--swap", "--set")
            and value
            and "=" not in value
            and call.places[1:]
            and "=" not in call.places[-1]
        ):
            one[1] = f"{value}={call.places.pop()}"
    if varied or any(name == "--vary" for name, _ in call.options):
        formula = call.places[0] if call.places else ""
        for place in call.places[1:]:
            if (
                re.fullmatch(r"[a-z][\w-]*(:\d+)?", place)
                and known.slot(place.partition(":")[0], formula, near=False)
                and not (
                    ":" not in place
                    and call.places[-1] != place
                    and "=" not in call.places[call.places.index(place) + 1]
                )
            ):
                call.places.remove(place)
                at = max(n for n, (name, _) in enumerate(call.options) if name == "--vary")
                call.options.insert(at + 1, ["--vary", place])


def _value(call: CorrectedCall, one: list, known: KnownNames) -> None:
    """The right value of an option. Raises Lost."""
    name, value = one
    if not call.takes(name):
        return
    action = call.known[name]
    if value is None:
        one[1] = _sample(name, action, known)
        return
    if action.dest == "detail":
        from syntagma.core.picking.situated import DETAILS

        one[1] = value if value in DETAILS else like(value, DETAILS) or "rich"
    elif action.choices:
        choices = [str(choice) for choice in action.choices]
        if value not in choices:
            one[1] = like(value, choices) or choices[-1]
    elif (
        action.dest in LISTS
        and not value.endswith((".toml", ".formula"))
        and "/" not in value
        and "[" not in value
    ):
        one[1] = _names(call, name, value, known.names(LISTS[action.dest]))
    elif name == "--vary":
        one[1] = _vary(call, value, known)
    elif name == "--to" and call.head == ["shorten"]:
        one[1] = _length(value)
    elif "FILE" in (action.metavar or "") and name != "--out":
        one[1] = known.file(value) or value
    elif "=" in (action.metavar or ""):
        one[1] = _pair(call, name, value, known)
    elif action.dest == "design" and value:
        from syntagma.core.designs import DESIGNS

        one[1] = value if value in DESIGNS else like(value, DESIGNS) or value
    elif callable(action.type):
        one[1] = number_for(action.type, value)


def _sample(name: str, action: Action, known: KnownNames) -> str:
    """A value for an option that came without one."""
    if action.dest in LISTS and (names := known.names(LISTS[action.dest])):
        return str(known.workspace.settings.get(action.dest) or names[0])
    return SAMPLES.get(name) or (str(next(iter(action.choices))) if action.choices else lost())


def _names(call: CorrectedCall, option: str, value: str, names: list[str]) -> str:
    """One name or several, each one that there is."""
    parts = [part.strip() for part in re.split(r"[,;]", value) if part.strip()]
    found = [part if part in names else like(part, names) or lost() for part in parts]
    if option == "--model" and call.head[0] in ("compose", "rewrite", "shorten", "read"):
        found = found[:1]
        call.places = [
            place for place in call.places if place not in names
        ]  # a second model is dropped
    return ",".join(found)


def number_for(reader: Callable[[str], Any], value: str) -> str:
    """A number that an argument's type takes, nearest to what was given. Raises Lost."""
    from syntagma.core.notation.ranges import RANGES

    try:
        reader(value)
        return value
    except ValueError:
        rule, said = RANGES.get(getattr(reader, "range", "")), number_in(value)
        number = abs(float(said)) if said else 4.0
        if rule is not None:
            number = min(max(number, rule.low), rule.high)
            number = int(number) if rule.whole else number
        return f"{number:g}"


def _length(value: str) -> str:
    """A length in words or characters: 5w, 20c."""
    match = re.fullmatch(
        r"\s*([\d.]+|[a-z]+?)\s*-?(w|c|words?|chars?|characters?|tokens?|letters?)?\s*",
        value.lower(),
    )
    number = number_in(match[1]) if match else ""
    return f"{number}{'c' if (match[2] or 'w')[0] in 'cl' else 'w'}" if match and number else lost()


def _vary(call: CorrectedCall, value: str, known: KnownNames) -> str:
    """An axis: its slot by the right name, a number of picks as such and no more than there are,
    values parted by semicolons where a comma may belong to one.
    """
    from syntagma.core.designs.axes import KINDS

    match = re.fullmatch(r"([^=:]+)(\s*[=:]\s*)?(.*)", value, re.S)
    if match is None:
        lost()
    slot, sign, rest = match[1].strip(), (match[2] or "").strip(), match[3].strip()
    formula = call.places[0] if call.places else ""
    kind, dot, name = slot.partition(".")
    if kind == "stress" and dot and formula in known.formulas:
        slot = f"stress.{known.slot(name, formula) or lost()}"
    if (
        "." not in slot
        and "+" not in slot
        and slot not in (*KINDS, "seed")
        and formula in known.formulas
    ):
        slot = known.slot(slot, formula) or lost()
    number = number_in(rest)
    if sign and number and (sign == ":" or slot in known.slots(formula)):
        return f"{slot}:{min(int(float(number)) or 1, _terms(slot, formula, known))}"
    if sign == ":":
        sign = "="
    if (
        sign
        and ", " in rest
        and ";" not in rest
        and not all(
            known.workspace.vocabulary[slot].get(part.strip())
            for part in rest.split(",")
            if slot in known.workspace.vocabulary
        )
    ):
        rest = "; ".join(part.strip() for part in rest.split(","))
    return f"{slot}{sign}{rest}"


def _terms(slot: str, formula: str, known: KnownNames) -> int:
    """How many terms there are for a slot."""
    rules = known.workspace.formula(formula)[0].slots if formula in known.formulas else ()
    facet = next((rule.facet for rule in rules if rule.name == slot), slot)
    return len(known.workspace.vocabulary[facet]) if facet in known.workspace.vocabulary else 10_000


def _pair(call: CorrectedCall, option: str, value: str, known: KnownNames) -> str:
    """NAME=VALUE, where another sign, the name or the value is wrong."""
    name, equals, said = value.partition("=")
    if not equals and ":" in value and not re.fullmatch(r"\d+:\d+", value):
        name, equals, said = value.partition(":")
    name, said = name.strip(), said.strip()
    formula = call.places[0] if call.places else ""
    if option == "--parameter":
        if not equals:
            name, said = (
                ("ratio", value)
                if re.fullmatch(r"\d+:\d+", value)
                else (say.PARAMETERS.get(name, name), "2:3" if name in ("ratio", "aspect") else "1")
            )
        return f"{say.PARAMETERS.get(name, name)}={said}"
    if option == "--reference" and not equals and value.lower().endswith(PICTURES):
        return f"style={value}"
    if option in ("--stress", "--set"):
        name = known.slot(name, formula) if formula in known.formulas else name
        if not name:
            raise Lost
        if option == "--stress":
            number = number_in(said)
            return f"{name}={number if number and 0 < float(number) <= 10 else '1.2'}"
        if not said:
            facet = name if name in known.facets else like(name, known.facets)
            said = next(iter(known.workspace.vocabulary[facet])).term if facet else lost()
        return f"{name}={said}"
    return f"{name}={said}" if name and said else lost()
