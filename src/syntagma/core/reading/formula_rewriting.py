"""What was read, put into another form: into the slots of a formula, or a formula of its own for
another model or order.
"""

import re
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.verbs import VERBS, is_past, participle
from syntagma.core.english.word_lists import kept_out
from syntagma.core.formula.building import escaped, fixed, formula, nodes, phrase
from syntagma.core.formula.tree import Formula, Phrase, SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import bare as bare_word
from syntagma.core.reading.lexicon import last_word
from syntagma.core.reading.outer_form import LABELLED, NESTED, TAGS, TIMED, segments
from syntagma.core.reading.prompt_pieces import (
    CLAUSE,
    DEED,
    NAMED,
    NOUN,
    PART,
    QUALITY,
    PromptPiece,
    Reading,
)
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.terms import Vocabulary, normal

CAMERA = ("shot-size", "camera-angle", "camera-move", "camera-rig", "lens", "focus", "exposure")
FAMILIES = {
    "camera": CAMERA,
    "light": ("lighting", "light-quality", "hour", "weather"),
    "sound": ("speech", "voice", "sound-effect", "ambience", "music"),
    "look": (
        "medium",
        "genre",
        "design-style",
        "technique",
        "film-look",
        "colour-grade",
        "finish",
        "palette",
        "mood",
    ),
}
LEADS = regex(
    r"^(?:lit by|lit with|illuminated by|by the light of|under the light of|shot"
    r" (?:on|with|through)|taken (?:on|with)|filmed (?:on|with)|with|wearing|dressed in|seen(?!"
    r" from behind)|set in)\s+",
    re.I,
)
_DENIED = regex(r"^(?:did|does|do|could|can|would|will|had|has|have|is|was|were) ", re.I)
_AND_THEN = regex(r"(?P<lead>\b(?:and|then|but) )(?P<verb>\w+)\b(?! of\b)", re.I)
_UNDER = regex(r"^(?:under|by|in)\s+(?=an? |the |\w+light\b)", re.I)
_LINK = regex(r"\s*(of|for|to|with|from|and|showing|then|while|as|who)\s*", re.I)
_SAYS = regex(r"(?:^\s*|(?:[,;.!?]|(?<!\n)\n)\s*)((?:\w+ )*\w+[:,]?)\s*[\"“]$")
_WITH = regex(r"[,;]\s+(with)\s+$", re.I)
_PLACED = facets.FacetGroup("placed")
_ENDS = {"mood": ("mood", "atmosphere", "feeling"), "lighting": ("lit", "backlit")}


def slots_as(formula: Formula, form: str) -> set[str]:
    """The slots that are wanted in a form: those that take a whole clause, those that take a place
    with its preposition.
    """
    return {
        group.head for phrase in formula.phrases for group in phrase.groups() if group.form == form
    }


def slot_for(
    piece: PromptPiece,
    rules: Mapping[str, SlotRule],
    several: Mapping[str, list[str]],
    spoken: Sequence[str],
    vocabulary: Vocabulary,
) -> str | None:
    """The slot that takes a piece, by its facet, among those that still take something; `several`
    is what they hold.
    """
    if piece.facet == "speech":
        return next((s for s in spoken if s in rules and s not in several), None)
    own = {piece.facet, piece.term.facet if piece.term else piece.facet}
    wanted = own | vocabulary.kin(piece.facet)
    ranked = sorted(
        (
            r
            for r in rules.values()
            if (r.facet in wanted and stands(piece, r))
            or (r.name == "kind" and piece.facet in ("medium", "genre") and piece.build == NOUN)
        ),
        key=lambda r: (
            piece.term is None or r.facet != piece.term.facet,
            r.facet not in own,
            not r.need,
        ),
    )
    for rule in ranked:
        if rule.name not in several or len(several[rule.name]) < max(rule.take[1], 1):
            return rule.name
    return next(
        (
            r.name
            for r in ranked
            if r.facet == piece.facet and r.facet in ("palette", "technique", "lighting", "action")
        ),
        None,
    )


# Facets of which a quality alone is a part: "tired" is a mood, "misty" no weather to be put behind
# "in".
_QUALITIES = facets.FacetGroup("quality")
_DEEDS = facets.FacetGroup("deed")


def stands(piece: PromptPiece, rule: SlotRule) -> bool:
    """Can a piece stand where a slot does, with what a formula writes round it?"""
    if piece.term or not piece.build:
        return True
    if rule.facet == "mood":  # with a … mood
        return piece.build == QUALITY or piece.words.lower().endswith(_ENDS["mood"])
    if piece.build == QUALITY:
        return rule.facet in _QUALITIES or not rule.facet
    if piece.build == DEED:
        return (rule.facet in _DEEDS and not _DENIED.search(piece.words)) or not rule.facet
    if rule.facet == "action":  # it says who does it, or what happens
        return piece.build != CLAUSE
    return True


def fill_text(piece: PromptPiece, facet: str, vocabulary: Vocabulary, placed: bool = True) -> str:
    """A piece as a fill: the term that it is, else its words without what a formula writes round
    them. `placed`: a place keeps its preposition.
    """
    words = piece.words.strip()
    term = piece.term
    if term and (
        term.facet == facet
        or (vocabulary.participant(facet) and vocabulary.participant(term.facet))
    ):
        said = normal(LEADS.sub("", english.split_determiner(english.split_place(words)[1])[1]))
        if said in map(
            normal, (term.term, term.phrase, english.split_place(term.place)[1], term.clause)
        ):
            return term.named_by(
                words
            )  # by another name it stays as it was said: "a fox" is not a red fox
    if piece.facet in ("speech", "lettering") and facet not in vocabulary:
        return words  # what is said stays as it is
    words = doing(words) if facet in ("action", "pose") else LEADS.sub("", words)
    if facet == "lighting":
        words = _UNDER.sub("", words)
    if facet == "setting" and placed and piece.lead and not english.starts_with_preposition(words):
        determiner, group = english.split_determiner(words)
        words = (
            f"{piece.lead}"
            f" {determiner or (english.article(group) if english.countability(group) == 'one' else '')}"  # noqa: E501
            f" {group}".replace("  ", " ")
        )
    if not placed and facet in _PLACED:
        words = english.split_place(words)[1]
    for ending in _ENDS.get(facet, ()):
        if words.lower().endswith(f" {ending}") and facet == "mood":
            words = words[: -len(ending) - 1]
    determiner, rest = english.split_determiner(words)
    words = rest if determiner.lower() in ("a", "an") else words
    return (words if piece.build == NAMED else lowered(words)).replace(";", ",")


def doing(words: str) -> str:
    """A deed as it is after a noun: "she climbs a ladder and looked down" → "climbing a ladder and
    looking down".
    """
    words = re.sub(r"^(?:he|she|they|it) ", "", words, flags=re.I)
    first, space, rest = words.partition(" ")
    if not _finite(first):
        return words
    more = _AND_THEN.sub(
        lambda m: m["lead"] + participle(m["verb"].lower()) if _finite(m["verb"]) else m.group(),
        rest,
    )
    return participle(first.lower()) + space + more


def _finite(word: str) -> bool:
    """Is a word a verb that says what somebody does or did: "climbs", "found"?"""
    low = word.lower()
    return is_past(low) or (low in VERBS and not low.endswith("ing"))


def own_formula(
    reading: Reading,
    order: Iterable[str] = (),
    timed: bool = False,
    preposition: Callable[[str], str] = lambda noun: "",
) -> tuple[Formula, dict[str, str]]:
    """A formula made of the reading itself, a phrase for each part in its words, and its fills:
    what any model's register can write. `order` names facets, or families such as camera, that come
    first; `timed`: it is written in segments, those that it came in; `preposition` gives the one
    that a place takes by its noun, for tags and labels, which have none.
    """
    first = [facet for name in order for facet in FAMILIES.get(name, (name,))]
    rooms = _rooms(reading) if timed else []
    parts: list[_Glued] = []
    for room in dict.fromkeys(rooms) if rooms else [""]:
        inside = (
            [one for one, own in zip(_with_glue(reading), rooms, strict=True) if own == room]
            if rooms
            else list(_with_glue(reading))
        )
        parts += (
            _moved(inside, first)
            if first
            else [inside[0]._replace(joined=False), *inside[1:]]
            if inside
            else []
        )
    rooms = sorted(rooms, key=list(dict.fromkeys(rooms)).index)
    lines, slots, fills = [], {}, {}
    stress: dict[str, float] = {}
    counts: dict[str, int] = {}
    bare = reading.form in (TAGS, LABELLED, NESTED)
    for number, one in enumerate(parts):
        facet = one.piece.facet
        counts[facet] = counts.get(facet, 0) + 1
        name = facet if counts[facet] == 1 else f"{facet}-{counts[facet]}"
        words = one.piece.words.strip() if facet == "speech" else lowered(one.piece.words.strip())
        if (
            bare
            and facet in _PLACED
            and one.piece.term
            and one.piece.term.place
            and normal(words) == normal(one.piece.term.term)
        ):
            words = one.piece.term.place  # a tag names a place; a sentence says where
        elif bare and facet == "setting":
            words = _placed(words, preposition)
        body, words = phrase_of(name, facet, words, bare)
        joined = one.joined and number > 0
        body = (
            f"{escaped(one.link)} {body}"
            if one.link and number and (joined or one.link == "with" or facet == "speech")
            else body
        )
        end = one.end if not first else ""
        mark = "!" if number == 0 else ""
        room = f"{rooms[number]}." if rooms else ""
        lines.append(phrase(f"{room}{name.replace('_', '-')}", nodes(body + end), mark, joined))
        slots[name] = SlotRule(name, "", declared=True)
        fills[name] = words
        if one.piece.stress != 1:
            stress[name] = one.piece.stress
    negatives = [p.text.strip(" .") for p in reading.pieces if p.kind == "negative"]
    for text in negatives:
        lines.append(phrase("-", [fixed(", ".join(kept_out(text)))]))
    return formula("rewritten", lines, slots, stress), fills


def without_needs(formula: Formula, given: Collection[str]) -> tuple[Formula, list[str]]:
    """The formula in which no slot is needed that nothing fills, and those slots: a wish is refused
    for none of them.
    """
    missing = [rule.name for rule in formula.slots if rule.need and rule.name not in given]
    rules = {rule.name: rule._replace(need=False) for rule in formula.slots if rule.name in missing}
    lines = [
        (
            line._replace(mark="")
            if isinstance(line, Phrase) and set(missing) & set(line.slots)
            else line
        )
        for line in formula.lines
    ]
    return (
        formula._replace(
            head=formula.head._replace(slots={**formula.head.slots, **rules}), lines=tuple(lines)
        ),
        missing,
    )


def _moved(parts: "list[_Glued]", first: Sequence[str]) -> "list[_Glued]":
    """The parts with those of some facets at the front; what follows a part without a comma stays
    after it.
    """
    units: list[list[_Glued]] = []
    for one in parts:
        if one.joined and units and one.piece.facet not in first:
            units[-1].append(one)
        else:
            units.append(
                [
                    one._replace(
                        joined=False,
                        link=one.link if one.piece.facet == "speech" or one.link == "with" else "",
                    )
                ]
            )
    at = {
        id(unit): min(
            (first.index(o.piece.facet) for o in unit if o.piece.facet in first), default=len(first)
        )
        for unit in units
    }
    moved = sorted(units, key=lambda unit: at[id(unit)])
    for unit in moved:
        unit[0] = unit[0]._replace(joined=False)
    return [one for unit in moved for one in unit]


def _placed(words: str, preposition: Callable[[str], str]) -> str:
    """A place by name as a sentence says it: "beech wood" → "in a beech wood"; as it is where its
    noun does not tell how.
    """
    if english.starts_with_preposition(words):
        return words
    determiner, group = english.split_determiner(words)
    lead = preposition(bare_word(last_word(group[: head_end(group)])))
    if not lead:
        return words
    article = determiner or (
        "a"
        if group.lower().endswith(" wood")
        else (
            ""
            if english.countability(words) in ("many", "mass", "name")
            else english.article(group)
        )
    )
    return " ".join(part for part in (lead, article, group) if part)


def _rooms(reading: Reading) -> list[str]:
    """The segment of each part, as labels say it to a model that writes segments: shot1, shot2;
    "all" if there are none.
    """
    spans = segments(reading.text) if reading.form == TIMED else []
    return [
        next(
            (f"shot{n}" for n, (start, stop) in enumerate(spans, 1) if start <= piece.start < stop),
            "all",
        )
        for piece in reading.parts()
    ]


_PROPER = frozenset(
    """
        victorian georgian edwardian dutch japanese swiss french italian german english british
        roman greek chinese indian african european american scandinavian gothic baroque renaissance
        art-deco christmas sunday monday tuesday wednesday thursday friday saturday january february
        march april may june july august september october november december moroccan persian
        turkish egyptian mexican venetian tudor norman viking i
    """.split()
)


def lowered(words: str) -> str:
    """Words without the capital that the beginning of a sentence gave them; names keep theirs."""
    first = words.split(" ", 1)[0].strip(",.;:").lower()
    if (
        not words[:1].isupper()
        or not (words[1:2].islower() or words[1:2] in (" ", "-", "’", "'"))
        or first in _PROPER
    ):
        return words
    rest = words.split(" ")[1:]
    if rest and rest[0][:1].isupper() and first not in ("a", "an", "the", "in", "on", "at", "of"):
        return words
    if not rest and english.countability(words) == "name" and first not in ("a", "an"):
        return words if not words.isalpha() or len(words) < 2 else words[0].lower() + words[1:]
    return words[0].lower() + words[1:]


def phrase_of(name: str, facet: str, words: str, bare: bool) -> tuple[str, str]:
    """How a part is in prose: in its own words if it has its lead, else led to as its kind is."""
    small = words.lower()
    led = (
        english.starts_with_preposition(small)
        or LEADS.match(small)
        or small.startswith(("lit ", "backlit"))
    )
    ended = any(small.endswith(ending) for ending in _ENDS.get(facet, ()))
    if facet == "speech":
        return f'"[{name}]"', words
    lead = LEADS.match(words) if not bare else None
    if (
        lead and lead.group().strip().lower() == facets.traits_of(facet).lead.partition(" [")[0]
    ):  # it comes back when prose is made of it
        determiner, rest = english.split_determiner(words[lead.end() :])
        taken = determiner.lower() in ("a", "an")
        return f"{escaped(lowered(lead.group()))}[{'a ' if taken else ''}{name}]", (
            rest if taken else words[lead.end() :]
        )
    if not bare or led or ended or not facets.traits_of(facet).lead:
        return f"[{name}]", words
    return facets.traits_of(facet).lead.format(name), words


class _Glued(NamedTuple):
    piece: PromptPiece
    joined: bool  # it follows the part before it with nothing but a space
    link: str  # words that lead to it: of, with, she says:
    end: str  # the mark of a sentence that comes after it


def _with_glue(reading: Reading) -> Iterable[_Glued]:
    pieces = reading.pieces
    for i, piece in enumerate(pieces):
        if piece.kind != PART:
            continue
        before = pieces[i - 1].text if i and pieces[i - 1].kind == "glue" else ""
        after = pieces[i + 1].text if i + 1 < len(pieces) and pieces[i + 1].kind == "glue" else ""
        prose = reading.form not in (LABELLED, NESTED)
        said = (
            _SAYS.search(before, max(0, len(before) - 200))
            if prose and piece.facet == "speech"
            else None
        )
        mark = re.search(r"[,;.:!?\n|]", before[: said.start(1)] if said else before)
        ended = (
            i > 1 and pieces[i - 2].facet == "speech" and english.ends_sentence(pieces[i - 2].words)
        )
        joined = prose and bool(before) and not mark and not ended
        led = _LINK.fullmatch(before) if joined else _WITH.search(before) if prose else None
        link = said[1].strip() if said else led[1].lower() if led else ""
        stop = re.match(r"\s*(?:[\"”]\s*)?([.;:!?])", after) if prose else None
        own = english.ends_sentence(piece.words) if piece.facet == "speech" else False
        yield _Glued(piece, joined, link, stop[1] if stop and not own else "")


def swap_words(text: str, old: str, new: str) -> str | None:
    """The text with `new` wherever `old` appears as whole words, in its number and with the article
    that it takes; everything else stays as it is. None if it does not stand there.
    """
    many, count = english.plural(old), 0
    forms = "|".join(re.escape(form) for form in dict.fromkeys((many, old)))

    def put(match: re.Match) -> str:
        nonlocal count
        count += 1
        article, said = match[1] or "", match[2]
        plural = said.lower() == many.lower() != old.lower()
        words = english.plural(new) if plural and english.countability(new) == "one" else new
        own = english.split_determiner(words)[0]
        if article and article.strip().lower() != "the":
            article = (
                "" if own or english.countability(words) != "one" else f"{english.article(words)} "
            )
        elif own:
            article = ""
        out = article + words
        return out[0].upper() + out[1:] if match.group()[0].isupper() else out

    found = re.sub(rf"(?<!\w)((?:an?|the)\s)?({forms})(?!\w)", put, text, flags=re.I)
    return found if count else None
