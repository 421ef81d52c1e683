"""Labelled lines: each phrase on a line of its own behind its label, for models that read a
sheet.
"""

from collections.abc import Callable, Sequence

from syntagma.core.drafting.draft import PhrasePlan
from syntagma.core.models.patterns import written
from syntagma.core.models.profile import Profile
from syntagma.core.realising.house_style import HouseStyle
from syntagma.core.realising.prose import Prose, ProseLine
from syntagma.core.realising.text_pieces import TextPiece, Whole


class Labelled(Prose):
    """The register in which a prompt is a sheet of labelled lines."""

    plain_seams = sums_hold = False

    def __init__(self, profile: Profile, style: HouseStyle):
        super().__init__(profile, style)
        self.rule = profile.labelled

    def named(self, label: str) -> str:
        """A label as it is written."""
        name = self.rule.names.get(label) or label.replace(".", self.rule.nested).replace("-", " ")
        cases: dict[str, Callable[[str], str]] = {
            "kept": str,
            "sentence": lambda n: n[:1].upper() + n[1:],
            "upper": str.upper,
        }
        return cases[self.rule.case](name)

    def write(
        self, lines: Sequence[ProseLine | None], plans: Sequence[PhrasePlan]
    ) -> "LabelledLines":
        return LabelledLines(self, lines, plans)


class LabelledLines(Whole):
    """Labelled lines one below the other: `parts` is a text for every phrase, blank if it
    has gone.
    """

    def __init__(
        self, register: Labelled, lines: Sequence[ProseLine | None], plans: Sequence[PhrasePlan]
    ):
        stretches: list[list[TextPiece]] = []
        between = ""
        for line, plan in zip(lines, plans, strict=True):
            if line is None or not line.text or line.hanging:
                stretches.append([])
                continue
            before, _, behind = written(
                register.rule.line, {"label": register.named(plan.label), "text": "\0"}
            ).partition("\0")
            stretches.append([TextPiece(between + before), *line.pieces, TextPiece(behind)])
            between = register.rule.between
        super().__init__(stretches)
