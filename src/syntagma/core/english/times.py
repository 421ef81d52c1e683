"""How a time is said as a place is: in the 1950s, in medieval times, in wartime, today."""

import re

from syntagma.core.notation.late_regex import regex


def _words(words: str) -> frozenset[str]:
    return frozenset(part.strip() for part in words.split(";"))


_ADVERBS = _words("today; nowadays; now; right now; once upon a time; long ago; long, long ago; tomorrow; yesterday; overnight")
_BARE = _words("antiquity; prehistory; wartime; peacetime; y2k; classical antiquity; late antiquity")  # without an article
_LANDS = _words(
    "africa; america; arabia; athens; austria; babylon; baghdad; britain; byzantium; china; egypt; england; europe; france; germany; greece; hungary; india; ireland; israel; italy; japan; korea; mesopotamia; mexico; "
    "persia; poland; portugal; rome; russia; scandinavia; scotland; spain; sumer; troy; turkey; venice; vienna; wales"
)  # "Victorian England"
_PERIODS = _words(
    "aftermath; age; ages; armistice; baroque; belle epoque; belle époque; blitz; century; centuries; crusades; cretaceous; decade; decades; depression; dust bowl; dynasty; enlightenment; empire; era; future; gold rush; jurassic; middle ages; millennium; mesozoic; "
    "past; period; present; quattrocento; reformation; regency; reign; renaissance; revolution; rococo; space race; triassic; war; wars; wild west; old west; winter of discontent; years; twenties; thirties; forties; fifties; sixties; seventies; eighties; nineties; noughties; tens"
)
_WORLDS = frozenset("alternate alternative dystopian flooded imagined invented possible post-apocalyptic sci-fi strange utopian another better bleak bright dark different hopeful".split())  # one of many futures
_ADJECTIVE = regex(r"(?:early |late |mid[- ]?|high |pre[- ]?|post[- ]?|neo[- ]?)?(?:ancient|modern|medieval|mediaeval|primeval|antebellum|contemporary|victorian|roman|norman|saxon|viking|aztec|inca|tudor|stuart|soviet|feudal|colonial|imperial|moorish|ottoman|mughal|wilhelmine|\w+punk|\w+(?:istic|oric|olithic|assic|aceous|onic|onial|ical|ian|ean|ine|aic|tic))")
_DECADE = regex(r"(?:(?:early|mid|late|swinging|roaring)[- ])?(?:the )?['’]?\d{2,4}['’]?s(?:/\d0s)?")
_YEAR = regex(r"(?:ad |circa )?\d{3,4}(?: ?(?:bc|bce|ad|ce))?")


def period(words: str) -> tuple[str, str | None, str] | None:
    """(The preposition, the article or None if it goes by the noun, the words completed) for words that name a time; None for all others.

    >>> period("1950s"), period("medieval")
    (('in', 'the', '1950s'), ('in', '', 'medieval times'))
    """
    low = words.lower().strip()
    if low in _ADVERBS:
        return "", "", words
    if low in _BARE or _YEAR.fullmatch(low) or (" " in low and low.split()[-1] in _LANDS):
        return "in", "", words
    if re.fullmatch(r"year \d+", low) or _DECADE.fullmatch(low):
        return "in", "the", words
    if _ADJECTIVE.fullmatch(low):
        return "in", "", f"{words} times"
    head = low.partition(" of ")[0].split()
    if head and head[-1] == "times":
        return "in", "", words
    if head and (head[-1] in _PERIODS or " ".join(head[-2:]) in _PERIODS):
        return "in", None if head[-1] == "future" and _WORLDS & set(head) else "the", words
    return None
