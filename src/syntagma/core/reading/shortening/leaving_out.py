"""A text without some of its parts: seams, articles, capitals and quotation marks fixed, so it is a good sentence still."""

import re
from collections.abc import Sequence

from syntagma.core import english
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.prompt_pieces import NEGATIVE, PART, PromptPiece, Reading
from syntagma.core.reading.shortening.weighing import Unit

_MARK_BEHIND = regex(r"^\s*@?[\d.]*[>*!?+^_\])}]+")  # what closes a mark of stress
_BEHIND = regex(r"^[\"”’)\]}]+")  # what closes quotation marks or brackets
_BEFORE = regex(r"[<*^_+(\[{\"“‘]+$")  # what opens any of them
_ASIDE_GONE = regex(r"(?<![\w'’,-])((?:[\w'’-]+ ){0,3}[\w'’-]+), (is|are|was|were|has|have|had)\b")  # "Its paint, once white, is flaking"
_LINK = regex(r"^(?:and|of|with|for|showing|then|but)\b\s*", re.I)


class Without:
    """Writes one text again without some of its units."""

    def __init__(self, reading: Reading):
        self.reading = reading
        self._seams: dict[int, tuple[str, str, str]] = {}
        self._reduced: dict[tuple[int, tuple[tuple[int, int], ...]], str] = {}
        self.upper = reading.text.lstrip()[:1].isupper()

    def written(self, gone: Sequence[Unit]) -> str:
        """The text without some units."""
        holes: dict[int, list[tuple[int, int]]] = {}
        for unit in gone:
            holes.setdefault(unit.part, []).append((unit.start, unit.stop))
        pieces = self.reading.pieces
        texts = [self._text_of(n, tuple(sorted(holes[n]))) if n in holes else piece.text for n, piece in enumerate(pieces)]
        out, skipped, opening, begun = "", "", "", False
        for n, piece in enumerate(pieces):
            if piece.kind == "glue":
                closing, between, opening = self._seams.get(n) or self._seams.setdefault(n, self._parted(n))
                out += closing if n and texts[n - 1] else ""
                skipped += between
            elif piece.kind != PART:
                out += (self._seam(skipped, begun, bool(out), piece.kind) if "\0" in skipped else skipped + opening) + piece.text
                skipped = opening = ""
            elif texts[n]:
                out += self._seam(skipped, begun, bool(out), piece.facet) + opening + texts[n]
                skipped, opening, begun = "", "", True
            else:
                stop = "." if piece.facet == "speech" and english.ends_sentence(piece.text) else ""  # its sentence ends with it
                skipped, opening = self._loosened(skipped) + stop, ""
        return self._tidy(out + self._end(skipped))

    def _parted(self, n: int) -> tuple[str, str, str]:
        """A stretch between parts: what closes the part before it, what is between, what opens the part after it."""
        pieces = self.reading.pieces
        text, before, after = pieces[n].text, pieces[n - 1] if n else None, pieces[n + 1] if n + 1 < len(pieces) else None
        closing = (_MARK_BEHIND if before.stress != 1 else _BEHIND).match(text) if before and before.kind == PART else None
        rest = text[closing.end() :] if closing else text
        opening = _BEFORE.search(rest) if after and after.kind == PART else None
        return closing.group() if closing else "", rest[: opening.start()] if opening else rest, opening.group() if opening else ""

    def _text_of(self, n: int, holes: tuple[tuple[int, int], ...]) -> str:
        """A part without what has gone of it, its article fixed."""
        known = self._reduced.get((n, holes))
        if known is None:
            known = self._reduced[n, holes] = self._without(self.reading.pieces[n], holes)
        return known

    def _without(self, piece: PromptPiece, holes: tuple[tuple[int, int], ...]) -> str:
        text, at = "", piece.start
        for start, stop in holes:
            text += self.reading.text[at : max(at, start)]
            at = max(at, stop)
        text = re.sub(r"\s{2,}", " ", text + self.reading.text[at : piece.stop]).strip()

        def mended(match: re.Match) -> str:
            wanted = english.article(match[3])
            return (wanted.capitalize() if match[1][0].isupper() else wanted) + match[2] + match[3]

        return re.sub(r"\b([Aa]n?)(\s+)(\w[^\n]*)", mended, text, count=1)

    @staticmethod
    def _loosened(glue: str) -> str:
        """What stood before a part that has gone: marks and line ends stay to be chosen from, labels and joining words go."""
        return re.sub(r"[A-Za-z]+", " ", re.sub(r"(?m)^[ \t]*[A-Za-z][\w .-]{0,28}\s*[|:]\s", "", glue)) + "\0"

    def _seam(self, glue: str, begun: bool, any_text: bool, beside: str = "") -> str:
        if "\0" not in glue:
            return glue
        if "\n" in glue:
            label = re.search(r"[A-Za-z][\w .-]{0,28}\s*[|:]\s*$", glue)
            stop = re.search(r"[.!?]", glue.partition("\n")[0])
            return (stop.group() if stop and begun else "") + ("\n" if begun else "") + (label.group() if label else "")
        after = glue.rpartition("\0")[2]
        if not begun:
            return "" if not any_text else " "
        stop = re.search(r"[.!?;]", glue)
        if beside == "speech":  # who says it stays with what is said
            return (stop.group() + " " if stop else ", ") + after.lstrip(" ,.;")
        if beside in (NEGATIVE, "parameter", "reference"):
            return stop.group() + " " if stop else ", " if beside == NEGATIVE else " "
        if stop:
            return stop.group() + " "
        word = _LINK.match(after.strip(" ,"))
        return ", " + (word.group().strip() + " " if word and word.group().strip().lower() in ("with", "and") else "")

    def _end(self, glue: str) -> str:
        return re.sub(r"[\0]", "", glue[glue.rfind("\0") + 1 :] if "\0" in glue else glue) if glue.strip("\0 ,;") else ""

    def _tidy(self, text: str) -> str:
        text = re.sub(r"(?<!\s)\s+([,.;!?])", r"\1", text.replace("\0", ""))  # one try for each run of spaces
        text = re.sub(r"([,;])\s*(?=[.!?])", "", text).strip(" ,;")
        if self.upper:
            text = re.sub(r"(^|[.!?]\s+)([a-z])(?![\w-]*=)", lambda m: m[1] + m[2].upper(), text)
        text = re.sub(r"([.!?])([\"”’])[.,;]", r"\1\2", text)
        text = _ASIDE_GONE.sub(lambda m: m[0] if m[0] in self.reading.text else f"{m[1]} {m[2]}", text)
        if self.reading.text.rstrip().endswith(".") and text.rstrip('"”’')[-1:] not in ".!?":
            text += "."
        return text
