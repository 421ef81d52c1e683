"""Prompts that were written together: their texts at hand, each prompt made when it is asked for."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import compress
from typing import overload

from syntagma.core.writing.prompt import Prompt

_MAKE = tuple.__new__  # a third of the time of calling Prompt


class Prompts(Sequence[Prompt | None]):
    """Prompts in order, None if one could not be written. Those of many members differ in their text and its size alone: what else they
    have is kept once."""

    def __init__(self, texts: Iterable[str | None] = (), used: Iterable[int] = (), like: Iterable[Prompt | None] = ()):
        """`like`: for each a prompt with all that is its own but its text and how much of the limit that uses."""
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
        return Prompts(compress(self.texts, which), compress(self._used, which), compress(self._like, which))

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
            yield like and _MAKE(Prompt, (text, like[1], used, like[3], like[4], like[5], like[6], like[7]))
