"""A formula against the facets that apply: unknown ones are mistakes, near misses and idle slots are remarks."""

import re

from syntagma.core.diagnostics.findings import REMARK, Finding
from syntagma.core.diagnostics.places import Mistake, Span, mistake_at
from syntagma.core.diagnostics.suggestions import nearest, perhaps
from syntagma.core.diagnostics.ways import way
from syntagma.core.formula.tree import Formula
from syntagma.core.vocabulary.terms import Vocabulary
from syntagma.core.vocabulary.world import BadWorld


def check_formula(formula: Formula, vocabulary: Vocabulary) -> tuple[list[Mistake], list[Finding]]:
    """Mistakes for facets that the head names and nobody has, and for a world that can't be read; remarks for slots and conditions that
    look like a slip of the pen."""
    facets = vocabulary.names
    mistakes: list[Mistake] = []
    remarks: list[Finding] = []
    for rule in formula.slots:
        if not rule.facet or rule.number or rule.facet in facets:
            continue
        if rule.declared:
            pattern = rf"^\s*[\"']?{re.escape(rule.name)}[\"']?\s*=.*?\bfacet\s*=\s*[\"'](.*?)[\"']"
            spot = re.search(pattern, formula.head.raw, re.M)
            at = len(formula.start) + (spot.start(1) if spot else 0)
            remedy = perhaps(rule.facet, facets, f'{way("facets")}; facet = "" makes it a free slot')
            span = Span(at, at + len(rule.facet))
            mistakes.append(mistake_at(formula.source, formula.text, span, f"no facet is called “{rule.facet}”", remedy))
        elif near := nearest(rule.name, facets):
            message = f"no facet is called “{rule.name}”, so this slot takes free text"
            remarks.append(Finding(REMARK, message, f"did you mean “{near}”?", rule.name, code="near-miss"))
    for facet in formula.head.settles:
        if facet not in facets:
            remedy = perhaps(facet, facets, way("facets"))
            remarks.append(Finding(REMARK, f"no facet is called “{facet}”, so the look can't settle it", remedy, "settles", code="no-such-facet"))
    used = {rule.name for rule in formula.slots}
    for name in formula.head.slots:
        if name not in used:
            remedy = perhaps(name, used, f"write [{name}] in a phrase, or delete its line from the head")
            remarks.append(Finding(REMARK, f"no phrase has the slot “{name}”", remedy, name, code="idle-slot"))
    labels = {phrase.label for phrase in (*formula.phrases, *formula.negatives)}
    for label, condition in formula.head.only_if.items():
        if label not in labels:
            remarks.append(Finding(REMARK, f"no phrase is labelled “{label}”", perhaps(label, labels, "give the label of a phrase"), label, code="idle-slot"))
        elif condition.slot not in used:
            remedy = perhaps(condition.slot, used, "give a slot of the formula")
            remarks.append(Finding(REMARK, f"“{label}” depends on the slot “{condition.slot}”, but no phrase has it", remedy, label, code="idle-slot"))
    for world in (*(world for _, world in formula.head.worlds), *(rule.world for rule in formula.slots if rule.world)):
        try:
            vocabulary.dimensions.world(world)
        except BadWorld as bad:
            at = len(formula.start) + max(formula.head.raw.find(world), 0)
            mistakes.append(mistake_at(formula.source, formula.text, Span(at, at + 1), str(bad), bad.remedy))
    return mistakes, remarks


def unguarded_words(formula: Formula) -> list[Finding]:
    """Remarks on fixed words after the slots that no condition represents: picks may go against them."""
    if formula.head.worlds or formula.is_look:
        return []
    last = max((i for i, phrase in enumerate(formula.phrases) if phrase.slots), default=-1)
    fixed = [phrase for phrase in formula.phrases[last + 1 :] if len(formula.text[phrase.span.start : phrase.span.stop].split()) > 3]  # its label, and three words
    return [Finding(REMARK, "the head does not say what these words require, so a pick may contradict them", 'add a line such as world = "top: empty; finish: clean" to the head', phrase.label, code="closing-words") for phrase in fixed]
