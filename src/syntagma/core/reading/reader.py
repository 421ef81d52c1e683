"""A finished prompt taken apart: each piece with its facet, the term that it is or the nearest one, how sure that is and why.

The pieces follow one another without gaps: joined they are the text, byte for byte.
"""


import re
from collections.abc import Iterable
from itertools import pairwise

from syntagma.core import english
from syntagma.core.english.word_lists import PREPOSITIONS
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import HAND, WORD, Lexicon, bare, first_word, last_word
from syntagma.core.reading.outer_form import LABELLED, NESTED, Region, facet_of_label, outside, runs
from syntagma.core.reading.prompt_pieces import GLUE, NEGATIVE, PARAMETER, PART, REFERENCE, PromptPiece, Reading
from syntagma.core.reading.prose.classifying import MAIN, Sorted, Sorter, all_colours
from syntagma.core.reading.prose.cues import COLOURS, KINDS, LABELS, OPENING, SAYING
from syntagma.core.reading.prose.cutting import Part, chunks, parts
from syntagma.core.reading.prose.head_nouns import LAMPS
from syntagma.core.reading.prose.heard_clauses import heard
from syntagma.core.vocabulary.terms import Term

_QUOTED = regex(r"\"([^\"\n]{1,400})\"|“([^”\n]{1,400})”")
_BEFORE_QUOTE = regex(
    rf"(?:\b(?:and|then|who|while)\s+)?(?:\b(?:he|she|they|it|who|one|another)\s+)?{SAYING.pattern}(?:\s+(?P<how>\w+ly))?[\s:,]*$",
    re.I,
)
_LEANS = frozenset(
    "camera style kind finish closing audio sound effect effects look detail details tone light scene picture medium".split()
)
_WHOLE = frozenset("subject setting".split())
_THINGS = frozenset(
    "wardrobe music material visual-effect sound-effect setting lettering technique ambience finish".split()
)  # which a picture can be of, too
_STATED = regex(
    r"(?:the )?(?:overall )?(mood|light|lighting|palette|background|style|atmosphere|tone|weather|time|hour|camera|colou?rs?|composition) (?:is|are|feels|stays|remains|should be)\s+",
    re.I,
)
_LEADS_TO_PICTURE = regex(
    r"(?:(?:start|starting|begin|beginning|based|use|using|see|like|same|copy|in the style)\b ?)?(?:(?:from|on|with|like|as|at|to|by|in|of|and|the|a)\b ?)*",
    re.I,
)
_QUALITY = regex(
    r"(?:(?:very|slightly|quietly|deeply|oddly|gently|darkly) )?[a-z]{3,}(?:ic|al|ous|ful|ive|ary|some|less|ant|ent|ing|ed|ish|ly)(?: (?:and|but|yet) [a-z]{4,}(?:ic|al|ous|ful|ive|ary|some|less|ant|ent|ing|ed|ish|y))?",
    re.I,
)
_CRAFT = frozenset("technique material finish lettering".split())
_HEARD_THINGS = frozenset("music sound-effect ambience".split())
_PRONOUN = regex(
    r"(?P<sky>it(?: is|['’]s) (?:raining|snowing|drizzling|hailing|foggy|windy|stormy|misty|cloudy|overcast))"
    r"|(?:he|she|they|it|someone|somebody|everyone|both)\s+(?P<worn>wears?|(?:is|are) (?:wearing|dressed|clad)|(?:has|have) on)?\w",
    re.I,
)


class Reader:
    """Reads prompts with one vocabulary and the profiles in force."""

    def __init__(self, lexicon: Lexicon, profiles: Iterable[Profile] = ()):
        self.lexicon, self.profiles = lexicon, tuple(profiles)
        self.sorter = Sorter(lexicon)

    def read(self, text: str) -> Reading:
        """Take a prompt apart. Any text can be read."""
        outer = outside(text, self.profiles)
        found: list[PromptPiece] = []
        state = _State()
        for run in runs(outer.regions):
            found += self._region(text, run[0], outer.form, state) if len(run) == 1 else self._marked(text, run, outer.form, state)
        return Reading(text, outer.form, tuple(_without_gaps(text, found)), outer.broken)

    def _region(self, text: str, region: Region, form: str, state: "_State") -> list[PromptPiece]:
        start, stop, kind, name, value, _ = region
        if kind in (PARAMETER, REFERENCE, NEGATIVE):
            return [PromptPiece(start, stop, kind, text[start:stop], sure=0.95, why=_outer_why(kind), name=name, value=value)]
        if kind == GLUE:
            if name == "time":
                state.subject = False
            return []
        named = False
        if name and form in (LABELLED, NESTED):
            labelled = self._labelled(text, start, stop, name)
            if labelled is None:
                state.subject, named = False, True  # what is under such a label is of something
            elif labelled:
                state.subject = state.subject or any(p.facet == "subject" for p in labelled)
                return labelled
        found = self._prose(text, start, stop, state)
        first = next((n for n, piece in enumerate(found) if piece.kind == PART), None)
        if named and first is not None and not any(piece.facet == "subject" for piece in found):
            found[first] = found[first]._replace(facet="subject", sure=0.8, why=f"stands under “{name}”")
            state.subject = True
        return found

    def _marked(self, text: str, run: list[Region], form: str, state: "_State") -> list[PromptPiece]:
        """Text with marks of stress in it: read without them, the pieces put where they stand with them."""
        words = [region for region in run if region.kind == "text"]
        plain = "".join(text[r.start : r.stop] for r in words)
        places = [at for r in words for at in range(r.start, r.stop)]
        weights = [r.stress for r in words for _ in range(r.start, r.stop)]
        opening = {b.start: a.start for a, b in pairwise(run) if a.kind == GLUE}
        closing = {a.stop: b.stop for a, b in pairwise(run) if b.kind == GLUE}
        found = []
        for piece in self._region(plain, Region(0, len(plain), "text", words[0].name), form, state):
            start, stop = places[piece.start], places[piece.stop - 1] + 1
            own = {weight for letter, weight in zip(piece.text, weights[piece.start : piece.stop], strict=True) if letter.isalnum()}
            if len(own) > 1:  # marks within it belong to it
                start, stop = opening.get(start, start), closing.get(stop, stop)
            said = text[start:stop]
            stress = max(own, key=lambda weight: abs(weight - 1), default=1.0)
            found.append(
                piece._replace(start=start, stop=stop, text=said, stress=stress, plain="" if said == piece.text else piece.text)
            )
        return found

    def _labelled(self, text: str, start: int, stop: int, name: str) -> list[PromptPiece] | None:
        """Words under a label: the label says what they are, unless it says little and they themselves say more. Nothing where they are
        to be read as prose, None where that begins with what the picture is of."""
        a, b = _trimmed(text, start, stop)
        words = re.split(r"[ ._-]", name.lower())
        last = facet_of_label(name.lower()) or facet_of_label(words[-1]) or (facet_of_label(words[0]) if len(words) > 1 else "")
        if last == "subject" and a < b:
            return None
        if a >= b or not last or (last in _WHOLE and (len(text[a:b].split()) > 9 or "," in text[a:b])):
            return []
        found = self.sorter.sort(text[a:b])
        facet, sure, why = last, 0.9, f"stands under “{name}”"
        if (words[-1] in _LEANS and found.facet and found.sure >= 0.7 and found.facet != "negative") or (
            found.term and found.term.facet == last
        ):
            facet, sure, why = found.facet, max(found.sure, 0.8), found.why
        term = found.term if found.term and found.term.facet == facet else None
        return [self._piece(text, a, b, _free(Sorted(facet, sure, why, term)))]

    def _prose(self, text: str, start: int, stop: int, state: "_State") -> list[PromptPiece]:
        found: list[PromptPiece] = []
        at = start
        opening = OPENING.match(text, start, stop) if not state.begun else None
        if opening and (
            " of " in opening.group()
            or re.match(r"\s*(?:please|i|we|film|make|draw|create|show|give|generate)\b", opening.group(), re.I)
        ):
            rest = text[opening.end() : stop]
            kept = re.search(r"\b(an?|the|one|picture|image|photo)\s*$", opening.group().split(" of ")[-1], re.I)
            at = opening.end() - (len(kept.group()) if kept and rest and kept[1].lower() in ("a", "an", "the", "one") else 0)
        state.begun = True
        for quote in _QUOTED.finditer(text, at, stop):
            inner = quote.span(1) if quote[1] is not None else quote.span(2)
            before = _BEFORE_QUOTE.search(text, at, quote.start())
            found += self._stretch(text, at, before.start() if before else quote.start(), state)
            if before and before["how"]:
                found.append(PromptPiece(*before.span("how"), PART, before["how"], "voice", 0.8, "says how it is said"))
            why = "in quotation marks"
            found.append(PromptPiece(*inner, PART, text[slice(*inner)], "speech", 0.9, why))
            at = quote.end()
        return found + self._stretch(text, at, stop, state)

    def _stretch(self, text: str, start: int, stop: int, state: "_State") -> list[PromptPiece]:
        found: list[PromptPiece] = []
        for a, b in self._named_whole(text, list(chunks(text, start, stop))):
            found += self._chunk(text, a, b, state)
        return self._palettes(text, found)

    def _named_whole(self, text: str, found: list[tuple[int, int]]) -> Iterable[tuple[int, int]]:
        """Stretches between commas, those taken together that one name of the vocabulary holds: "washed-out denim, white and rust"."""
        at = 0
        while at < len(found):
            start, stop = found[at]
            ahead = at + 1
            for k in range(min(len(found), at + 3) - 1, at, -1):
                whole = text[start : found[k][1]]
                apart = all(text[found[i][1] : found[i + 1][0]] == ", " for i in range(at, k))
                if apart and len(whole) < 80 and self.lexicon.exact(re.sub(r"^(?:in|with) (?=\w)", "", whole, flags=re.I)):
                    stop, ahead = found[k][1], k + 1
                    break
            yield start, stop
            at = ahead

    def _palettes(self, text: str, found: list[PromptPiece]) -> list[PromptPiece]:
        """Colours that follow one another are one palette: "gold, black and teal"."""
        out: list[PromptPiece] = []
        for piece in found:
            last = out[-1] if out else None
            if last and _of_colours(last) and _of_colours(piece) and text[last.stop : piece.start] == ", ":
                whole = text[last.start : piece.stop]
                exact = self.sorter.sort(re.sub(r"^in (?=\w)", "", whole, flags=re.I))
                term = exact.term if exact.facet == "palette" else None
                out[-1] = self._piece(
                    text,
                    last.start,
                    piece.stop,
                    Sorted("palette", exact.sure if term else 0.85, exact.why if term else "names colours", term),
                )
            else:
                out.append(piece)
        return out

    def _chunk(self, text: str, a: int, b: int, state: "_State") -> list[PromptPiece]:
        said = text[a:b]
        if (
            not WORD.search(said)
            or SAYING.fullmatch(said.strip())
            or _LEADS_TO_PICTURE.fullmatch(said.strip())
            or said.lower() in PREPOSITIONS
        ):
            return []
        if text[b : b + 2] == ": " and said.lower() in LABELS:
            return []  # it announces what follows
        label = re.search(r"(?:^|(?:[.;!?]|(?<!\n)\n)\s*)(?:an? |the )?(\w+):\s+$", text[max(0, a - 24) : a])
        if label and label[1].lower() in LABELS and LABELS[label[1].lower()] not in _WHOLE:
            return [self._piece(text, a, b, Sorted(LABELS[label[1].lower()], 0.85, f"announced by “{label[1]}:”"))]
        stated = _STATED.match(said)
        if (
            stated
            and not (stated[1].lower() == "camera" and self.sorter.sort(said).facet == "camera-move")
            and (facet := facet_of_label(stated[1].lower()))
        ):
            rest = self.sorter.sort(said[stated.end() :])
            facet = rest.facet if stated[1].lower() in _LEANS and rest.facet and rest.sure >= 0.7 else facet
            return [self._piece(text, a, b, _free(Sorted(facet, 0.85, f"says what the {stated[1].lower()} is")))]
        sound = heard(said)
        if sound:
            return [self._piece(text, a, b, sound)]
        pronoun = _PRONOUN.match(said) if self.sorter.sort(said).sure < 0.85 else None
        if pronoun and pronoun["worn"]:
            return [self._piece(text, a, b, Sorted("wardrobe", 0.8, "says what someone wears"))]
        if pronoun and pronoun["sky"]:
            return [self._piece(text, a, b, Sorted("weather", 0.8, "says what the weather does"))]
        if pronoun:
            return [self._piece(text, a, b, Sorted("action", 0.6, "says what someone does"))]
        cut = parts(text, a, b, self.sorter, state.subject)
        found: list[PromptPiece] = []
        for number, part in enumerate(cut):
            start, stop = _trimmed(text, part.start, part.stop)
            if start < stop and WORD.search(text, start, stop):
                acts = part.role == "noun" and any(other.role == "deed" and other.start > part.stop for other in cut)
                before = cut[number - 1] if number else None
                shown = before is not None and before.role == "kind" and text[before.stop : start].strip().lower() == "of"
                found.append(self._part(text, start, stop, part, state, acts, shown))
        return found

    def _part(self, text: str, start: int, stop: int, part: Part, state: "_State", acts: bool, shown: bool) -> PromptPiece:
        said = text[start:stop]
        found = part.found or self.sorter.sort(said, "noun" if part.role == "kind" else part.role)
        if part.role == "behind":
            cloth = self._clothes(said)
            if cloth.facet and found.facet in ("", "setting", "material", "wardrobe"):
                found = cloth
            elif not found.facet or (found.facet in MAIN and not (found.term and found.term.facet == "setting")):
                found = Sorted(
                    "setting",
                    0.65,
                    f"“{first_word(said)}” leads to a place",
                    found.term if found.facet == "setting" else None,
                )
            elif found.term and found.term.place and found.facet in MAIN:
                found = found._replace(facet="setting")
        elif part.role == "deed" and found.facet not in (
            "pose",
            "expression",
            "visual-effect",
            "looping-motion",
            "pacing",
            "wardrobe",
            "lighting",
            "camera-angle",
            "action",
        ):
            found = Sorted("action", 0.7, "says what is done")
        elif part.role == "noun":
            found = self._noun(said, found, state, acts, shown)
        found = _free(found)
        if found.facet == "negative":
            return PromptPiece(start, stop, NEGATIVE, said, "", found.sure, "begins with a denial")
        if found.facet == "subject":
            state.subject = True
        return self._piece(text, start, stop, found or Sorted("detail"))

    def _clothes(self, said: str) -> Sorted:
        if not re.match(r"(?:in|wearing|with)\s", said, re.I):
            return Sorted("")
        rest = said.split(" ", 1)[1]
        found = self.sorter.sort(rest)
        words = WORD.findall(rest.lower())
        worn = bool(words) and self.lexicon.heads.get(bare(words[-1]), {}).get("wardrobe", 0) >= HAND
        return (
            Sorted("wardrobe", 0.8, found.why or "names clothes", found.term) if found.facet == "wardrobe" or worn else Sorted("")
        )

    def _noun(self, said: str, found: Sorted, state: "_State", acts: bool, shown: bool) -> Sorted:
        """A noun group by itself: what the picture is of, where nothing else says what it is. `acts`: it does something; `shown`: a
        kind of picture is of it."""
        if found.facet in MAIN:
            return found
        if shown and found.facet == "setting" and not state.subject:
            return Sorted("subject", 0.7, "what the picture is of", found.term)
        said_by_itself = re.match(r"(?:an?|the|one|two|three|some)\s", said, re.I) or acts
        thing = (found.facet in _THINGS and (said_by_itself or found.facet not in _CRAFT)) or (
            found.facet == "lighting" and last_word(said) in LAMPS and said_by_itself
        )
        lit = found.facet == "lighting" and acts and last_word(said) in LAMPS
        if (
            not state.subject
            and (not found.term or lit)
            and (thing or (found.sure < 0.7 and (found.facet not in KINDS or " of " in said)))
            and (said_by_itself or found.facet not in _HEARD_THINGS)
        ):
            return Sorted("subject", 0.6, "the first thing that is named")
        if found.facet:
            return found
        if acts:
            return Sorted("subject", 0.6, "what does something")
        if re.match(r"(?:an?|the|two|three|four|five|some|his|her|their)\s", said, re.I):
            return Sorted("subject", 0.45, "a thing that is named")
        if state.subject and _QUALITY.fullmatch(said):
            return Sorted("mood", 0.4, "an adjective by itself")
        last = re.sub(r" (?:inside|below|behind|nearby|around|above|outside)$", "", said)
        last = last.rsplit(None, 1)[-1] if last.strip() else last
        if state.subject and english.is_plural(last):
            return Sorted("subject", 0.4, "things that are named")
        return Sorted("detail", 0.3, "nothing tells what it is")

    def _piece(self, text: str, start: int, stop: int, found: Sorted) -> PromptPiece:
        near = None
        if found.term is None and found.facet not in ("detail", "speech"):
            nearest = self.lexicon.near(found.facet, text[start:stop])
            near = (
                nearest.term if nearest and nearest.share >= (0.34 if _same_noun(text[start:stop], nearest.term) else 0.6) else None
            )
        facet = found.facet or "detail"
        return PromptPiece(start, stop, PART, text[start:stop], facet, found.sure, found.why, found.term, near)


def _same_noun(text: str, term: Term) -> bool:
    """Do a part and a term, or another name of it, end on the same noun?"""
    words = [bare(word) for word in WORD.findall(text.lower())]
    return bool(words) and any(name and bare(name.lower().split()[-1]) in words[-2:] for name in (term.term, *term.aka))


def _of_colours(piece: PromptPiece) -> bool:
    """Does a part name colours and nothing else, whatever leads to it?"""
    words = re.sub(r"^in (?=\w)", "", piece.text.lower())
    return piece.kind == PART and (words in COLOURS or all_colours(words))


def _free(found: Sorted) -> Sorted:
    """In a prompt that follows no formula, whatever it is of is its subject, and light is light."""
    if found.facet in MAIN:
        return found._replace(facet="subject")
    return found._replace(facet="lighting") if found.facet == "light-quality" else found


class _State:
    """What has been read so far: whether anything, and whether what the picture is of."""

    def __init__(self):
        self.begun = self.subject = False


def _outer_why(kind: str) -> str:
    return {PARAMETER: "written as a parameter", REFERENCE: "an address, a file or a handle", NEGATIVE: "says what to keep out"}[
        kind
    ]


def _trimmed(text: str, start: int, stop: int) -> tuple[int, int]:
    while start < stop and text[start] in " \t\r\n,;.:!?":
        start += 1
    while stop > start and text[stop - 1] in " \t\r\n,;.:!?":
        stop -= 1
    return start, stop


def _without_gaps(text: str, found: list[PromptPiece]) -> Iterable[PromptPiece]:
    at = 0
    for piece in sorted(found):
        if piece.start < at:
            continue
        if piece.start > at:
            yield PromptPiece(at, piece.start, GLUE, text[at : piece.start])
        yield piece
        at = piece.stop
    if at < len(text):
        yield PromptPiece(at, len(text), GLUE, text[at:])
