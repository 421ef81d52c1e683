"""Whose picture it is: findings for a person who is named, and for a picture of people that could pass as evidence. Neither changes a word."""

import re

from syntagma.core.diagnostics.findings import WARNING, Finding
from syntagma.core.english.people import is_person
from syntagma.core.notation.late_regex import regex

_TWO_NAMES = regex(r"(?<![\w’'-])([A-ZÀ-Ž][\w’'-]+)(?: (?:[A-ZÀ-Ž]\.|van|von|der|den|de|da|di|du|del|la|le|bin|ibn|al|el|ter))* ([A-ZÀ-Ž][\w’'-]*[a-zà-ž][\w’'-]*)")
_NO_FAMILY = frozenset(
    """age airport avenue bay beach bridge café castle cathedral church circus college cross day era express falls garden gardens gothic hall hill hospital hotel house island lake lane market mountain museum noir opera palace pan park
    place plane reef river road sea school square station street style theatre theater tower university valley village wharf zoo""".split()
)  # "Elizabeth Tower", "Victor Harbour Street"
_EVIDENCE = regex(
    r"\b(?:security[- ]camera|surveillance|cctv|body ?cam(?:era)?|body[- ]worn camera|dash ?cam|door ?bell camera|passport (?:photo(?:graph)?|picture)|id photo|mug ?shots?|police photo(?:graph)?|crime[- ]scene|forensic photo(?:graph)?|newsreel|news (?:report|footage|broadcast|photo(?:graph)?)"
    r"|press photo(?:graph)?|paparazzi|found footage|leaked (?:photo(?:graph)?|footage|picture)|x-ray|eyewitness (?:photo(?:graph)?|video|footage))\b",
    re.I,
)
_PEOPLE = regex(r"\b(?:he|she|him|her|his|hers|someone|somebody|people|politicians?|president|minister|celebrit(?:y|ies))\b", re.I)


def named_people(text: str) -> list[str]:
    """The names of persons in a text: a given name and a family name, in capitals as names are."""
    found = list(_TWO_NAMES.finditer(text))
    if not found:
        return []
    from syntagma.core.checking.given_names import GIVEN_NAMES  # imported late: few texts name anybody

    return list(dict.fromkeys(one[0] for one in found if one[1].lower() in GIVEN_NAMES and one[2].lower() not in _NO_FAMILY))


def rights(text: str, known: frozenset[str] = frozenset()) -> list[Finding]:
    """What a prompt asks of somebody's rights; `known`: names in small letters of which it is known whose they are."""
    found = [
        Finding(WARNING, f"“{name}” reads like a person's name, and no consent is on record", "keep it if the person is invented or has agreed; otherwise describe them without the name", "text", code="named-person")
        for name in named_people(text)
        if name.lower() not in known
    ]
    if (like := _EVIDENCE.search(text)) and (_PEOPLE.search(text) or any(map(is_person, re.findall(r"[a-z]+", text.lower())))):
        found.append(
            Finding(WARNING, f"“{like[0]}” with people in it could pass as a record of something that happened", "get the consent of real people in it, and label the result as made by a generator", "text", code="could-pass-as-evidence")
        )
    return found
