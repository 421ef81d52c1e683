"""What a text of somebody's own says to a formula: its words placed, its settings, what it keeps
out; and what has no slot made a guest.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence, Set
from typing import NamedTuple

from syntagma.app.composing.beside import SaidSetting, cleaned_off, not_whole
from syntagma.app.reading import LONGEST_WISH, cleaner, manageable, reader_of, tables
from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.diagnostics import Finding
from syntagma.core.editing.placing import (
    Placed,
    TextStretch,
    home_of,
    not_alone,
    placed,
    with_guests,
)
from syntagma.core.formula.building import fixed, group, nodes, phrase
from syntagma.core.formula.tree import Formula, Phrase, SlotRule
from syntagma.core.reading.formula_rewriting import lowered
from syntagma.core.reading.outer_form import PROSE, TAGS, outside
from syntagma.core.reading.prompt_pieces import NEGATIVE, PARAMETER
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.facets import PLAIN, Traits
from syntagma.core.vocabulary.terms import Vocabulary

NO_NOUNS = frozenset(
    "effect sound".split()
)  # homes of facets whose words are no nouns of a picture: moves, cuts, music
PLACES = facets.FacetGroup(
    "said-with-preposition"
)  # facets that a sentence says with a preposition


class Heard(NamedTuple):
    """What a text gave: placed, the settings that it says, the findings on it, weights by the words
    that have them.
    """

    placed: Placed
    settings: Sequence[SaidSetting]
    findings: Sequence[Finding]
    weights: Mapping[str, float]


def hear(
    workspace: Workspace,
    formula: Formula,
    wish: str,
    taken: Collection[str] = (),
    model: str | None = None,
    told: bool = False,
) -> Heard:
    """Hear a text for a formula; slots in `taken` are given already; `told`: it is a sentence of a
    story. Raises Trouble.
    """
    manageable(wish, "for one wish", LONGEST_WISH)
    reader = reader_of(workspace, model)
    if outside(wish, reader.profiles).form in (PROSE, TAGS):
        cleaned = cleaner().clean(wish, reader.profiles)
        reading, negative, weights = reader.read(cleaned.text), cleaned.negative, cleaned.weights
        settings = [SaidSetting(name, value) for name, value in cleaned.parameters.items()]
        remarks = cleaned_off(cleaned)
    else:
        reading = reader.read(wish)
        negative, weights = (
            tuple(piece.text.strip(" .") for piece in reading.of(NEGATIVE)),
            {piece.words: piece.stress for piece in reading.parts() if piece.stress != 1},
        )
        settings = [
            SaidSetting(piece.name, piece.value, piece.text.strip())
            for piece in reading.of(PARAMETER)
        ]
        remarks = [not_whole(reading.broken)] if reading.broken else []
    return Heard(
        placed(
            reading, formula, workspace.vocabulary, tables(), taken, negative, weights, told
        )._replace(typed=wish),
        settings,
        remarks,
        weights,
    )


def hosting(
    workspace: Workspace,
    formula: Formula,
    given: Mapping[str, str],
    guests: Sequence[TextStretch],
    negative: Sequence[str],
    weights: Mapping[str, float],
    filled: Set[str] | None = None,
) -> Formula:
    """The formula with its guests, where `filled` says which of its slots are (None: they are
    picked later): what was `given` for facets that it has no slot for at their homes, as slots of
    their own; stretches of a text, word for word, before its closing words.
    """
    rules, more = dict(formula.head.slots), []
    for facet, words in given.items():
        at = home_of(formula, facet, workspace.vocabulary.traits)
        more.append(
            (
                at if filled is None else not_alone(formula, at, filled),
                phrase(facet, nodes(_led(facet, words, workspace.vocabulary))),
            )
        )
        rules[facet] = SlotRule(facet, facet, declared=True)
    traits, stress = workspace.vocabulary.traits, dict(formula.head.stress)
    end, beside = home_of(formula, "", {}), home_of(formula, "action", traits)
    for number, one in enumerate(guests, 1):
        label, at = f"words-{number}", beside if one.beside else end
        if one.sentence:
            more.append((at, phrase(f"{label}-stop", nodes(f"[{label}-none]."))))
            rules[f"{label}-none"] = SlotRule(f"{label}-none", "", declared=True)
        more.append((at, _verbatim(label, one)))
        if said := next((piece for piece in one.parts if piece.facet == "speech"), None):
            rules[f"{label}-said"] = SlotRule(
                f"{label}-said", "", declared=True, default=(said.text,)
            )
        if weight := weights.get(one.text):
            stress[label] = weight
    made = with_guests(formula, more)
    lines = (*made.lines, phrase("-", [fixed(", ".join(negative))])) if negative else made.lines
    return made._replace(lines=lines, head=made.head._replace(slots=rules, stress=stress))


def _verbatim(label: str, one: TextStretch) -> Phrase:
    """A phrase of somebody's own words, which wait for no other; what is said in it stays in its
    quotation marks, stop and all.
    """
    stop = "." if one.sentence and not english.has_stop(one.text) else ""
    said = next((piece for piece in one.parts if piece.facet == "speech"), None)
    if said:
        at = said.start - one.start
        return phrase(
            label,
            [
                fixed(one.text[:at]),
                group(f"{label}-said"),
                fixed(one.text[at + len(said.text) :] + stop),
            ],
        )
    made = phrase(
        label, [fixed((one.text if one.start or one.sentence else lowered(one.text)) + stop)]
    )
    return made if one.sentence else made._replace(ending=",")


def _led(facet: str, words: str, vocabulary: Vocabulary) -> str:
    """How a guest that was typed is written in a sentence, in the notation of formulas: led to by
    its noun, else as its facet is; a thing has its article, and is there with the rest.
    """
    term = vocabulary[facet].get(words) if facet in vocabulary else None
    if facet in PLACES or (term and term.place and not vocabulary.participant(facet)):
        return f"[{facet} as place]"
    if facet == "speech":
        return f'"[{facet}]"'
    if term and term.clause:
        return f"[{facet} as clause]"
    if english.starts_with_preposition(words):
        return f"[{facet}]"
    traits = vocabulary.traits.get(facet, PLAIN)
    if traits.home not in NO_NOUNS and (join := tables().joins.of(words, facet)):
        return join.say.format(facet)
    if traits.said:
        return _unrepeated(traits, words).format(facet)
    return f"with [a {facet}]" if vocabulary.participant(facet) else f"[{facet}]"


def _unrepeated(traits: Traits, words: str) -> str:
    """How a facet's guest is led to, without the noun after it ("mood") where the words have it, or
    another that says as much.
    """
    noun = re.search(r' "([^"]+)"', traits.said)
    return traits.said.replace(noun[0], "") if noun and traits.says(words, noun[1]) else traits.said
