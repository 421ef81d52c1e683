"""A prompt that exists, rewritten: into another formula, model, order or form; or some of its words
changed.
"""

import re
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.app.asked import Ask
from syntagma.app.composing.beside import SaidSetting, beside, not_whole, own_settings
from syntagma.app.composing.composer import Composed, Composer
from syntagma.app.composing.wished import compose_wish
from syntagma.app.reading import in_few_parts, manageable, reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.diagnostics import WARNING, Finding, Trouble, perhaps
from syntagma.core.editing.placing import KINDS
from syntagma.core.editing.settings import bare
from syntagma.core.models.profile import Profile
from syntagma.core.reading.formula_matching import Matcher
from syntagma.core.reading.formula_rewriting import (
    FAMILIES,
    LEADS,
    own_formula,
    swap_words,
)
from syntagma.core.reading.outer_form import PROSE, TAGS, TIMED, lengths
from syntagma.core.reading.prompt_pieces import NEGATIVE, PARAMETER, PART, REFERENCE, Reading
from syntagma.core.reading.reader import Reader
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer


class RewriteRequest(NamedTuple):
    """What a prompt is to become. `given`: parts changed, by slot or facet; `swaps`: words put in
    place of others.
    """

    formula: str = ""
    order: Sequence[str] = ()
    given: Mapping[str, str] = {}
    swaps: Sequence[str] = ()
    source: str = ""  # the formula that it was written with


class RewrittenPrompt(NamedTuple):
    """A prompt, rewritten. `made` is None if only words of the text were changed."""

    reading: Reading
    text: str
    made: Composed | None = None


def rewrite(
    workspace: Workspace, text: str, ask: Ask, wanted: RewriteRequest, reader: Reader | None = None
) -> RewrittenPrompt:
    """Put a prompt into another form. Raises Trouble, Refused, BadFills or TooLong."""
    for swap in wanted.swaps:
        text = swapped(text, swap)
    reader = reader or reader_of(workspace)
    manageable(text, "to be put into another form")
    reading = reader.read(text)
    in_few_parts(reading, "to be put into another form")
    if not reading.parts():
        raise Trouble(
            f"“{text.strip()[:40]}” has no words that Syntagma recognises, so there is nothing to"
            " rewrite",
            "say what is in the picture: “a ferry at night”",
            1,
        )
    if not (wanted.formula or wanted.order or ask.model or ask.looks or ask.pick):
        return RewrittenPrompt(reading, _parts_set(reading, wanted.given))
    if wanted.formula:
        return _into_formula(workspace, text, reading, ask, wanted)
    for name in wanted.order:
        if name not in FAMILIES and name not in workspace.vocabulary.names:
            raise Trouble(
                f"“{name}” is not a facet",
                perhaps(
                    name,
                    [*FAMILIES, *workspace.vocabulary.names],
                    f"families are {', '.join(FAMILIES)}",
                ),
                2,
            )
    if not (wanted.given or ask.pick) and _keeps_its_words(
        workspace.model(ask.model), text, reading, reader, bool(wanted.order)
    ):
        first = [facet for name in wanted.order for facet in FAMILIES.get(name, (name,))]
        made = compose_wish(
            workspace,
            "".join(piece.text for piece in reading.pieces if piece.kind != REFERENCE),
            ask,
            first,
        )
        made.findings.extend(_no_reference(piece.text) for piece in reading.of(REFERENCE))
        return RewrittenPrompt(reading, made.prompt.text, made)
    manner, values, remarks = _outside(workspace, reading, ask)
    formula, fills = own_formula(
        reading,
        wanted.order,
        workspace.model(ask.model).register == "timed",
        reader.knowledge.preposition,
    )
    for name in wanted.given:
        if name not in fills:
            raise Trouble(
                f"the text has no part for {name}",
                perhaps(name, fills, f"it has {', '.join(fills)}"),
                2,
            )
    given = {**fills, **wanted.given}
    head = formula.head._replace(
        parameters={**formula.head.parameters, **values}
    )  # what the model has not gives way to the nearest
    made = Composer(
        workspace,
        ask._replace(formula=formula.name, manner=manner),
        formula=formula._replace(head=head),
    ).compose(given)
    made.findings.extend(remarks)
    made.findings.extend(
        beside(made.writer.profile, made.prompt, _said(reading), _denied(reading), made.findings)
    )
    if reading.broken:
        made.findings.append(not_whole(reading.broken))
    return RewrittenPrompt(reading, made.prompt.text, made)


def _keeps_its_words(
    profile: Profile, text: str, reading: Reading, reader: Reader, ordered: bool
) -> bool:
    """Can a prompt stay in its own words for a model, rather than become a formula of its parts?
    Where it is put in order: prose in which nobody speaks; else if it has no weights, and nothing
    is said that the model can't make heard.
    """
    if not {reading.form, profile.register} <= {PROSE, TAGS}:
        return False
    speaks = any(piece.facet == "speech" for piece in reading.parts())
    if ordered:
        return reading.form == PROSE and not speaks
    parts = reader.read(
        bare(text).text
    ).parts()  # weights of other hands go along; those of a model of ours are read by its profile
    return all(piece.stress == 1 for piece in parts) and not (profile.silent and speaks)


def _no_reference(words: str) -> Finding:
    return Finding(
        WARNING,
        f"the reference {words} is left out",
        "add it: --reference style=…",
        "references",
        code="reference-left-out",
    )


def _into_formula(
    workspace: Workspace, text: str, reading: Reading, ask: Ask, wanted: RewriteRequest
) -> RewrittenPrompt:
    """A prompt put into a formula: by the formula that wrote it, if that is named, else by its own
    words.
    """
    manner, _, remarks = _outside(workspace, reading, ask)
    composer = Composer(workspace, ask._replace(manner=manner))
    made = (
        composer.compose(
            {**_by_formula(workspace, reading, composer, wanted.source), **wanted.given}
        )
        if wanted.source
        else composer.compose(wanted.given, text)
    )
    made.findings.extend(remarks)
    return RewrittenPrompt(reading, made.prompt.text, made)


def _by_formula(
    workspace: Workspace, reading: Reading, composer: Composer, source: str
) -> dict[str, str]:
    """The fills of the formula that wrote a text, by the slots and facets of another. Raises
    Trouble if it did not write it.
    """
    known, _ = workspace.formula(source)
    match = Matcher(Writer(known, workspace.model(None), workspace.vocabulary)).match(reading.text)
    if match is None or match.score < 0:  # below 0 its words are explained by chance only
        raise Trouble(
            f"the text was not written with {source}",
            "leave --from out, and Syntagma reads the parts by themselves",
            2,
        )
    facets = {rule.name: rule.facet for rule in known.slots}
    rules, found = composer.writer.rules, {}
    for slot, text in match.fills.items():
        to = next(
            (
                rule.name
                for rule in rules
                if rule.name not in found and rule.facet == facets[slot] and rule.facet
            ),
            None,
        )
        own = (
            slot
            if any(rule.name == slot for rule in rules)
            else (
                "kind"
                if facets[slot] in KINDS and any(rule.name == "kind" for rule in rules)
                else facets[slot]
            )
        )
        if to or own not in ("", *KINDS):
            found.setdefault(to or own, text)
    return found


def _denied(reading: Reading) -> list[str]:
    """What a prompt keeps out."""
    return [piece.text.strip(" .") for piece in reading.of(NEGATIVE)]


def _outside(
    workspace: Workspace, reading: Reading, ask: Ask
) -> tuple[Manner, dict[str, Any], list[Finding]]:
    """The manner with the times of the prompt's segments; the prompt's parameters, where the model
    has them; what it has not is reported.
    """
    profile = workspace.model(ask.model)
    values, remarks = own_settings(profile, _said(reading))
    seconds = lengths(reading.text) if reading.form == TIMED else []
    if (
        seconds
        and profile.register == "timed"
        and "seconds" in profile.parameter
        and "seconds" not in values
    ):
        values["seconds"] = round(sum(seconds), 2)
    if reading.form == TIMED and profile.register != "timed":
        times = ", ".join(
            re.sub(r"[\s|]+$", "", p.text.strip(" \n,.;"))
            for p in reading.of("glue")
            if re.search(r"\d", p.text)
        )
        remarks.append(
            Finding(
                WARNING,
                f"the times {times} are left out",
                "name a --model that reads segments with times",
                "times",
                code="times-left-out",
            )
        )
    for piece in reading.of(REFERENCE):
        remarks.append(_no_reference(piece.text))
    return ask.manner._replace(lengths=seconds), values, remarks


def _said(reading: Reading) -> list[SaidSetting]:
    """The settings that a prompt says."""
    return [
        SaidSetting(piece.name, piece.value, piece.text.strip()) for piece in reading.of(PARAMETER)
    ]


def _parts_set(reading: Reading, given: Mapping[str, str]) -> str:
    """The text with some parts in other words, everything else as it is. Raises Trouble if it has
    no such part.
    """
    new: dict[int, str] = {}
    for facet, words in given.items():
        at = next(
            (i for i, p in enumerate(reading.pieces) if p.kind == PART and p.facet == facet), None
        )
        if at is None:
            there = list(dict.fromkeys(p.facet for p in reading.parts()))
            raise Trouble(
                f"the text has no part for {facet}",
                perhaps(facet, there, f"it has {', '.join(there)}"),
                2,
            )
        new[at] = _led(reading.pieces[at].text, words)
    return "".join(new.get(i, piece.text) for i, piece in enumerate(reading.pieces))


def _led(old: str, new: str) -> str:
    """New words as the old ones stood: behind the same lead and article, with their capital."""
    lead = LEADS.match(old)
    before = lead.group() if lead and not LEADS.match(new) else ""
    rest = old[len(before) :]
    if (
        not before
        and english.starts_with_preposition(old)
        and not english.starts_with_preposition(new)
    ):
        before = english.split_place(old)[0] + " "
        rest = old[len(before) :]
    determiner, _ = english.split_determiner(rest)
    if (
        determiner.lower() in ("a", "an")
        and not english.split_determiner(new)[0]
        and english.countability(new) == "one"
    ):
        article = english.article(new)
        new = f"{article} {new}"
    new = before + new
    return new[:1].upper() + new[1:] if old[:1].isupper() and not before else new


def swapped(text: str, swap: str) -> str:
    """The text with other words in place of some, articles and number round them fixed. `swap` is
    old=new. Raises Trouble.
    """
    old, equals, new = swap.partition("=")
    if not equals or not old.strip() or not new.strip():
        raise Trouble(
            f"“{swap}” is not a complete swap", 'write --swap "signal lamp=tide board"', 2
        )
    found = swap_words(text, old.strip(), new.strip())
    if found is None:
        raise Trouble(
            f"“{old.strip()}” is not in the text",
            "before the =, write words exactly as they are in the text",
            2,
        )
    return found
