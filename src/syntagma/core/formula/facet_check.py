"""A formula against the facets in force: unknown ones are mistakes, near misses and idle slots are remarks."""

import re
from collections.abc import Collection

from syntagma.core.diagnostics.findings import REMARK, Finding
from syntagma.core.diagnostics.places import Mistake, Span, mistake_at
from syntagma.core.diagnostics.suggestions import nearest, perhaps
from syntagma.core.formula.tree import Formula


def check_formula(formula: Formula, facets: Collection[str]) -> tuple[list[Mistake], list[Finding]]:
    """Mistakes for facets that the head names and nobody has; remarks for slots that look like a slip of the pen."""
    mistakes: list[Mistake] = []
    remarks: list[Finding] = []
    for rule in formula.slots:
        if not rule.facet or rule.number or rule.facet in facets:
            continue
        if rule.declared:
            pattern = rf"^\s*[\"']?{re.escape(rule.name)}[\"']?\s*=.*?\bfacet\s*=\s*[\"'](.*?)[\"']"
            spot = re.search(pattern, formula.head.raw, re.M)
            at = len(formula.start) + (spot.start(1) if spot else 0)
            remedy = perhaps(rule.facet, facets, '`syntagma facets` lists them; facet = "" makes it a free slot')
            span = Span(at, at + len(rule.facet))
            mistakes.append(mistake_at(formula.source, formula.text, span, f"there is no facet “{rule.facet}”", remedy))
        elif near := nearest(rule.name, facets):
            message = f"the slot “{rule.name}” has no facet of its name: it takes free text"
            remarks.append(Finding(REMARK, message, f"did you mean “{near}”?", rule.name, code="near-miss"))
    for facet in formula.head.settles:
        if facet not in facets:
            remedy = perhaps(facet, facets, "`syntagma facets` lists them")
            remarks.append(Finding(REMARK, f"there is no facet “{facet}” to settle", remedy, "settles", code="no-such-facet"))
    used = {rule.name for rule in formula.slots}
    for name in formula.head.slots:
        if name not in used:
            remedy = perhaps(name, used, f"write [{name}] in a phrase, or delete its line from the head")
            remarks.append(Finding(REMARK, f"no phrase has the slot “{name}”", remedy, name, code="idle-slot"))
    return mistakes, remarks
