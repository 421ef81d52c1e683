"""Text as a terminal may have it: what it would obey, or what would turn the order of letters
round, is shown as a picture.
"""

import re

from syntagma.core.notation.late_regex import regex

_OBEYED = regex("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069\ud800-\udfff]")


def shown(text: str) -> str:
    """Text without what a terminal would obey: control characters as their pictures (␛), line ends
    and tabs as they are.
    """
    return _OBEYED.sub(_picture, text)


def _picture(match: re.Match) -> str:
    code = ord(match.group())
    return chr(0x2400 + code) if code < 32 else "␡" if code == 127 else "�"
