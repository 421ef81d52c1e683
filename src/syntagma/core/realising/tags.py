"""Tags: each noun group a tag, in order, with a separator between; glue is not written."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.drafting.draft import DraftPhrase, Glue, Noun, PairMark, PhrasePlan
from syntagma.core.models.profile import Profile
from syntagma.core.realising.house_style import HouseStyle
from syntagma.core.realising.noun_phrases import in_prose, in_tags
from syntagma.core.realising.prose import prose_pieces
from syntagma.core.realising.text_pieces import Reach, TextPiece, joined
from syntagma.core.vocabulary.facets import PLAIN, Traits


class TagLine(NamedTuple):
    """A phrase as tags. `text` is them joined; `names` what each says, for telling one said
    twice.
    """

    text: str
    names: tuple[str, ...]
    tags: tuple[tuple[TextPiece, ...], ...]

    __eq__, __hash__ = object.__eq__, object.__hash__  # caches go by identity


class Tags:
    """The register in which a prompt is a row of tags."""

    plain_seams, sums_hold = True, False

    def __init__(self, profile: Profile, style: HouseStyle):
        self.separator = profile.text.separator or ", "
        self.style = style
        self.traits: Mapping[str, Traits] = {}  # by slot: what completes a bare term

    def line(self, phrase: DraftPhrase) -> TagLine | None:
        """A phrase as tags; None if it is glue only that leads to another line."""
        plan = phrase.plan
        if phrase.whole:
            tags = [prose_pieces(phrase)]
        elif plan.slots:
            tags = _tags(phrase.parts, self.traits)
        elif plan.hanging:
            return None
        else:
            tags = [
                [
                    TextPiece(
                        "".join(
                            p.text for p in phrase.parts if isinstance(p, Glue | PairMark)
                        ).strip()
                    )
                ]
            ]
        for tag in tags:  # a separator follows: no tag keeps an end mark
            tag[-1] = tag[-1]._replace(text=english.without_end(tag[-1].text))
        tags = [self.style.pieces(tag, plan.label, whole=True) for tag in tags]
        labelled = tuple(tuple(p._replace(label=plan.label) for p in tag) for tag in tags)
        names = tuple(joined(tag) for tag in labelled)
        return TagLine(self.separator.join(names), names, labelled)

    def write(self, lines: Sequence[TagLine | None], plans: Sequence[PhrasePlan]) -> "TagRow":
        """Join the tags of the lines that survive."""
        return TagRow(self, lines)


def _tags(
    parts: Sequence[Glue | PairMark | Noun], traits: Mapping[str, Traits]
) -> list[list[TextPiece]]:
    """The tags of a phrase's noun groups. What is in quotation marks is one tag, with them and word
    for word.
    """
    tags: list[list[TextPiece]] = []
    quoted: list[TextPiece] | None = None
    for part in parts:
        if isinstance(part, PairMark) and part.text not in "()":
            if quoted is None:
                quoted = [TextPiece(part.text)]
            else:
                tags.append([*quoted, TextPiece(part.text)])
                quoted = None
        elif isinstance(part, Glue | PairMark):
            continue
        elif quoted is None:
            tags += in_tags(part, traits.get(part.group.head, PLAIN))
        else:
            quoted += [TextPiece(" ")] if len(quoted) > 1 else []
            quoted += in_prose(part)
    return tags


class TagRow:
    """Tags joined: `parts` is a text for every phrase, blank if it has gone. A tag is written once,
    where it comes first.
    """

    def __init__(self, register: Tags, lines: Sequence[TagLine | None]):
        self.register = register
        self.lines = list(lines)
        self._write()

    def change(self, i: int, line: TagLine | None) -> bool:
        """Put another line in the place of line `i`; False if one has gone or come, and all must be
        written again.
        """
        old = self.lines[i]
        if old is None or line is None:
            return False
        self.lines[i] = line
        if self.doubled or not self.said.isdisjoint(line.names):
            self._write()
            return True
        self.said = (self.said - set(old.names)) | set(line.names)
        self.parts[i] = line.text if i == self.first else self.register.separator + line.text
        return True

    def reach(self, i: int) -> Reach | None:
        """What another line in the place of line `i` would change; None if that can't be said: the
        line has gone, or a tag stands twice.
        """
        if self.lines[i] is None or self.doubled:
            return None
        others = frozenset(
            n for k, line in enumerate(self.lines) if line and k != i for n in line.names
        )
        return Reach(i, i + 1, (i == self.first, others))

    def _write(self) -> None:
        self.said: set[str] = set()
        self.doubled = False
        self.first = -1
        self.parts: list[str] = []
        for i, line in enumerate(self.lines):
            names = [n for n in line.names if n not in self.said] if line else []
            new = list(dict.fromkeys(names))
            self.doubled = self.doubled or bool(line and len(new) < len(line.names))
            self.said.update(new)
            text = self.register.separator.join(new)
            if text and self.first >= 0:
                text = self.register.separator + text
            elif text:
                self.first = i
            self.parts.append(text)

    def pieces(self) -> list[TextPiece]:
        """The whole text as pieces that know their phrase, slot and term."""
        out: list[TextPiece] = []
        said: set[str] = set()
        for line in self.lines:
            for name, tag in zip(line.names, line.tags, strict=True) if line else ():
                if name in said:
                    continue
                said.add(name)
                out += [TextPiece(self.register.separator)] if out else []
                out += tag
        return [p for p in out if p.text]
