"""A prompt as it is written for one model, prompts of a run, and the slots that a person's names
mean.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import compress
from typing import NamedTuple, overload

from syntagma.core.drafting.surroundings import Around
from syntagma.core.fitting import Fitted
from syntagma.core.formula.tree import SlotRule
from syntagma.core.models.references import KnownReference, Reference
from syntagma.core.vocabulary import facets

# ──── A prompt, and the manner in which a person asks for it.


class Prompt(NamedTuple):
    """A draft written for one model. `text` is all the pasted text; `around` what surrounds the
    words in it; `dropped` are the labels of phrases left out to fit, `negative_dropped` the items;
    `fitted` says more of it.
    """

    text: str
    negative: str
    used: int
    negative_used: int
    dropped: tuple[str, ...]
    negative_dropped: tuple[str, ...]
    around: Around = Around()
    fitted: Fitted | None = None

    @property
    def words(self) -> str:
        """The text without what comes before and after its words: references in front, parameters
        after.
        """
        return self.text[len(self.around.front) : len(self.text) - len(self.around.after)]


class Manner(NamedTuple):
    """What a person asks for besides fills: weights, parameters, references; who can be called by
    name; whether the prompt is one of a controlled family; how many seconds each of its segments
    lasts, if that is to be as it was.
    """

    stress: Mapping[str, float] = {}
    parameters: Mapping[str, object] = {}
    references: Sequence[Reference] = ()
    known: Mapping[str, KnownReference] = {}
    controlled: bool = False
    lengths: Sequence[float] = ()


PLAINLY = Manner()  # nothing asked for besides fills

# ──── Prompts that were written together: their texts at hand, each prompt made when it is asked
# for.


_MAKE = tuple.__new__  # a third of the time of calling Prompt


class Prompts(Sequence[Prompt | None]):
    """Prompts in order, None if one could not be written. Those of many members differ in their
    text and its size alone: what else they have is kept once.
    """

    def __init__(
        self,
        texts: Iterable[str | None] = (),
        used: Iterable[int] = (),
        like: Iterable[Prompt | None] = (),
    ):
        """`like`: for each a prompt with all that is its own but its text and how much of the limit
        that uses.
        """
        self.texts, self._used, self._like = list(texts), list(used), list(like)

    @classmethod
    def of(cls, prompts: Iterable[Prompt | None]) -> "Prompts":
        """These prompts."""
        found = cls()
        for prompt in prompts:
            found.add(prompt)
        return found

    def add(self, prompt: Prompt | None) -> None:
        """One more."""
        self.texts.append(prompt.text if prompt else None)
        self._used.append(prompt.used if prompt else 0)
        self._like.append(prompt)

    def add_alike(self, texts: Sequence[str], used: Sequence[int], like: Prompt) -> None:
        """Some more, that are as one is but for their texts and the sizes of these."""
        self.texts += texts
        self._used += used
        self._like += [like] * len(texts)

    def only(self, which: Sequence[bool]) -> "Prompts":
        """Those for which `which` says yes."""
        return Prompts(
            compress(self.texts, which), compress(self._used, which), compress(self._like, which)
        )

    def __len__(self) -> int:
        return len(self.texts)

    @overload
    def __getitem__(self, at: int) -> Prompt | None: ...
    @overload
    def __getitem__(self, at: slice) -> "Prompts": ...
    def __getitem__(self, at: int | slice) -> "Prompt | Prompts | None":
        if isinstance(at, slice):
            return Prompts(self.texts[at], self._used[at], self._like[at])
        return next(iter(self[at : at + 1 or None]))

    def __iter__(self) -> Iterator[Prompt | None]:
        for text, used, like in zip(self.texts, self._used, self._like, strict=True):
            yield like and _MAKE(
                Prompt, (text, like[1], used, like[3], like[4], like[5], like[6], like[7])
            )


# ──── What a person calls a slot: by its name, by its facet, in either spelling.


SPELT = {"color": "colour", "gray": "grey", "colors": "colours"}  # the other spelling → ours


SUBJECT = (  # what a person calls the one that a picture is of, whatever the formula calls it
    "subject"
)
OF_SUBJECT = facets.FacetGroup("may-be-subject")  # the facets of which it may be


def plain(name: str) -> str:
    """A name as names are written here: small letters, hyphens, British spelling."""
    words = name.strip().lower().replace("_", "-").replace(" ", "-").split("-")
    return "-".join(SPELT.get(word, word) for word in words)


def slot_named(name: str, rules: Sequence[SlotRule]) -> str:
    """The slot that a name means: its own, or the one slot of a facet of that name; for the
    subject, if no slot has it, the first that is needed and that a picture can be of: the dish of a
    food still. The name itself if there is none.
    """
    names = [rule.name for rule in rules]
    if name in names:
        return name
    ours = plain(name)
    of_facet = [rule.name for rule in rules if rule.facet == ours]
    if ours == SUBJECT and not of_facet:
        of_facet = [rule.name for rule in rules if rule.need and rule.facet in OF_SUBJECT][:1]
    return ours if ours in names else of_facet[0] if len(of_facet) == 1 else name
