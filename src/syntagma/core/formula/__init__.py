"""The formula language: text to tree, tree to text, mistakes with their places. docs/formulas.md is the definition."""

from syntagma.core.formula.checking import check_formula
from syntagma.core.formula.mounting import mounted
from syntagma.core.formula.oneline import is_oneline, read_oneline
from syntagma.core.formula.reading import parse_formula, read_formula
from syntagma.core.formula.tree import Formula, Group, Option, Phrase, SlotRule, Text, Word
from syntagma.core.formula.writing import write_formula

__all__ = [
    "Formula",
    "Group",
    "Option",
    "Phrase",
    "SlotRule",
    "Text",
    "Word",
    "check_formula",
    "is_oneline",
    "mounted",
    "parse_formula",
    "read_formula",
    "read_oneline",
    "write_formula",
]
