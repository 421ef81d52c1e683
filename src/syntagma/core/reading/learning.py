"""A formula out of examples: the words that all of them share stay fixed, what differs becomes slots.

First the fixed words: what all examples have in the same order (longest common subsequence, word by word, content words counting more;
D. S. Hirschberg, Algorithms for the longest common subsequence problem, JACM 24 (1977), gives the measure). Between them the reader's
parts are laid into columns by facet; words that lead every text of a column, or end it, are fixed again.
"""

import re
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.words import PREPOSITIONS
from syntagma.core.reading.recasting import LEADS
from syntagma.core.reading.reader import NEGATIVE, PARAMETER, PART, REFERENCE, Piece, Reading
from syntagma.core.vocabulary import Term, normal

LEAST = 4  # examples that a formula is learned from
_TOKEN = re.compile(r"[^\W_](?:[\w'’/.-]*\w)?|[^\w\s]")
_IDLE = frozenset("a an the of and or in on at with by to for from , . ; : ! ? \" ( )".split())
_STOPS = ".;!?"
_FORMS = frozenset("setting weather hour".split())


class Token(NamedTuple):
    """A word or a mark: as it is compared, and where it stands."""

    word: str
    start: int
    stop: int


class Example(NamedTuple):
    """The prose of one example, without what stands beside it."""

    text: str
    tokens: list[Token]
    pieces: list[Piece]


class Column(NamedTuple):
    """What becomes a slot (or, without a facet, fixed words): where it stands in each example, or None where it has none, and its text
    there. `lead` and `tail` are words that all share; `seam`: how it follows what stands before it; `ends`: the mark behind it."""

    facet: str
    spans: Sequence[tuple[int, int] | None]
    texts: list[str | None]
    lead: str = ""
    tail: str = ""
    article: str = ""
    form: str = ""
    seam: str = ", "
    ends: str = ""


class Learned(NamedTuple):
    """A formula's text, the facets of its slots, the terms that the examples have in them, what stands beside the prose in all of them,
    and what was taken out as foreign."""

    formula: str
    facets: dict[str, str]
    terms: dict[str, list[str]]
    parameters: dict[str, str]
    negative: list[str]
    foreign: list[str]
    bodies: list[str]


def learn(readings: Sequence[Reading], name: str, fixed: Sequence[str] = (), opened: Sequence[str] = ()) -> Learned:
    """Learn a formula from what was read of examples; `fixed` words stay wherever they stand, `opened` ones are no fixed words."""
    examples = [_example(reading) for reading in readings]
    shared = _anchors(examples, {w for text in fixed for w in _words(text)}, {w for text in opened for w in _words(text)})
    columns = _columns(examples, shared)
    parameters, foreign = _beside(readings)
    negative = _shared_negative(readings)
    formula, facets, terms = _written(columns, name, len(examples), parameters, negative)
    return Learned(formula, facets, terms, parameters, negative, foreign, [e.text for e in examples])


def _example(reading: Reading) -> Example:
    """The prose of a reading: parameters, addresses and negative text left out."""
    text, pieces = "", []
    for piece in reading.pieces:
        if piece.kind in (PARAMETER, REFERENCE, NEGATIVE):
            text = text.rstrip(" ")
            continue
        start = len(text)
        words = piece.text.lstrip() if not text else piece.text
        if piece.kind == "glue":
            words = re.sub(r"\s+", " ", words)
        text += words
        if piece.kind == PART:
            pieces.append(piece._replace(start=start, stop=start + len(words)))
    text = text.rstrip()
    tokens = [Token(_norm(m.group()), m.start(), m.end()) for m in _TOKEN.finditer(text)]
    return Example(text, tokens, pieces)


def _norm(word: str) -> str:
    small = word.lower()
    return "a" if small == "an" else small


def _words(text: str) -> list[str]:
    return [_norm(m.group()) for m in _TOKEN.finditer(text)]


# What all examples share.


class _Run(NamedTuple):
    """Fixed words: the tokens from and to, in each example."""

    spans: list[tuple[int, int]]


def _anchors(examples: list[Example], fixed: set[str], opened: set[str]) -> list[_Run]:
    core = [t.word for t in examples[0].tokens]
    for example in examples[1:]:
        core = _common(core, [t.word for t in example.tokens], fixed)
    core = [word for word in core if word not in opened or word in _IDLE]
    places = [_placed(core, [t.word for t in example.tokens], fixed) for example in examples]
    runs: list[_Run] = []
    at = 0
    while at < len(core):
        stop = at + 1
        while stop < len(core) and all(p[stop] == p[stop - 1] + 1 for p in places):
            stop += 1
        words = core[at:stop]
        content = [w for w in words if w not in _IDLE]
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
            while last - 1 > first and (core[last - 1] == "a" or not re.match(r"\w", core[last - 1])):
                last -= 1  # the article belongs to what follows it, the marks to the seams
            if first < last and any(w not in _IDLE or w in PREPOSITIONS for w in core[first:last]):
                runs.append(_Run([(p[first], p[last - 1] + 1) for p in places]))
        at = max(stop, at + 1)
    return runs


def _in_name(examples: list[Example], places: Sequence[int], before: bool) -> bool:
    """Does a shared word belong, in most examples, to the name of a term that has other words too, `before` it or behind it?"""
    inside = 0
    for example, place in zip(examples, places, strict=True):
        token = example.tokens[place]
        for piece in example.pieces:
            if piece.term and piece.start <= token.start and token.stop <= piece.stop:
                start = piece.start + _led_by(piece.text)
                inside += start < token.start if before else (start <= token.start and token.stop < piece.stop)
    return inside * 2 > len(examples)


def _led_by(text: str) -> int:
    """How many letters of a part lead to its name: "lit by a"."""
    lead = LEADS.match(text)
    at = lead.end() if lead else 0
    determiner, rest = english.split_determiner(text[at:])
    return at + len(text[at:]) - len(rest) if determiner else at


def _weight(word: str, fixed: set[str]) -> float:
    return 8.0 if word in fixed else 0.4 if word in _IDLE else 3.0


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
    return [a[i] for i, _ in _pairs(a, b, fixed)]


def _placed(core: list[str], words: list[str], fixed: set[str]) -> list[int]:
    """Where the core's words stand in an example."""
    places = dict(_pairs(core, words, fixed))
    return [places.get(i, -1 - 2 * i) for i in range(len(core))]


def _pairs(a: list[str], b: list[str], fixed: set[str]) -> list[tuple[int, int]]:
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


# Columns.


def _columns(examples: list[Example], runs: list[_Run]) -> list[Column]:
    runs = [run for run in runs if all(0 <= a < b for a, b in run.spans)]
    found: list[Column] = []
    at = [0] * len(examples)
    for run in [*runs, _Run([(len(e.tokens), len(e.tokens)) for e in examples])]:
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


def _field(example: Example, first: int, stop: int) -> list[_Cell]:
    """The parts of an example between two of its tokens."""
    if first >= stop:
        return []
    low, high = example.tokens[first].start, example.tokens[stop - 1].stop
    found = []
    for piece in example.pieces:
        a, b = max(low, piece.start), min(high, piece.stop)
        inside = [t for t in example.tokens[first:stop] if a <= t.start and t.stop <= b]
        if inside and any(t.word not in _IDLE for t in inside):
            if found and found[-1][0] == piece.facet and not re.search(r"[,;.]", example.text[found[-1][2] : inside[0].start]):
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
            return [_Cell("detail", inside[0].start, inside[-1].stop)]
    return found


def _aligned(examples: list[Example], fields: list[list[_Cell]]) -> list[Column]:
    """The parts of a field in columns by facet; where every example has as many, in their order."""
    if not any(fields):
        return []
    numbers = {len(field) for field in fields}
    chunks = {_chunks(e, f) for e, f in zip(examples, fields, strict=True) if f}
    if len(numbers) == 1:
        cells = [[field[k] for field in fields] for k in range(len(fields[0]))]
    elif chunks == {1} and all(fields):  # one stretch without a comma, which the reader cut here and not there
        cells = [[_Cell(field[0].facet, field[0].start, field[-1].stop, field[0].term if len(field) == 1 else None) for field in fields]]
    else:
        order: list[str] = []
        for field in sorted(fields, key=len, reverse=True):
            order = _merged(order, [cell.facet for cell in field])
        cells = []
        places = [dict(_pairs(order, [cell.facet for cell in field], set())) for field in fields]
        for k in range(len(order)):
            cells.append([field[places[i][k]] if k in places[i] else None for i, field in enumerate(fields)])
    return [_column(examples, column) for column in cells if any(column)]


def _chunks(example: Example, field: list[_Cell]) -> int:
    return 1 + len(re.findall(r"[,;.]\s", example.text[field[0].start : field[-1].stop]))


def _merged(order: list[str], facets: list[str]) -> list[str]:
    """Two orders of facets as one that holds both."""
    pairs, out, i, j = _pairs(order, facets, set()), [], 0, 0
    for a, b in [*pairs, (len(order), len(facets))]:
        out += order[i:a] + facets[j:b]
        if a < len(order):
            out.append(order[a])
        i, j = a + 1, b + 1
    return out


def _column(examples: list[Example], cells: Sequence[_Cell | None]) -> Column:
    facet = Counter(cell.term.facet if cell.term else cell.facet for cell in cells if cell).most_common(1)[0][0]
    texts = [examples[i].text[cell.start : cell.stop] if cell else None for i, cell in enumerate(cells)]
    said = [text for text in texts if text]
    named = sum(bool(cell and cell.term and _names(cell.term, text)) for cell, text in zip(cells, texts, strict=True))
    lead, tail = ("", "") if named * 2 > len(said) else _edges(said, facet)
    kept = [None if text is None else _within(text, lead, tail) for text in texts]
    kept, article = _articles(kept)
    placed = sum(bool(cell and cell.term and cell.term.place and normal(cell.term.place) == normal(text)) for cell, text in zip(cells, texts, strict=True))
    form = "place" if not lead and (placed * 2 > len(said) or (facet in _FORMS and sum(_led(t) for t in kept if t) * 2 > len(said))) else ""
    if facet == "camera-move" and all(re.match(r"the (?:camera|lens|frame|view)\b", t or "the camera", re.I) for t in kept):
        form = "clause"
    return Column(facet, [(cell.start, cell.stop) if cell else None for cell in cells], kept, lead, tail, article, form)


def _names(term: Term, text: str) -> bool:
    """Is the whole text, an article apart, one of the ways in which a term is written?"""
    bare = normal(english.split_determiner(text)[1])
    return normal(text) == normal(term.place) or bare in {normal(english.split_determiner(way)[1]) for way in (term.term, term.phrase, term.clause) if way}


def _led(text: str) -> bool:
    return english.starts_with_preposition(text[0].lower() + text[1:])


def _within(text: str, lead: str, tail: str) -> str:
    words = text.split(" ")
    return " ".join(words[len(lead.split()) : len(words) - len(tail.split())])


def _edges(texts: list[str], facet: str) -> tuple[str, str]:
    """The words that all texts of a column begin with, and end on: fixed words. A single example tells nothing of them."""
    if len(texts) < 2 or len({t.lower() for t in texts}) < 2:
        return "", ""
    split = [text.split(" ") for text in texts]
    least = min(map(len, split)) - 1
    front = 0
    while front < least and len({_norm(words[front]) for words in split}) == 1:
        front += 1
    if front and _norm(split[0][front - 1]) in ("a", "the"):
        front -= 1
    back = 0
    while back < least - front and len({words[-1 - back].lower() for words in split}) == 1:
        back += 1
    if facet in _FORMS and front == 1 and split[0][0].lower() in PREPOSITIONS:
        front = 0  # the preposition is the place's own
    lead = " ".join(split[0][:front])
    return lead[:1].lower() + lead[1:], " ".join(split[0][len(split[0]) - back :])


def _articles(texts: list[str | None]) -> tuple[list[str | None], str]:
    determiners = [english.split_determiner(text)[0].lower() for text in texts if text]
    if any(d in ("a", "an") for d in determiners):
        return [english.split_determiner(t)[1] if t and english.split_determiner(t)[0].lower() in ("a", "an") else t for t in texts], "a"
    return texts, ""


def _seamed(examples: list[Example], columns: list[Column]) -> list[Column]:
    """The columns with what stands between them, as most examples have it: a comma, a space, a sentence's end, and joining words."""
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
            link = " ".join(re.findall(r"\b(?:of|and|for|with|from|to|in|at|on|by|as|the)\b", between.lower()))
            if last[i] is not None:
                ends[last[i]][mark[0] if mark and mark[0] in ".;!?:" else ""] += 1
            seams[k][(" " if not mark and last[i] is not None else ", ") + link] += 1
            at[i], last[i] = span[1], k
    for i, example in enumerate(examples):
        if last[i] is not None:
            behind = example.text[at[i] :].strip(' "”')
            ends[last[i]][behind[:1] if behind[:1] in tuple(".;!?") else ""] += 1
    out = []
    for column, seam, end in zip(columns, seams, ends, strict=True):
        ending = end.most_common(1)[0][0] if end else ""
        out.append(column._replace(seam=seam.most_common(1)[0][0], ends=ending))
    if out and out[-1].ends == ".":
        out[-1] = out[-1]._replace(ends="")  # the last stop is the model's affair
    return out


def _fixed(examples: list[Example], run: _Run) -> Column:
    spans = [(e.tokens[a].start, e.tokens[b - 1].stop) for e, (a, b) in zip(examples, run.spans, strict=True)]
    texts = [e.text[a:b] for e, (a, b) in zip(examples, spans, strict=True)]
    text = Counter(texts).most_common(1)[0][0]
    starts = spans[0][0] == 0 or re.search(r"[.!?][\s\"]*$", examples[0].text[: spans[0][0]])
    text = text[0].lower() + text[1:] if starts and (text[1:2].islower() or text[1:2] == " ") else text
    return Column("", spans, [text])


# The formula's text.


def _written(columns: list[Column], name: str, number: int, parameters: dict[str, str], negative: list[str]) -> tuple[str, dict[str, str], dict[str, list[str]]]:
    lines: list[list[str]] = []  # label, mark, joined, body
    facets: dict[str, str] = {}
    terms: dict[str, list[str]] = {}
    heads: list[str] = []
    counts: Counter[str] = Counter()
    for k, column in enumerate(columns):
        joined = bool(lines) and column.seam.startswith(" ")
        link = column.seam.strip(" ,")
        if not column.facet:
            text = _plain(column.texts[0])
            _add(lines, f"words-{k}" if k else "opening", "!", joined, link, text, column.ends)
            continue
        counts[column.facet] += 1
        slot = column.facet if counts[column.facet] == 1 else f"{column.facet}-{counts[column.facet]}"
        facets[slot] = column.facet
        terms[slot] = list(dict.fromkeys(t for t in column.texts if t))
        needed = all(column.texts)
        heads.append(f"{slot} = {{ facet = {_toml('' if column.facet in ('detail', 'speech') else column.facet)}{', need = true' if needed and counts[column.facet] == 1 and column.facet == 'subject' else ''} }}")
        article = f"{column.article} " if column.article else ""
        tail = f' "{column.tail}"' if column.tail and '"' not in column.tail else ""
        form = f" as {column.form}" if column.form else ""
        quote = '"' if column.facet == "speech" else ""
        body = f"{_plain(column.lead) + ' ' if column.lead else ''}{quote}[{article}{slot}{tail}{form}]{quote}"
        _add(lines, slot, "", joined, link, body, column.ends)
    head = [f"about = {_toml(f'Learned from {number} examples')}", "", "[slots]", *heads]
    if parameters:
        head += ["", "[parameters]", *(f"{_key(n)} = {_toml(v)}" for n, v in parameters.items())]
    body = [f"{label}{mark}  {'~' if join else ''}{text}" for label, mark, join, text in lines]
    body += [f"-  {', '.join(map(_plain, negative))}"] if negative else []
    return "+++\n" + "\n".join(head) + "\n+++\n" + "\n".join(body) + "\n", facets, terms


def _add(lines: list, label: str, mark: str, joined: bool, link: str, body: str, ends: str) -> None:
    """A phrase more; what leans on the one before it (of, with) goes into its line."""
    text = f"{link + ' ' if link else ''}{body}{ends}"
    if joined and lines and lines[-1][3][-1:] not in _STOPS and (link or lines[-1][3].endswith("]") != body.startswith("[") or "[" not in body):
        lines[-1][3] += " " + text
        lines[-1][1] = lines[-1][1] or mark
        return
    lines.append([label, mark, joined and lines[-1][3][-1:] not in _STOPS, text])


def _plain(text: str) -> str:
    return re.sub(r"([\\\[\]{}~])", r"\\\1", text)


def _key(name: str) -> str:
    return name if re.fullmatch(r"[\w-]+", name) else _toml(name)


def _toml(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


# What stands beside the prose.


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
        said = ", ".join(p.text.strip(" .") for p in reading.of(NEGATIVE))
        said = re.sub(r"\b(?:no|without|not|avoid|never)\b\s*:?\s*", "", said, flags=re.I)
        counts.update(dict.fromkeys(part.strip() for part in re.split(r"\s*[,/]\s*|\s+(?:and|or)\s+", said) if part.strip()))
    return [part for part, n in counts.items() if n * 2 > len(readings)]
