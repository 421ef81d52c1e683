"""Which words of a wish stand round it (who asks, greets, explains, thanks) and which are the
picture. Learned from wishes in which it was marked (training/frames.py).
"""

from collections.abc import Iterator, Sequence
from math import log
from typing import NamedTuple

from syntagma.core.editing.edits import quotations, within
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.weights import MIDDLE, STEP, Scorer, logs

MOST = 110  # words of a wish that may be framed; in a longer text nobody asks
OPENING, WITHIN, CLOSING = (
    30,
    10,
    14,
)  # words that a frame may have at the beginning, where a later item begins, at the end
SURE, SURE_AT_END = (
    0.6,
    0.85,
)  # how sure it has to be that something is to be taken off, and at the end
TELLING = 3  # words that are of no frame by themselves, from which on a frame tells something
_WORD = regex(r"\w[\w'’-]*|[^\w\s]")
_CLASSES = {  # what kinds of word frames are made of
    "speaker": (
        "i i'd i'm im i've i'll we we'd we're we've me us my our mine you your u ya he'd she'd"
        " they'd someone somebody anybody anyone boss client kid kids son daughter mum mom mother"
        " dad father friend wife husband boyfriend girlfriend customer team"
    ),
    "request": (
        "make create draw paint sketch show give generate render design illustrate produce get do"
        " try have see find build film shoot animate photograph depict visualise visualize imagine"
        " picture craft write provide help want need like love wants needs asked asking wanted"
        " needed gimme lemme wanna looking hoping thinking thought dreamed dreaming imagining"
        " picturing dying trying"
    ),
    "modal": "can could would may might will should must shall",
    "polite": (
        "please pls plz kindly thanks thank thx ty cheers hi hey hello hiya dear good morning"
        " evening afternoon regards sorry ok okay so well right yes oh wow omg lol haha yo um umm"
        " hmm just maybe perhaps basically"
    ),
    "picture": (
        "picture image photo pic visual illustration drawing painting sketch shot clip video poster"
        " card banner logo cover"
    ),
    "named": (
        "idea ideas brief concept request task wish prompt scene topic plan dream vision one thing"
        " something"
    ),
    "determiner": (
        "a an the some two three four five one my our his her this these that those its their"
    ),
    "joint": (
        "and or but of for with in on at to from by about as like if that where which who is are"
        " was it"
    ),
}
_CLASS = {word: name for name, words in _CLASSES.items() for word in words.split()}
_ASKING, _SPEAKING = ("speaker", "request", "modal", "named"), ("speaker", "modal")
_ONE = frozenset("a an some one two three four five something".split())


class WishWord(NamedTuple):
    """A word or a mark of a wish, and its place."""

    text: str
    start: int
    stop: int


def words_of(wish: str) -> list[WishWord]:
    """The words and marks of a wish; small letters, and all numbers are one."""
    return [
        WishWord("9" if match[0].isdigit() else match[0].lower().replace("’", "'"), *match.span())
        for match in _WORD.finditer(wish)
    ]


class FramePlace(NamedTuple):
    """A place of a wish where a frame may be: from a word on (or, `closing`, up to its end), and
    how many words it may have at most.
    """

    begin: int
    most: int
    closing: bool = False


def places(words: Sequence[WishWord]) -> list[FramePlace]:
    """The places of a wish where a frame may be: its beginning, where a later sentence or item
    begins, its end.
    """
    found = [FramePlace(0, min(OPENING, len(words) - 1))]
    found += [
        FramePlace(n, min(WITHIN, len(words) - 1 - n))
        for n in range(1, len(words) - 1)
        if words[n - 1].text in ".!?…;," and words[n].text[0].isalnum()
    ]
    return [*found, FramePlace(len(words), min(CLOSING, len(words) - 1), True)]


def choices(
    words: Sequence[WishWord], place: FramePlace, known: frozenset[str]
) -> Iterator[list[str]]:
    """The features of each number of words, from none on, that the frame at a place may have;
    `known` are words that frames are often made of.

    A number at which the frame would take words along that no frame is known to be made of, or the
    name of a picture, has no features, unless somebody speaks, asks or thanks in it: nothing is
    lost that may be seen. What counts: the words at the edge and those next to it, what kinds of
    word the frame is made of, how it begins, and whether somebody asks in what is left.
    """
    said = [word.text for word in words]
    if place.closing:
        said = said[::-1]
    texts = [*(said if place.closing else said[place.begin :]), "$", "$", "$"]
    kinds = [_class(text) for text in texts]
    where = "e" if place.closing else "b" if place.begin == 0 else "i"
    asks = [
        n
        for n in range(min(len(texts) - 3, OPENING + 8))
        if kinds[n] in ("request", "modal") and "speaker" in kinds[max(0, n - 2) : n + 3]
    ]
    others, seen, flags = 0, set(), {}
    unknown = spoken = False
    yield [
        f"{where} none",
        f"{where} none {texts[0]}",
        f"{where} none {kinds[0]}",
        f"{where} none {kinds[0]} {kinds[1]}",
        f"{where} none {texts[0]} {texts[1]}",
        f"{where} none asks={bool(asks)} {kinds[0]}",
    ]
    for k in range(1, place.most + 1):
        text, kind = texts[k - 1], kinds[k - 1]
        seen.add(text)
        others += text not in known and text[0].isalnum()
        flags[kind] = min(2, flags.get(kind, 0) + 1)
        unknown, spoken = (
            unknown or (text not in known and text[0].isalnum()),
            spoken or _speaks(text),
        )
        if text in ".!?…":
            if unknown and not spoken:
                return  # a sentence in which nobody speaks is seen
            unknown = spoken = False
        if (others and not any(map(flags.get, _SPEAKING))) or (
            flags.get("picture") and not any(map(flags.get, _ASKING))
        ):
            yield []
            continue
        nearby, ahead = any(k <= n < k + 6 for n in asks), any(n >= k for n in asks)
        has = "".join(
            name[0] if flags.get(name) else "-"
            for name in ("speaker", "request", "modal", "polite", "picture")
        )
        mark = text if not text[0].isalnum() else "word"
        yield [
            f"{where} some",
            f"{where} others={min(others, 6)}",
            f"{where} long={min(k, 12)}",
            f"{where} has={has}",
            f"{where} has={has} {mark}",
            f"{where} has={has} others={min(others, 3)}",
            f"{where} determined={flags.get('determiner', 0)} {has[:2]}",
            f"{where} last={text}",
            f"{where} last={text} {texts[k]}",
            f"{where} last={texts[k - 2] if k > 1 else '^'} {text}",
            f"{where} last={kind} {kinds[k]}",
            f"{where} last={kinds[k - 2] if k > 1 else '^'} {kind} {kinds[k]}",
            f"{where} last={text} {kinds[k]}",
            f"{where} next={texts[k]}",
            f"{where} next={kinds[k]}",
            f"{where} next={kinds[k]} {kinds[k + 1]}",
            f"{where} next={texts[k]} {texts[k + 1]}",
            f"{where} mark={mark} {kinds[k]}",
            f"{where} ahead={nearby} {ahead}",
            f"{where} ahead={nearby} {has}",
            f"{where} first={texts[0]}",
            f"{where} first={texts[0]} {texts[1] if k > 1 else '|'}",
            f"{where} first={kinds[0]} {has}",
            f"{where} first={kinds[0]} {mark}",
            f"{where} whole={' '.join(texts[:k])}" if k < 5 else f"{where} far",
            *(f"{where} in={word}" for word in seen),
        ]


def _class(word: str) -> str:
    """What kind of word of a frame a word is; else the mark itself, or no such word."""
    return _CLASS.get(word) or (word if not word[0].isalnum() else "word")


def _speaks(word: str) -> bool:
    """Does somebody speak of themselves by a word?"""
    return word in ("my", "our") or "speaker" in (_class(word), _CLASS.get(word.partition("'")[0]))


class Frames:
    """Finds what surrounds a wish. `scorer`: the weights of the features of a choice (one label);
    `known`: words that frames are often made of.
    """

    def __init__(self, scorer: Scorer, known: frozenset[str]):
        self.scorer, self.known = scorer, known

    def tells(self, words: str) -> bool:
        """Does a sentence of a frame tell something, and not only ask: "My daughter is turning
        seven on Saturday", "We sell candles"?
        """
        own = [word.text for word in words_of(words) if word.text[0].isalnum()]
        unknown = sum(word not in self.known for word in own)
        kinds = [_class(word) for word in own]
        return unknown >= TELLING or (
            unknown > 0
            and kinds[0] != "polite"
            and "request" not in kinds
            and kinds.count("word") > 1
        )

    def only_asks(self, wish: str) -> bool:
        """Is there nothing in a wish but who asks: "could you please make me a"?"""
        return {_class(word.text) for word in words_of(wish) if word.text[0].isalnum()} <= {
            "speaker",
            "request",
            "modal",
            "polite",
            "determiner",
            "joint",
        }

    def _asks_for_another(self, words: Sequence[WishWord], frame: range) -> bool:
        """Is a thing asked for in a sentence of its own, after somebody spoke about themselves: "My
        grandson loves trucks. Could you make a …"? Then nothing said before is part of the picture.
        """
        before = [word.text for word in words[: frame.start]]
        after = words[frame.stop].text if frame.stop < len(words) else ""
        asked = [_class(words[n].text) for n in frame]
        return (
            bool(before)
            and before[-1] in ".!?"
            and after in _ONE
            and asked[0] != "joint"
            and bool({"request", "modal"} & set(asked))
            and any(map(_speaks, before))
        )

    def found(self, wish: str) -> list[tuple[int, int]]:
        """The stretches of a wish that stand round it, each from which letter to before which; none
        where nothing else would be left, and none that cuts a quotation.
        """
        words = words_of(wish)
        if len(words) < 2 or len(words) > MOST:
            return []
        quoted = quotations(wish)
        framed: set[int] = set()
        for place in places(words):
            if place.begin in framed:
                continue
            offered = [(k, one) for k, one in enumerate(choices(words, place, self.known)) if one]
            chances = logs(
                [
                    (self.scorer.steps(self.scorer.packed(one))[0] - MIDDLE) * STEP
                    for _, one in offered
                ]
            )
            best = offered[max(range(len(chances)), key=chances.__getitem__)][0]
            own = (
                range(place.begin - best, place.begin)
                if place.closing
                else range(place.begin, place.begin + best)
            )
            if place.closing and any(
                wish[words[n].start : words[n].stop].isupper() and len(words[n].text) > 1
                for n in own
            ):
                continue  # I WILL NOT DREAM: lettering
            if (
                best
                and chances[0] < log(1 - (SURE_AT_END if place.closing else SURE))
                and not any(within(quoted, words[n].start) for n in own)
            ):
                framed.update(own)
                if not place.closing and self._asks_for_another(words, own):
                    framed.update(range(place.begin))
        if all(n in framed or not word.text[0].isalnum() for n, word in enumerate(words)):
            return []
        stretches: list[tuple[int, int]] = []
        for n in sorted(framed):
            start = stretches.pop()[0] if n - 1 in framed else words[n].start
            stretches.append((start, words[n].stop))
        return stretches
