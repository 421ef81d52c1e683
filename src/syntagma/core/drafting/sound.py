"""Sound in a draft: which phrases speak, sound or play, how a model wants them written, and how
long a line takes.
"""

import re
from collections.abc import Mapping, Sequence

from syntagma.core.diagnostics import WARNING, Finding
from syntagma.core.drafting.draft import DraftPhrase, Glue, Noun, PairMark
from syntagma.core.formula.tree import FixedText, Option, Phrase, SlotRule
from syntagma.core.models.patterns import PLACE
from syntagma.core.models.profile import Sound

SPEECH, EFFECT, AMBIENCE, MUSIC = "speech", "effect", "ambience", "music"
_FACETS = {"sound-effect": EFFECT, "ambience": AMBIENCE, "music": MUSIC, "voice": SPEECH}
QUOTES = tuple("\"“”«»'")
_LEAST = 0.25  # below this share of the clip a spoken line leaves dead air


def sound_of(phrase: Phrase, rules: Mapping[str, SlotRule]) -> str:
    """speech, effect, ambience or music: what a phrase lets one hear, by the facets of its slots;
    "" for what is seen. A free slot in quotation marks is spoken.
    """
    kinds = [_FACETS[rules[name].facet] for name in phrase.slots if rules[name].facet in _FACETS]
    if kinds:
        return SPEECH if SPEECH in kinds else kinds[0]
    nodes = (
        n for node in phrase.body for n in (node.children if isinstance(node, Option) else (node,))
    )
    glue = "".join(node.raw if isinstance(node, FixedText) else "\0" for node in nodes)
    spoken = re.search(r"[\"“][^\"”]*\0", glue)
    return SPEECH if spoken and any(not rules[name].facet for name in phrase.slots) else ""


def resounded(
    laid: DraftPhrase, kind: str, sound: Sound, rules: Mapping[str, SlotRule]
) -> DraftPhrase:
    """A phrase that sounds, in the model's own pattern: {who}, {how} and {words} of speech, {text}
    of everything else. It stays as it is where the model has no pattern, or where the pattern wants
    what is not there.
    """
    pattern = getattr(sound, kind)
    if not pattern:
        return laid
    parts = (
        _speech(laid, rules)
        if kind == SPEECH
        else {"text": _spaced([p for p in laid.parts if isinstance(p, Noun)])}
    )
    bare = {match[2] for match in PLACE.finditer(pattern) if not (match[1] or match[3])}
    if not all(parts.get(name) for name in bare):
        return laid
    out: list[Glue | Noun | PairMark] = []
    at = 0
    for match in PLACE.finditer(pattern):
        out += _marked(pattern[at : match.start()], opening=True)
        if found := parts.get(match[2]):
            out += [Glue(match[1]), *found, Glue(match[3])]
        at = match.end()
    out += _marked(pattern[at:], opening=False)
    kept = tuple(p for p in out if not isinstance(p, Glue) or p.text)
    return laid._replace(
        parts=kept,
        plan=laid.plan._replace(end="." if laid.plan.end else "", joined=False),
        whole=True,
    )


def _marked(glue: str, opening: bool) -> list[Glue | PairMark]:
    """Fixed words of a pattern, a quotation mark beside what is spoken apart, so what is spoken
    keeps its own stop.
    """
    if opening and glue[-1:] in QUOTES:
        return [Glue(glue[:-1]), PairMark(glue[-1], True, frozenset())]
    if not opening and glue[:1] in QUOTES:
        return [PairMark(glue[0], False, frozenset()), Glue(glue[1:])]
    return [Glue(glue)]


def _speech(laid: DraftPhrase, rules: Mapping[str, SlotRule]) -> dict[str, list]:
    """Who speaks, how, and what: the first noun before the quotation that is not a voice, the
    others, and what is in it.
    """
    who: list[Noun] = []
    how: list[Noun] = []
    words: list[Glue | PairMark | Noun] = []
    inside = said = False
    for part in laid.parts:
        if isinstance(part, PairMark) and part.text not in "()":
            inside, said = part.opening, True
        elif inside:
            words.append(part)
        elif isinstance(part, Noun) and not said:
            (how if who or rules[part.group.head].facet == "voice" else who).append(part)
    return {"who": who, "how": _spaced(how), "words": words}


def _spaced(nouns: Sequence[Noun]) -> list:
    return [part for i, noun in enumerate(nouns) for part in ((Glue(" "), noun) if i else (noun,))]


def spoken_words(text: str) -> int:
    """How many words are in quotation marks in a text."""
    return sum(len((a or b).split()) for a, b in re.findall(r'"([^"]*)"|“([^”]*)”', text))


def pace_findings(words: int, seconds: float, pace: float) -> list[Finding]:
    """The findings on so many spoken words in a clip of so many seconds."""
    if not words:
        return []
    takes = words / pace
    if takes > seconds:
        least = -(-words // pace)
        message = (
            f"{words} spoken words take about {takes:.1f} s, but the clip has {seconds:g}: the end"
            " will be cut off"
        )
        return [
            Finding(
                WARNING,
                message,
                f"say it in {int(seconds * pace)} words, or ask for {least:g} seconds",
                "speech",
                code="speech-too-long",
            )
        ]
    if takes < seconds * _LEAST:
        message = (
            f"{words} spoken words take about {takes:.1f} s of {seconds:g}: the rest will be silent"
        )
        return [
            Finding(
                WARNING,
                message,
                "say more, have somebody act, or take a shorter clip",
                "speech",
                code="dead-air",
            )
        ]
    return []
