"""What stands on the shelves, described: formulas and models as cards for a person or a program."""

import shlex

from syntagma.app.world import World
from syntagma.core.fills import BadFills
from syntagma.core.fitting import TooLong
from syntagma.core.formula import Formula, SlotRule, is_oneline
from syntagma.core.models import PLAIN, Limit
from syntagma.core.places import Refused
from syntagma.core.writer import Writer


def formula_rows(world: World) -> list[dict[str, object]]:
    """Every formula that can be read, a row each; one that can't says so."""
    rows = []
    for name in world.formulas():
        try:
            formula, _ = world.formula(name)
        except Refused as refused:
            what = f"can't be read: {len(refused.mistakes)} mistakes; `syntagma check` shows them"
            rows.append({"formula": name, "about": what, "slots": []})
            continue
        row = {"formula": name, "about": formula.head.about, "media": formula.head.media}
        rows.append({k: v for k, v in row.items() if v} | {"slots": [rule.name for rule in formula.slots]})
    return rows


def formula_card(world: World, name: str) -> dict[str, object]:
    """One formula in full: phrases, slots, an example. Raises Trouble or Refused."""
    formula, _ = world.formula(name)
    text = formula.text
    phrases = [
        {
            "label": "negative" if p.negative else p.label,
            "mark": {"!": "stays", "?": "first to go"}.get(p.mark, ""),
            "words": text[p.span.start : p.span.stop].removeprefix(p.label_raw).strip(),
        }
        for p in (*formula.phrases, *formula.negatives)
    ]
    card: dict[str, object] = {"formula": formula.name}
    for key in ("about", "when", "media"):
        if value := getattr(formula.head, key):
            card[key] = value
    card["phrases"] = phrases
    card["slots"] = [_slot(world, rule) for rule in formula.slots]
    if formula.head.parameters:
        card["parameters"] = dict(formula.head.parameters)
    if formula.head.example and not is_oneline(name):
        card["example"] = _example(world, formula, name)
    return card


def _slot(world: World, rule: SlotRule) -> dict[str, str]:
    takes = rule.facet if rule.facet in world.vocabulary else "a number" if rule.number else "free text"
    notes = [rule.about] if rule.about else []
    if rule.need:
        notes.append("needed")
    if rule.default:
        notes.append(f"“{'; '.join(rule.default)}” when not given")
    if rule.only:
        notes.append(f"picks keep to {' or '.join(rule.only)}")
    if rule.take != (1, 1):
        notes.append(f"{rule.take[0]} to {rule.take[1]} of them")
    return {"slot": rule.name, "facet": takes, "note": ", ".join(notes)}


def _example(world: World, formula: Formula, name: str) -> dict[str, str]:
    writer = Writer(formula, PLAIN, world.vocabulary)
    fills = formula.head.example
    words = [f"{slot}={shlex.quote('; '.join(v) if isinstance(v, tuple) else v)}" for slot, v in fills.items()]
    call = " ".join(["syntagma compose", shlex.quote(name), *words])
    try:
        return {"text": writer.write(writer.fills(fills)).text, "call": call}
    except (BadFills, TooLong) as bad:
        return {"text": f"(the example can't be written: {bad})", "call": call}


def model_card(world: World, name: str) -> dict[str, object]:
    """One model's habits in words. Raises Trouble or Refused."""
    profile = world.model(name)
    negative = {"field": "own field", "none": "not taken"}[profile.negative]
    makes = {"": "images and films", "image": "images", "video": "films"}[profile.media]
    takes = {"prose": "prose", "tags": "tags"}[profile.register]
    habits = {"makes": makes, "text": f"{takes}, {_limit(profile.text_limit)}"}
    if profile.register == "tags":
        habits["separator"] = f"“{profile.separator or ', '}”"
    else:
        habits["final stop"] = {True: "always", False: "never", None: "as the formula has it"}[profile.final_stop]
    of_negative = f", {_limit(profile.negative_limit)}" if profile.negative != "none" else ""
    habits["negative text"] = negative + of_negative
    if profile.text_limit and profile.text_limit.unit == "tokens":
        habits["tokens"] = f"estimated: one for each {profile.text_limit.letters} letters of a word begun, one for each sign"
    card = {
        "model": profile.name, "about": profile.about, "makes": makes, "register": takes,
        "text": _limit(profile.text_limit), "negative": negative + of_negative, "habits": habits,
    }  # fmt: skip
    return {k: v for k, v in card.items() if v}


def _limit(limit: Limit | None) -> str:
    return f"at most {limit.most} {limit.unit}" if limit else "no limit"
