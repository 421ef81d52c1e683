"""The forms of a phrase, from the fullest to the shortest, for fitting: terms for phrases, dropped glue, fewer words of free text."""

from collections.abc import Callable, Mapping

from syntagma.core import english
from syntagma.core.drafting.draft import DraftPhrase, Glue, Noun, PairMark, lay_out, without_hanging
from syntagma.core.drafting.fills import Fill, free_item
from syntagma.core.fitting.limits import LEAST_WORDS, Forms
from syntagma.core.formula.tree import Group

_LEADS = frozenset("and or but that which who whose where while as when until so".split())

Finish = Callable[[DraftPhrase], DraftPhrase]


def forms_of(register, plan, fills: Mapping[str, Fill | None], finish: Finish, bare: bool) -> Forms | None:
    """The forms of a phrase with these fills; None if it is blank. `finish` is what happens to a draft before it is
    written; `bare`: the phrase reads without its glue too."""
    laid = lay_out(plan, fills)
    full = register.line(finish(laid)) if laid else None
    if full is None:
        return None
    lines = [full]
    if plan.mark != "!" and plan.slots:
        drafts = [lay_out(plan, {slot: fill and _in_terms(fill) for slot, fill in fills.items()})]
        drafts += [_bare(drafts[0])] if bare and drafts[0] else []
        for draft in drafts:
            line = register.line(finish(draft)) if draft else None
            if line is not None and line.text and len(line.text) < len(lines[-1].text):
                lines.append(line)
    slot = _longest_free(laid, fills) if plan.mark != "!" else ""
    if not slot:
        return Forms(lines)
    words = fills[slot].items[0].words.split()
    cuts = [n for n in range(LEAST_WORDS, len(words)) if may_end(words, n)]

    def cut(at: int):
        kept = without_hanging(" ".join(words[: cuts[at]])) or words[0]
        draft = lay_out(plan, {**fills, slot: _with_words(fills[slot], kept)})
        return register.line(finish(draft)), " ".join(words[len(kept.split()) :])

    return Forms(lines, len(cuts), cut)


def may_end(words: list[str], number: int) -> bool:
    """May a text end behind so many of its words? Where a new thought begins, so no adjective is left without its noun."""
    following = words[number].lower()
    return (
        words[number - 1].endswith((",", ";", ".", ":"))
        or following in _LEADS
        or following.endswith("ing")
        or english.starts_with_preposition(following + " x")
    )


def _in_terms(fill: Fill) -> Fill:
    """The fill with every term as it is named, not as it reads in a sentence."""
    if not any(item.term and item.words != item.tag for item in fill.items):
        return fill
    return Fill(fill.given, tuple(i._replace(words=i.tag) if i.term else i for i in fill.items), fill.count)


def _bare(laid: DraftPhrase) -> DraftPhrase | None:
    """A phrase with one noun group as that group alone: no glue, no article, no sentence form. None if it has more, or
    if something is quoted."""
    nouns = [part for part in laid.parts if isinstance(part, Noun)]
    if len(nouns) != 1 or any(isinstance(part, PairMark) for part in laid.parts) or laid.plan.joined:
        return None
    group = nouns[0].group
    if group.form not in ("place", "clause") and not any(isinstance(part, Glue) for part in laid.parts):
        return None  # nothing would go but the article
    words = tuple(word for word in group.words if word.kind not in ("article", "as", "form"))
    return laid._replace(parts=(Noun(Group(words, group.span), nouns[0].fills),))


def _longest_free(laid: DraftPhrase, fills: Mapping[str, Fill | None]) -> str:
    """The slot of a phrase with the longest free text that can lose words; "" if none can. What is spoken loses none."""
    if any(isinstance(part, PairMark) for part in laid.parts):
        return ""
    heads = [part.group.head for part in laid.parts if isinstance(part, Noun)]
    free = [slot for slot in heads if _free_words(fills[slot]) > LEAST_WORDS]
    return max(free, key=lambda slot: _free_words(fills[slot]), default="")


def _free_words(fill: Fill | None) -> int:
    return len(fill.items[0].words.split()) if fill and len(fill.items) == 1 and fill.items[0].term is None else 0


def _with_words(fill: Fill, words: str) -> Fill:
    return Fill(fill.given, (free_item(words),))
