"""Noun groups into words: article, count, modifiers, head, quoted words, in the form that the
formula asks for.
"""

from syntagma.core import english
from syntagma.core.drafting.draft import Noun
from syntagma.core.drafting.fills import Item
from syntagma.core.english.adverbials import period, placed
from syntagma.core.realising.text_pieces import TextPiece
from syntagma.core.vocabulary.facets import PLAIN, Traits


def in_prose(noun: Noun) -> list[TextPiece]:
    """A noun group as a sentence has it: "an eerie pilot launch and a car ferry"."""
    group = _Group(noun)
    items = noun.fills[noun.group.head].items
    pieces: list[TextPiece] = []
    for i, (join, item) in enumerate(
        zip(english.listed([item.words for item in items]), items, strict=True)
    ):
        if join:
            pieces.append(TextPiece(join))
        last = i == len(items) - 1
        pieces += group.member(item, with_modifiers=i == 0, last=last)
    return pieces


def in_tags(noun: Noun, traits: Traits = PLAIN) -> list[list[TextPiece]]:
    """A noun group as tags, one per member of its list: no article, no sentence forms, what its
    facet's bare terms lack put behind them.
    """
    group = _Group(noun)
    tags = []
    for i, item in enumerate(noun.fills[noun.group.head].items):
        pieces = group.modifiers() if i == 0 else []
        if group.count:
            pieces = [group.count_piece(), TextPiece(" "), *pieces]
        bare = english.without_stop(item.tag)
        if not (group.after or group.before) and (
            item.term or item.number == "mass" or not traits.stuff
        ):
            bare = traits.completed(bare, item.term.phrase if item.term else "")
        text = group.counted(bare, item)
        tags.append([*pieces, TextPiece(text, noun.group.head, item), *group.behind(item)])
    return tags


def frame(noun: Noun, item: Item, last: bool, modifiers: str) -> tuple[str, str]:
    """What comes before and after the modifiers of one item of a group's head, `modifiers` being
    their text; a clause is alone before them.
    """
    if noun.group.form == "clause" and item.clause:
        return item.clause, ""
    front, core = _Group(noun).framed(item, last, modifiers)
    return front and front + " ", "".join(piece.text for piece in core)


def _led(words: str) -> tuple[str, str]:
    """What leads to the words of a place or a time that has no way of its own, and the words: "in",
    "medieval times".
    """
    return (time[0], time[2]) if (time := period(words)) else (placed(words)[0], words)


class _Group:
    """One noun group while it is written."""

    def __init__(self, noun: Noun):
        self.noun = noun
        self.head = noun.group.head
        self.form = noun.group.form
        words = [w for w in noun.group.words if w.kind in ("slot", "quote")]
        at = max(i for i, w in enumerate(words) if w.kind == "slot")
        self.before = words[:at]
        self.after = " ".join(w.value for w in words[at + 1 :])
        self.count = next(
            (f.count for name, f in noun.fills.items() if name != self.head and f.count), 0
        )
        self.many = self.form == "plural" or self.count > 1

    def member(self, item: Item, with_modifiers: bool, last: bool) -> list[TextPiece]:
        """One item of the head, with all that belongs to it."""
        if self.form == "clause" and item.clause:
            return [TextPiece(item.clause, self.head, item)]
        modifiers = self.modifiers() if with_modifiers else []
        front, core = self.framed(item, last, "".join(p.text for p in modifiers))
        pieces = [*modifiers, *core]
        return [TextPiece(front + " ", self.head, item), *pieces] if front else pieces

    def framed(self, item: Item, last: bool, modifiers: str) -> tuple[str, list[TextPiece]]:
        """What comes before the modifiers (given as text, for their sound) of an item, and what
        comes after them.
        """
        words = item.term.term if self.form == "short" and item.term else item.words
        words = words if last else english.without_stop(words)
        prepositions = ""
        if self.form == "place":
            prepositions, words = english.split_place(item.place) if item.place else _led(words)
        elif (
            self.noun.group.article and item.term is None and english.starts_with_preposition(words)
        ):
            words = english.split_place(words)[
                1
            ]  # "a wide shot of [a place]": a wet quay, though it was given as "on a wet quay"
        determiner, rest = english.split_determiner(words)
        core = [TextPiece(self.counted(rest, item), self.head, item), *self.behind(item)]
        lead = self._determiner(
            determiner,
            item,
            bool(prepositions and item.place),
            modifiers + "".join(p.text for p in core),
        )
        return " ".join(part for part in (prepositions, lead) if part), core

    def _determiner(self, own: str, item: Item, settled: bool, following: str) -> str:
        """The article or its like: one's own, a count, or what the formula asks for, by the sound
        of `following`.
        """
        article = self.noun.group.article
        if self.count:
            number = self.count_piece().text
            the = article == "the" and not own
            keeps = own.lower() not in ("", "a", "an", "some", "one")
            return f"{own} {number}" if keeps else f"the {number}" if the else number
        if own.lower() in ("a", "an"):
            if self.many:
                return ""
            found = english.article(following)
            return found.capitalize() if own[0].isupper() else found
        if own or settled:
            return own
        number = self._number(item)
        if self.form == "place" and not item.place:
            said = time[1] if (time := period(item.words)) else placed(item.words)[1]
            if said is not None:
                return said
            article = article or "a"
        if article == "the":
            return "" if number == "name" else "the"
        return english.article(following) if article and number == "one" and not self.many else ""

    def _number(self, item: Item) -> str:
        """What decides the article: the head, or the quoted noun that comes after it or leads to it
        with "of".
        """
        if self.after:
            return english.countability(self.after)
        if (
            self.before
            and self.before[-1].kind == "quote"
            and self.before[-1].value.split()[-1:] == ["of"]
        ):
            return english.countability(self.before[-1].value)
        return item.number

    def counted(self, text: str, item: Item) -> str:
        """The head's words in the number wanted; quoted words after it take the plural in its
        place.
        """
        return (
            english.plural(text)
            if self.many and not self.after and item.number in ("one", "name")
            else text
        )

    def behind(self, item: Item) -> list[TextPiece]:
        """The quoted words after the head."""
        if not self.after:
            return []
        after = english.plural(self.after) if self.many else self.after
        return [TextPiece(" "), TextPiece(after, self.head, item)]

    def count_piece(self) -> TextPiece:
        return TextPiece(
            english.count_words(self.count), next(n for n, f in self.noun.fills.items() if f.count)
        )

    def modifiers(self) -> list[TextPiece]:
        """The words before the head, each with a space after it; several in one slot take
        commas.
        """
        pieces: list[TextPiece] = []
        for word in self.before:
            if word.kind == "quote":
                pieces += [TextPiece(word.value, self.head), TextPiece(" ")]
                continue
            fill = self.noun.fills.get(word.value)
            if not fill or fill.count:
                continue
            for i, item in enumerate(fill.items):
                determiner, rest = english.split_determiner(item.words)
                text = rest if determiner.lower() in ("a", "an", "the") else item.words
                pieces += [TextPiece(", ")] if i else []
                pieces.append(TextPiece(english.without_stop(text), word.value, item))
            pieces.append(TextPiece(" "))
        return pieces
