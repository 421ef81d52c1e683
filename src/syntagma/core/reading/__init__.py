"""Reading: finished prompts and plain wishes taken apart, and what can be done with the parts.

A text goes from outer.py (form, parameters, marks) through cutting.py (with kinds, verbal, cuts: where a part begins) and sorting.py (with
lexicon, cues, headnouns, verbs, sounds: what it is) to reader.py, which gives pieces.py. matching.py reads by the formula that wrote a text.
On them stand recasting, comparing, condensing (weighing, without, frames), learning (shared, learned, forming), scenes and hearing.
"""

from syntagma.core.reading.hearing import Heard, hear

__all__ = ["Heard", "hear"]
