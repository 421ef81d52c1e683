"""A wish in the words of the person: cleaned, its kind in front, and nothing in it that was not
said.
"""

import re
from collections.abc import Sequence
from typing import NamedTuple

from syntagma.app.asked import Ask
from syntagma.app.composing.beside import (
    SaidSetting,
    beside,
    cleaned_off,
    no_weights,
    not_whole,
    own_settings,
)
from syntagma.app.composing.composer import Composed, Composer
from syntagma.app.reading import (
    LONGEST_WISH,
    cleaner,
    frames,
    kinds,
    manageable,
    own_words,
    reader_of,
)
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import WARNING, Finding
from syntagma.core.editing.cleaning import Cleaned
from syntagma.core.editing.leading import (
    DESIGNED,
    DRAWN,
    MEDIA,
    MOVING,
    PHOTOGRAPHED,
    PictureKind,
    led,
    ordered,
    tags,
)
from syntagma.core.formula import Formula
from syntagma.core.formula.building import fixed, formula, phrase
from syntagma.core.formula.tree import Phrase
from syntagma.core.models.parameters import common_name, own_name
from syntagma.core.reading.formula_rewriting import own_formula
from syntagma.core.reading.outer_form import LABELLED, NESTED, PROSE, TAGS, TIMED, outside
from syntagma.core.reading.prompt_pieces import NEGATIVE, PARAMETER, Reading
from syntagma.core.reading.reader import Reader

# ──── A wish in the words of the person: cleaned, its kind in front, and nothing in it that was not
# said.


NAME = "wish"
MOST_SENTENCES = 4  # sentences from which on a wish may be a story
OPEN = {
    PHOTOGRAPHED: "photograph",
    DRAWN: "picture",
    MOVING: "clip",
    DESIGNED: "picture",
}  # formulas that say nothing of their own
SURE = 0.8  # how sure it has to be that something is to move before a model of stills is warned of


class Wished(NamedTuple):
    """A wish made a formula: what was taken off it, its text, and the formula that writes it."""

    cleaned: Cleaned
    text: str
    formula: Formula
    fills: dict[str, str]
    kinds: Sequence[
        PictureKind
    ] = ()  # the kinds of picture that it may ask for, the likeliest first
    broken: str = ""  # where JSON could not be read on
    moved: bool = True  # False: nothing of it could be put first, as was asked for

    @property
    def kind(self) -> str:
        return self.kinds[0].name if self.kinds else ""


def is_one_picture(wish: str) -> bool:
    """Is a wish typed for one picture: a few sentences on one line, or parts under labels, and no
    file, page or story?
    """
    if "\n" in wish.strip() and outside(wish, ()).form in (LABELLED, NESTED, TIMED):
        return True
    return (
        wish != "-"
        and "\n" not in wish.strip()
        and not re.fullmatch(r"\S+\.(?:txt|md)", wish)
        and len(re.findall(r"[.!?](?= \S)", wish)) < MOST_SENTENCES
    )


def formulas_named(workspace: Workspace, wish: str) -> list[str]:
    """The formulas whose whole name stands in a wish: "a sticker of a sleepy otter"."""
    said = re.sub(r"[^a-z]+", " ", f" {wish.lower()} ")
    return [
        name
        for name in workspace.formulas()
        if name != "photograph" and re.search(rf" {name.replace('-', ' ')}s? ", said)
    ]


def formula_for(workspace: Workspace, wish: str) -> str:
    """The formula that a wish names, else the open one for its kind of picture."""
    if named := formulas_named(workspace, wish):
        return named[0]
    return OPEN[kinds(wish, reader_of(workspace).read(wish))[0].name]


def read_wish(
    workspace: Workspace,
    wish: str,
    register: str,
    model: str | None = None,
    first: Sequence[str] = (),
) -> Wished:
    """A wish as a formula of its own words: for prose one text, for another register a phrase for
    each of its parts; parameters in the writing of `model` are taken off; what it says of the
    facets `first` comes first. Raises Trouble.
    """
    manageable(wish, "for one wish", LONGEST_WISH)
    reader = reader_of(workspace, model)
    if outside(wish, reader.profiles).form not in (PROSE, TAGS):
        return _laid_out(reader, wish, register)
    cleaned = cleaner().clean(wish, reader.profiles)
    reading: Reading = reader.read(cleaned.text)
    text = (
        ordered(cleaned.text, reading, first)
        if first
        else led(cleaned.text, reading, own_words(), cleaned.made)
    )
    moved = text != cleaned.text or not first
    text = text[:1].upper() + text[1:]
    if register in ("", "prose"):
        made, fills = formula(NAME, [_own(NAME, text, "!")], {}), {}
    elif register == "tags":
        said = [
            (f"{facet or 'words'}-{n}", words)
            for n, (words, facet) in enumerate(tags(text, reader.read(text)), 1)
        ]
        stress = {
            label: weight
            for weighted, weight in cleaned.weights.items()
            for label, words in said
            if weighted.lower() in words.lower()
        }
        made, fills = (
            formula(
                NAME,
                [
                    _own(label, words, "!" if n == 0 else "")
                    for n, (label, words) in enumerate(said)
                ],
                {},
                stress,
            ),
            {},
        )
    else:
        made, fills = own_formula(reading, (), register == "timed", reader.knowledge.preposition)
    return Wished(
        cleaned,
        text,
        _keeping_out(made, cleaned.negative),
        fills,
        kinds(wish, reading),
        moved=moved,
    )


def _laid_out(reader: Reader, wish: str, register: str) -> Wished:
    """A wish under labels, with times or as JSON: its parts, without what lays them out."""
    reading = reader.read(wish)
    made, fills = own_formula(reading, (), register == "timed", reader.knowledge.preposition)
    negative = tuple(piece.text.strip(" .") for piece in reading.of(NEGATIVE))
    cleaned = Cleaned(
        wish, negative, {common_name(piece.name): piece.value for piece in reading.of(PARAMETER)}
    )
    return Wished(
        cleaned, wish, _keeping_out(made, negative), fills, kinds(wish, reading), reading.broken
    )


def _keeping_out(made: Formula, negative: Sequence[str]) -> Formula:
    """The formula of a wish, with a line for what it keeps out."""
    lines = (*made.lines, phrase("-", [fixed(", ".join(negative))])) if negative else made.lines
    return made._replace(name=NAME, lines=lines)


def _own(label: str, words: str, mark: str) -> Phrase:
    """A phrase of a person's own words, which wait for no other: "rainy window behind"."""
    return phrase(label, [fixed(words)], mark)._replace(ending=",")


def compose_wish(workspace: Workspace, wish: str, ask: Ask, first: Sequence[str] = ()) -> Composed:
    """Compose a wish in its own words, what it says of the facets `first` in front. Raises Trouble,
    Refused, BadFills or TooLong.
    """
    profile = workspace.model(ask.model)
    found = read_wish(workspace, wish, profile.register, ask.model, first)
    said = [SaidSetting(name, value) for name, value in found.cleaned.parameters.items()]
    several = found.cleaned.pictures > 1
    if several and own_name(profile, "pictures"):
        said, several = [*said, SaidSetting("pictures", found.cleaned.pictures)], False
    values, left = own_settings(profile, said)
    media = MEDIA.get(found.kind, "") if found.kinds[0].sure >= SURE else ""
    head = found.formula.head._replace(parameters=values, media=media)
    composed = Composer(
        workspace, ask._replace(formula=NAME), formula=found.formula._replace(head=head)
    ).compose(found.fills)
    composed = composed._replace(kind=MOVING if profile.makes == MEDIA[MOVING] else found.kind)
    composed.findings.extend(left)
    composed.findings.extend(no_weights(profile, found.cleaned.weights))
    composed.findings.extend(cleaned_off(found.cleaned))
    composed.findings.extend(
        beside(profile, composed.prompt, said, found.cleaned.negative, composed.findings)
    )
    if several:
        composed.findings.append(
            Finding(
                WARNING,
                f"{found.cleaned.pictures} pictures are asked for, but this is the prompt for one",
                "send it that often",
                "wish",
                code="several-pictures",
            )
        )
    if frames().only_asks(wish):
        composed.findings.append(
            Finding(
                WARNING,
                f"“{wish.strip()}” does not say what to show",
                'describe what to show: syntagma "a fox in the snow"',
                "wish",
                code="nothing-asked-for",
            )
        )
    if not found.moved:
        composed.findings.append(
            Finding(
                WARNING,
                f"no complete item or sentence is clearly {' or '.join(first)}, so nothing was"
                " moved",
                "`syntagma read` shows what Syntagma finds and where",
                "order",
                code="nothing-moved",
            )
        )
    if found.broken:
        composed.findings.append(not_whole(found.broken))
    return composed
