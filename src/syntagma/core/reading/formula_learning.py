"""Formulas learned from examples: what is fixed in all of them, and what varies.

First the fixed words: what all examples have in the same order (longest common subsequence, word by
word, content words counting more; D. S. Hirschberg, Algorithms for the longest common subsequence
problem, JACM 24 (1977), gives the measure). Between them the reader's parts are laid into columns
by facet; words that lead every text of a column, or end it, are fixed again.
"""

import re
from collections import Counter
from collections.abc import Collection, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.word_lists import PREPOSITIONS, kept_out
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formula_rewriting import LEADS, lowered
from syntagma.core.reading.learned_formula import SlotCandidate, formula_text, slot_names
from syntagma.core.reading.prompt_pieces import (
    LEFT,
    NEGATIVE,
    PARAMETER,
    PART,
    REFERENCE,
    PromptPiece,
    Reading,
)
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.terms import Term, normal

# ──── What examples have in common: the words that all of them share in the same order, as runs of
# fixed words.
#
# The longest common subsequence, word by word, content words counting more; D. S. Hirschberg,
# Algorithms for the longest common
# subsequence problem, JACM 24 (1977).


TOKEN = regex(r"[^\W_](?:[\w'’/.-]*\w)?|[^\w\s]")
IDLE = frozenset('a an the of and or in on at with by to for from , . ; : ! ? " ( )'.split())


class Token(NamedTuple):
    """A word or a mark: as it is compared, and its place."""

    word: str
    start: int
    stop: int


class ProseExample(NamedTuple):
    """The prose of one example, without what goes with it."""

    text: str
    tokens: list[Token]
    pieces: list[PromptPiece]


def norm(word: str) -> str:
    small = word.lower()
    return "a" if small == "an" else small


def words_in(text: str) -> list[str]:
    return [norm(m.group()) for m in TOKEN.finditer(text)]


class SharedRun(NamedTuple):
    """Fixed words: the tokens from and to, in each example."""

    spans: list[tuple[int, int]]


def anchors(examples: list[ProseExample], fixed: set[str], opened: set[str]) -> list[SharedRun]:
    core = [t.word for t in examples[0].tokens]
    for example in examples[1:]:
        core = _common(core, [t.word for t in example.tokens], fixed)
    core = [word for word in core if word not in opened or word in IDLE]
    places = [_placed(core, [t.word for t in example.tokens], fixed) for example in examples]
    runs: list[SharedRun] = []
    at = 0
    while at < len(core):
        stop = at + 1
        while stop < len(core) and all(p[stop] == p[stop - 1] + 1 for p in places):
            stop += 1
        words = core[at:stop]
        content = [w for w in words if w not in IDLE]
        if content or len([w for w in words if w in PREPOSITIONS]) > 1 or fixed & set(words):
            first, last = at, stop
            while first < last and not re.match(r"\w", core[first]):
                first += 1
            while first < last and _in_name(examples, [p[first] for p in places], before=True):
                first += 1
            while first < last - 1 and not re.match(r"\w", core[first]):
                first += 1
            while last > first and _in_name(examples, [p[last - 1] for p in places], before=False):
                last -= 1
            while last - 1 > first and (
                core[last - 1] == "a" or not re.match(r"\w", core[last - 1])
            ):
                last -= 1  # the article belongs to what follows it, the marks to the seams
            if first < last and any(w not in IDLE or w in PREPOSITIONS for w in core[first:last]):
                runs.append(SharedRun([(p[first], p[last - 1] + 1) for p in places]))
        at = max(stop, at + 1)
    return runs


def _in_name(examples: list[ProseExample], places: Sequence[int], before: bool) -> bool:
    """Does a shared word belong, in most examples, to the name of a term that has other words too,
    `before` it or after it?
    """
    inside = 0
    for example, place in zip(examples, places, strict=True):
        token = example.tokens[place]
        for piece in example.pieces:
            if piece.term and piece.start <= token.start and token.stop <= piece.stop:
                start = piece.start + _led_by(piece)
                inside += (
                    start < token.start
                    if before
                    else (start <= token.start and token.stop < piece.stop)
                )
    return inside * 2 > len(examples)


def _led_by(piece: PromptPiece) -> int:
    """How many letters of a part lead to its name: "lit by a"; none where all of it is the name
    ("seen from behind").
    """
    assert piece.term is not None
    text, ways = piece.text, (piece.term.term, piece.term.phrase, piece.term.place)
    if normal(text) in map(normal, filter(None, ways)):
        return 0
    lead = LEADS.match(text)
    at = lead.end() if lead else 0
    determiner, rest = english.split_determiner(text[at:])
    return at + len(text[at:]) - len(rest) if determiner else at


def _weight(word: str, fixed: set[str]) -> float:
    return 8.0 if word in fixed else 0.4 if word in IDLE else 3.0


def _table(a: list[str], b: list[str], fixed: set[str]) -> list[list[float]]:
    best = [[0.0] * (len(b) + 1) for _ in range(len(a) + 1)]
    for i in range(len(a) - 1, -1, -1):
        row, below = best[i], best[i + 1]
        for j in range(len(b) - 1, -1, -1):
            row[j] = max(below[j], row[j + 1])
            if a[i] == b[j]:
                joined = 0.3 if i + 1 < len(a) and j + 1 < len(b) and a[i + 1] == b[j + 1] else 0.0
                row[j] = max(row[j], below[j + 1] + _weight(a[i], fixed) + joined)
    return best


def _common(a: list[str], b: list[str], fixed: set[str]) -> list[str]:
    """The words that two have in the same order, as heavy as can be."""
    return [a[i] for i, _ in pairs(a, b, fixed)]


def _placed(core: list[str], words: list[str], fixed: set[str]) -> list[int]:
    """Where the core's words are in an example."""
    places = dict(pairs(core, words, fixed))
    return [places.get(i, -1 - 2 * i) for i in range(len(core))]


def pairs(a: list[str], b: list[str], fixed: set[str]) -> list[tuple[int, int]]:
    best, found, i, j = _table(a, b, fixed), [], 0, 0
    while i < len(a) and j < len(b):
        if a[i] == b[j] and best[i][j] > max(best[i + 1][j], best[i][j + 1]):
            found.append((i, j))
            i, j = i + 1, j + 1
        elif best[i + 1][j] >= best[i][j + 1]:
            i += 1
        else:
            j += 1
    return found


# ──── A formula out of examples: the words that all of them share stay fixed, what differs becomes
# slots.
#
# First the fixed words: what all examples have in the same order (longest common subsequence, word
# by word, content words counting more;
# D. S. Hirschberg, Algorithms for the longest common subsequence problem, JACM 24 (1977), gives the
# measure). Between them the reader's
# parts are laid into columns by facet; words that lead every text of a column, or end it, are fixed
# again.


LEAST = 4  # examples that a formula is learned from
_FORMS = facets.FacetGroup("placed")


class Learned(NamedTuple):
    """The columns of a formula, what goes with the prose in all examples, what was taken out as
    foreign, and the prose itself.
    """

    columns: list[SlotCandidate]
    parameters: dict[str, str]
    negative: list[str]
    foreign: list[str]
    bodies: list[str]

    @property
    def formula(self) -> str:
        """The formula's text."""
        return formula_text(self.columns, len(self.bodies), self.parameters, self.negative)

    @property
    def facets(self) -> dict[str, str]:
        """The facet of each slot."""
        return {slot: column.apart or column.facet for slot, column in self.slots()}

    @property
    def terms(self) -> dict[str, list[str]]:
        """What the examples have in each slot."""
        return {slot: column.said for slot, column in self.slots()}

    @property
    def said(self) -> dict[str, str]:
        """What the first example has in each slot."""
        return {slot: column.texts[0] for slot, column in self.slots() if column.texts[0]}

    def begins(self, column: SlotCandidate, i: int) -> bool:
        """Does example `i` begin a sentence with the text that it has in a column?"""
        span = column.spans[i]
        return (
            span is not None
            and not column.lead
            and (not span[0] or english.ends_sentence(self.bodies[i][: span[0]].rstrip(' "“')))
        )

    def read_as(self, slot: str) -> list[str]:
        """What the examples have in a slot that was read as of its facet, or could be of any; all
        of it in a facet of the formula's own.
        """
        column = dict(self.slots())[slot]
        if column.apart:
            return column.said
        return list(
            dict.fromkeys(
                t
                for t, facet in zip(column.texts, column.own, strict=True)
                if t and facet in (column.facet, LEFT)
            )
        )

    def slots(self) -> list[tuple[str, SlotCandidate]]:
        """The slots by name, each with its column."""
        return [
            (slot, column)
            for slot, column in zip(slot_names(self.columns), self.columns, strict=True)
            if slot
        ]


def learn(
    readings: Sequence[Reading],
    fixed: Sequence[str] = (),
    opened: Sequence[str] = (),
    whole: Sequence[Reading] = (),
) -> Learned:
    """Learn a formula from what was read of examples; `fixed` words stay wherever they stand,
    `opened` ones are no fixed words. `whole` are the readings with what goes with the prose, if
    that was left out of the others.
    """
    denied = {p.words.strip(" .").lower() for reading in readings for p in reading.of(NEGATIVE)}
    shared_by_all = {
        words for words in denied if all(words in reading.text.lower() for reading in readings)
    }
    examples = [_example(reading, shared_by_all) for reading in readings]
    if (
        len(
            {tuple(p.words for p in reading.parts() if p.facet == "speech") for reading in readings}
        )
        > 1
    ):
        examples = [_speech_apart(example, i) for i, example in enumerate(examples)]
    shared = anchors(
        examples,
        {w for text in fixed for w in words_in(text)},
        {w for text in opened for w in words_in(text)},
    )
    columns = _columns(examples, shared)
    parameters, foreign = _beside(whole or readings)
    negative = _shared_negative(whole or readings)
    return Learned(columns, parameters, negative, foreign, [e.text for e in examples])


def learn_one(reading: Reading, whole: Reading) -> Learned:
    """Learn a formula from one prompt: each part that was read becomes a slot, with its words as
    default; what was not read stays as it is.
    """
    example = _example(reading, {p.words.strip(" .").lower() for p in reading.of(NEGATIVE)})
    columns: list[SlotCandidate] = []
    at = 0
    for piece in example.pieces:
        columns += _between(example.text, at, piece.start)
        at = piece.stop
        if piece.facet == LEFT:
            columns.append(SlotCandidate("", [(piece.start, piece.stop)], [piece.text]))
        else:
            lead = LEADS.match(piece.text)
            start = piece.start + (lead.end() if lead and not piece.term else 0)
            column = _column([example], [_Cell(piece.facet, start, piece.stop, piece.term)])
            said = lowered(lead.group().strip()) if lead and start > piece.start else ""
            columns.append(column._replace(lead=said, spans=[(piece.start, piece.stop)]))
    columns += _between(example.text, at, len(example.text))
    parameters, foreign = _beside([whole])
    return Learned(
        _seamed([example], columns), parameters, _shared_negative([whole]), foreign, [example.text]
    )


def _between(text: str, start: int, stop: int) -> list[SlotCandidate]:
    """Words between parts that say more than a seam does, as fixed words: "She says:"."""
    words = [m for m in TOKEN.finditer(text, start, stop)]
    while words and words[0].group() in SIGNS:
        words.pop(0)
    while words and words[-1].group() in SIGNS - {":"}:
        words.pop()
    if all(norm(m.group()) in IDLE for m in words):
        return []
    a, b = words[0].start(), words[-1].end()
    return [SlotCandidate("", [(a, b)], [text[a:b]])]


SIGNS = frozenset(',.;:!?"“”()')


def _example(reading: Reading, denied: Collection[str]) -> ProseExample:
    """The prose of a reading: parameters, addresses and negative text left out, but for denials in
    sentences that stay (`denied`).
    """
    text, pieces = "", []
    for piece in reading.pieces:
        stays = (
            piece.kind == NEGATIVE
            and piece.facet == NEGATIVE
            and piece.words.strip(" .").lower() in denied
        )
        if piece.kind in (PARAMETER, REFERENCE, NEGATIVE) and not stays:
            text = text.rstrip(" ")
            continue
        start = len(text)
        words = piece.text.lstrip() if not text else piece.text
        if piece.kind == "glue":
            words = re.sub(r"\s+", " ", words)
        text += words
        if piece.kind == PART or stays:
            facet = LEFT if stays else piece.facet
            pieces.append(piece._replace(start=start, stop=start + len(words), facet=facet))
    text = text.rstrip(" ,;\n\t\r")
    tokens = [Token(norm(m.group()), m.start(), m.end()) for m in TOKEN.finditer(text)]
    return ProseExample(text, tokens, pieces)


def _speech_apart(example: ProseExample, number: int) -> ProseExample:
    """The example with words in quotation marks that no other has: what is said differs, so none of
    it is a fixed word.
    """
    spoken = [(p.start, p.stop) for p in example.pieces if p.facet == "speech"]
    tokens = [
        (
            token._replace(word=f"{token.word}\0{number}")
            if any(a <= token.start < b for a, b in spoken)
            else token
        )
        for token in example.tokens
    ]
    return example._replace(tokens=tokens)


# Columns.


def _columns(examples: list[ProseExample], runs: list[SharedRun]) -> list[SlotCandidate]:
    runs = [run for run in runs if all(0 <= a < b for a, b in run.spans)]
    found: list[SlotCandidate] = []
    at = [0] * len(examples)
    for run in [*runs, SharedRun([(len(e.tokens), len(e.tokens)) for e in examples])]:
        fields = [_field(e, at[i], run.spans[i][0]) for i, e in enumerate(examples)]
        found += _aligned(examples, fields)
        if run.spans[0][0] < len(examples[0].tokens):
            found.append(_fixed(examples, run))
        at = [b for _, b in run.spans]
    return _seamed(examples, found)


class _Cell(NamedTuple):
    """A part of one example in a column."""

    facet: str
    start: int
    stop: int
    term: Term | None = None


def _field(example: ProseExample, first: int, stop: int) -> list[_Cell]:
    """The parts of an example between two of its tokens."""
    if first >= stop:
        return []
    low, high = example.tokens[first].start, example.tokens[stop - 1].stop
    found = []
    for piece in example.pieces:
        a, b = max(low, piece.start), min(high, piece.stop)
        inside = [t for t in example.tokens[first:stop] if a <= t.start and t.stop <= b]
        if inside and any(t.word not in IDLE for t in inside):
            if (
                found
                and found[-1][0] == piece.facet
                and not re.search(r"[,;.]", example.text[found[-1][2] : inside[0].start])
            ):
                found[-1] = _Cell(piece.facet, found[-1].start, inside[-1].stop)
            else:
                found.append(_Cell(piece.facet, inside[0].start, inside[-1].stop, piece.term))
    if not found:
        inside = [t for t in example.tokens[first:stop]]
        while inside and not re.match(r"\w", inside[0].word):
            inside.pop(0)
        while inside and not re.match(r"\w", inside[-1].word):
            inside.pop()
        if inside:
            return [_Cell(LEFT, inside[0].start, inside[-1].stop)]
    return found


def _aligned(examples: list[ProseExample], fields: list[list[_Cell]]) -> list[SlotCandidate]:
    """The parts of a field in columns: stretches between commas first, in their order where every
    example has as many, else by what they are; and within a stretch the parts that the reader cut.
    """
    if not any(fields):
        return []
    chunked = [_chunks(example, field) for example, field in zip(examples, fields, strict=True)]
    if len({len(chunks) for chunks in chunked}) == 1:
        rows = [list(row) for row in zip(*chunked, strict=True)]
    else:
        rows = [
            [chunk or [] for chunk in row]
            for row in _by_facet(chunked, [[c[0].facet for c in chunks] for chunks in chunked])
        ]
    return [column for row in rows for column in _within_chunk(examples, row)]


def _chunks(example: ProseExample, field: list[_Cell]) -> list[list[_Cell]]:
    """The parts of a field, those of one stretch without a comma together."""
    found: list[list[_Cell]] = []
    for cell in field:
        if found and not re.search(r"[,;.:!?]", example.text[found[-1][-1].stop : cell.start]):
            found[-1].append(cell)
        else:
            found.append([cell])
    return found


def _by_facet(rows: list[list], facets: list[list[str]]) -> list[list]:
    """What is in rows, in columns by facet; None if a row has none."""
    order: list[str] = []
    for row in sorted(facets, key=len, reverse=True):
        order = _merged(order, row)
    places = [dict(pairs(order, row, set())) for row in facets]
    return [
        [row[place[k]] if k in place else None for row, place in zip(rows, places, strict=True)]
        for k in range(len(order))
    ]


def _within_chunk(examples: list[ProseExample], fields: list[list[_Cell]]) -> list[SlotCandidate]:
    """The parts of one stretch in columns: as most examples are cut; else by facet if that makes
    few; else the stretch whole.
    """
    fields = _cut_alike(examples, fields)
    there = [tuple(cell.facet for cell in field) for field in fields if field]
    if not there:
        return []
    usual, count = Counter(there).most_common(1)[0]
    by_facet = _by_facet(fields, [[cell.facet for cell in field] for field in fields])
    first, agree = Counter(facets[0] for facets in there).most_common(1)[0]
    if (
        len(usual) > 1 and len(set(map(len, there))) == 1
    ):  # each says as much: in their order, whatever the reader calls it
        cells = [[field[k] if field else None for field in fields] for k in range(len(usual))]
    elif count * 2 > len(there):  # the others hold as much, and are cut by the formula
        cells = [
            [field[k] if _starts(field, usual[: k + 1]) else None for field in fields]
            for k in range(len(usual))
        ]
        if len(usual) == 1:
            cells = [[_whole(field) for field in fields]]
    elif (
        agree * 2 > len(there)
        and len(by_facet) <= 3
        and by_facet[0][0] is not None
        and by_facet[0][0].facet == first
    ):
        cells = by_facet
    else:
        cells = [[_whole(field) for field in fields]]
    return [_column(examples, column) for column in cells if any(column)]


def _cut_alike(examples: list[ProseExample], fields: list[list[_Cell]]) -> list[list[_Cell]]:
    """Where half of the examples or more have two parts, of which the second begins with a
    preposition, those that were read as one are cut at such a preposition, too: "poppies in a jug"
    as "a tulip" + "in a bottle". All of them, or none.
    """
    pairs_ = [
        (example, field) for example, field in zip(examples, fields, strict=True) if len(field) == 2
    ]
    leads = {
        example.text[field[1].start : field[1].stop].split(" ")[0].lower()
        for example, field in pairs_
    }
    if (
        len(pairs_) * 2 < len(fields)
        or not leads <= PREPOSITIONS
        or {len(field) for field in fields} != {1, 2}
    ):
        return fields
    at = re.compile(rf"(?<=\w)\s+(?=(?:{'|'.join(map(re.escape, leads))})\s)", re.I)
    found = []
    for example, field in zip(examples, fields, strict=True):
        if len(field) == 1:
            cell = field[0]
            seam = at.search(example.text, cell.start, cell.stop)
            if not seam:
                return fields
            field = [
                _Cell(cell.facet, cell.start, seam.start()),
                _Cell(pairs_[0][1][1].facet, seam.end(), cell.stop),
            ]
        found.append(field)
    return found


def _starts(field: list[_Cell], facets: tuple[str, ...]) -> bool:
    return tuple(cell.facet for cell in field[: len(facets)]) == facets


def _whole(field: list[_Cell]) -> _Cell | None:
    if not field:
        return None
    return _Cell(
        field[0].facet, field[0].start, field[-1].stop, field[0].term if len(field) == 1 else None
    )


def _merged(order: list[str], facets: list[str]) -> list[str]:
    """Two orders of facets as one that holds both."""
    both, out, i, j = pairs(order, facets, set()), [], 0, 0
    for a, b in [*both, (len(order), len(facets))]:
        out += order[i:a] + facets[j:b]
        if a < len(order):
            out.append(order[a])
        i, j = a + 1, b + 1
    return out


def _column(examples: list[ProseExample], cells: Sequence[_Cell | None]) -> SlotCandidate:
    own = [(cell.term.facet if cell.term else cell.facet) if cell else None for cell in cells]
    facet, count = Counter(filter(None, own)).most_common(1)[0]
    if count * 2 < sum(map(bool, own)):
        facet = LEFT  # of several kinds: whatever is written there
    texts = [
        examples[i].text[cell.start : cell.stop] if cell else None for i, cell in enumerate(cells)
    ]
    said = [text for text in texts if text]
    named = sum(
        bool(cell and cell.term and text and _names(cell.term, text))
        for cell, text in zip(cells, texts, strict=True)
    )
    lead, tail = ("", "") if named * 2 > len(said) else _edges(said, facet)
    kept = [None if text is None else _within(text, lead, tail) for text in texts]
    cells_of_terms = [
        (cell.term, text)
        for cell, text in zip(cells, texts, strict=True)
        if cell and cell.term and text is not None
    ]
    kept, article = _articles(kept)
    with_a = [
        term
        for term, text in cells_of_terms
        if english.split_determiner(text)[0].lower() in ("a", "an")
    ]
    if sum(english.split_determiner(term.phrase)[0] in ("a", "an") for term in with_a) * 2 > len(
        with_a
    ):
        kept, article = (
            [None if text is None else _within(text, lead, tail) for text in texts],
            "",
        )  # the terms bring their own
    form = "" if lead else _form(facet, cells_of_terms, [text for text in kept if text])
    if form == "clause":
        article = ""
    return SlotCandidate(
        facet,
        [(cell.start, cell.stop) if cell else None for cell in cells],
        kept,
        lead,
        tail,
        article,
        form,
        own=own,
    )


def _form(facet: str, terms: list[tuple[Term, str]], texts: list[str]) -> str:
    """In which form most texts of a column stand: as a place, as a clause, or shorter than their
    term is written.
    """
    ways = {
        "place": sum(
            bool(term.place) and normal(term.place) == normal(text) for term, text in terms
        ),
        "clause": sum(
            bool(term.clause) and normal(term.clause) == normal(text) for term, text in terms
        ),
        "short": sum(
            bool(term.phrase) and _bare(text) == normal(term.term) != normal(term.phrase)
            for term, text in terms
        ),
    }
    way = max(ways, key=lambda one: ways[one])
    if ways[way] * 2 > len(texts):
        return way
    return "place" if facet in _FORMS and sum(_led(text) for text in texts) * 2 > len(texts) else ""


def _bare(text: str) -> str:
    return normal(english.split_determiner(text)[1])


def _names(term: Term, text: str) -> bool:
    """Is the whole text, an article apart, one of the ways in which a term is written?"""
    bare = normal(english.split_determiner(text)[1])
    return normal(text) == normal(term.place) or bare in {
        normal(english.split_determiner(way)[1])
        for way in (term.term, term.phrase, term.clause)
        if way
    }


def _led(text: str) -> bool:
    return english.starts_with_preposition(text[0].lower() + text[1:])


def _within(text: str, lead: str, tail: str) -> str:
    words = text.split(" ")
    return " ".join(words[len(lead.split()) : len(words) - len(tail.split())])


def _edges(texts: list[str], facet: str) -> tuple[str, str]:
    """The words that all texts of a column begin with, and end on: fixed words. A single example
    tells nothing of them.
    """
    if len(texts) < 2 or len({t.lower() for t in texts}) < 2:
        return "", ""
    split = [text.split(" ") for text in texts]
    least = min(map(len, split)) - 1
    front = 0
    while front < least and len({norm(words[front]) for words in split}) == 1:
        front += 1
    if front and norm(split[0][front - 1]) in ("a", "the"):
        front -= 1
    back = 0
    while back < least - front and len({words[-1 - back].lower() for words in split}) == 1:
        back += 1
    if facet in _FORMS and front == 1 and split[0][0].lower() in PREPOSITIONS:
        front = 0  # the preposition is the place's own
    lead = " ".join(split[0][:front])
    return lowered(lead), " ".join(split[0][len(split[0]) - back :])


def _articles(texts: list[str | None]) -> tuple[list[str | None], str]:
    determiners = [english.split_determiner(text)[0].lower() for text in texts if text]
    if any(d in ("a", "an") for d in determiners):
        return [
            (
                english.split_determiner(t)[1]
                if t and english.split_determiner(t)[0].lower() in ("a", "an")
                else t
            )
            for t in texts
        ], "a"
    return texts, ""


def _seamed(examples: list[ProseExample], columns: list[SlotCandidate]) -> list[SlotCandidate]:
    """The columns with what is between them, as most examples have it: a comma, a space, a
    sentence's end, and joining words.
    """
    at = [0] * len(examples)
    last: list[int | None] = [None] * len(examples)
    ends: list[Counter[str]] = [Counter() for _ in columns]
    seams: list[Counter[str]] = [Counter() for _ in columns]
    for k, column in enumerate(columns):
        for i, (example, span) in enumerate(zip(examples, column.spans, strict=True)):
            if span is None:
                continue
            between = example.text[at[i] : span[0]]
            mark = re.search(r"[,;:.!?]", between)
            link = " ".join(
                re.findall(r"\b(?:of|and|for|with|from|to|in|at|on|by|as|the)\b", between.lower())
            )
            if (ended := last[i]) is not None:
                ends[ended][mark[0] if mark and mark[0] in ".;!?:" else ""] += 1
            stopped = last[i] is not None and english.ends_sentence(
                example.text[: at[i]].rstrip(' "”')
            )
            seams[k][
                (" " if not mark and not stopped and last[i] is not None else ", ") + link
            ] += 1
            at[i], last[i] = span[1], k
    for i, example in enumerate(examples):
        if (ended := last[i]) is not None:
            behind = example.text[at[i] :].strip(' "”')
            ends[ended][behind[:1] if behind[:1] in tuple(".;!?") else ""] += 1
    out = []
    for column, seam, end in zip(columns, seams, ends, strict=True):
        ending = end.most_common(1)[0][0] if end else ""
        out.append(column._replace(seam=seam.most_common(1)[0][0], ends=ending))
    if out and out[-1].ends == ".":
        out[-1] = out[-1]._replace(ends="")  # the last stop is the model's affair
    return out


def _fixed(examples: list[ProseExample], run: SharedRun) -> SlotCandidate:
    spans = [
        (e.tokens[a].start, e.tokens[b - 1].stop)
        for e, (a, b) in zip(examples, run.spans, strict=True)
    ]
    texts = [e.text[a:b] for e, (a, b) in zip(examples, spans, strict=True)]
    text = Counter(texts).most_common(1)[0][0]
    starts = spans[0][0] == 0 or re.search(r"[.!?][\s\"]*$", examples[0].text[: spans[0][0]])
    text = (
        text[0].lower() + text[1:] if starts and (text[1:2].islower() or text[1:2] == " ") else text
    )
    return SlotCandidate("", spans, [text])


# What goes with the prose.


def _beside(readings: Sequence[Reading]) -> tuple[dict[str, str], list[str]]:
    """Parameters that all share; addresses, parameters that stand twice or differ, as foreign."""
    foreign: list[str] = []
    shared: dict[str, str] | None = None
    for reading in readings:
        here: dict[str, str] = {}
        for piece in reading.of(PARAMETER):
            if piece.name in here:
                foreign.append(f"{piece.text} (a second time)")
            else:
                here[piece.name] = piece.value
        foreign += [piece.text for piece in reading.of(REFERENCE)]
        shared = here if shared is None else {k: v for k, v in shared.items() if here.get(k) == v}
    return shared or {}, list(dict.fromkeys(foreign))


def _shared_negative(readings: Sequence[Reading]) -> list[str]:
    """What most of the examples keep out."""
    counts: Counter[str] = Counter()
    for reading in readings:
        counts.update(
            {part for piece in reading.of(NEGATIVE) for part in kept_out(piece.text.strip(" ."))}
        )
    return [part for part, n in counts.items() if n * 2 > len(readings)]
