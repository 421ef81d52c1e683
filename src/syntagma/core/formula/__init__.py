"""The formula language: text to tree, tree to text, mistakes with their places.
docs/reference/formulas.md is the definition.
"""

from syntagma.core.formula.building import write_formula
from syntagma.core.formula.looks import with_look, yielding
from syntagma.core.formula.parsing import (
    check_formula,
    is_oneline,
    parse_formula,
    read_formula,
    read_oneline,
    unguarded_words,
)
from syntagma.core.formula.tree import FixedText, Formula, Group, Option, Phrase, SlotRule, Word

__all__ = [
    "FixedText",
    "Formula",
    "Group",
    "Option",
    "Phrase",
    "SlotRule",
    "Word",
    "check_formula",
    "is_oneline",
    "parse_formula",
    "read_formula",
    "read_oneline",
    "unguarded_words",
    "with_look",
    "write_formula",
    "yielding",
]
