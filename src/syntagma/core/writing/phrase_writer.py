"""Phrases into lines of words, and into their shorter forms: each made once for the fills that it
depends on.
"""

from collections.abc import Callable, Mapping, Sequence

from syntagma.core.drafting.draft import DraftPhrase, lay_out
from syntagma.core.drafting.fills import Fill, stands
from syntagma.core.drafting.sound import resounded
from syntagma.core.fitting import Forms, forms_of
from syntagma.core.writing.compiled import Compiled, Key

CACHE = 4096  # results kept for each phrase of a formula


class PhraseCache:
    """What was made of each phrase, by the fills that it depends on; of each phrase so many."""

    def __init__(self, keys: Sequence[Key], make: Callable[[int, Sequence[Fill | None]], object]):
        self._keys, self._make = keys, make
        self._made: list[dict] = [{} for _ in keys]

    def __len__(self) -> int:
        return len(self._keys)

    def get(self, i: int, fills: Sequence[Fill | None]):
        """What phrase `i` gives with these fills."""
        key_of, made = self._keys[i], self._made[i]
        key = key_of(fills) if key_of else None
        try:
            return made[key]
        except KeyError:
            if len(made) >= CACHE:
                made.clear()
            found = made[key] = self._make(i, fills)
            return found

    def all(self, fills: Sequence[Fill | None]) -> list:
        """What every phrase gives."""
        try:
            return [
                made[key_of(fills) if key_of else None]
                for key_of, made in zip(self._keys, self._made, strict=True)
            ]
        except KeyError:
            return [self.get(i, fills) for i in range(len(self._keys))]


class Along:
    """What every phrase gives from prompt to prompt, where the fills at some positions change:
    `touched` are the phrases that depend on each. `fills` are those of the last.
    """

    def __init__(
        self, cache: PhraseCache, fills: Sequence[Fill | None], touched: Mapping[int, Sequence[int]]
    ):
        self._cache, self._touched, self.fills = cache, list(touched.items()), list(fills)
        self._given: list[object] = [self] * len(touched)  # nothing that a fill is
        self._found: list = [None] * len(cache)
        self._again = set(range(len(cache)))

    def all(self, own: Sequence[Fill | None]) -> list:
        """What every phrase gives with these fills at the positions that change."""
        again, given = self._again, self._given
        for k, fill in enumerate(own):
            if fill is not given[k]:
                position, phrases = self._touched[k]
                self.fills[position] = given[k] = fill
                again.update(phrases)
        for i in again:
            self._found[i] = self._cache.get(i, self.fills)
        again.clear()
        return self._found


class PhraseWriter:
    """Writes the phrases of a compiled formula."""

    def __init__(self, compiled: Compiled):
        self.compiled = compiled
        keys = [phrase.key for phrase in compiled.phrases]
        self._lines, self._forms = PhraseCache(keys, self._line), PhraseCache(keys, self._shorter)

    def line(self, i: int, fills: Sequence[Fill | None]):
        """Phrase `i` in words with these fills, or None if it is blank."""
        return self._lines.get(i, fills)

    def lines(self, fills: Sequence[Fill | None]) -> list:
        """All phrases in words."""
        return self._lines.all(fills)

    def forms(self, i: int, fills: Sequence[Fill | None]) -> Forms | None:
        """The forms of phrase `i` with these fills, from the fullest to the shortest."""
        return self._forms.get(i, fills)

    def _line(self, i: int, fills: Sequence[Fill | None]):
        waits = self.compiled.phrases[i].waits
        if waits and not stands(waits, fills[self.compiled.position[waits.slot]]):
            return None
        laid = lay_out(self.compiled.phrases[i].plan, self._own(i, fills))
        return self.compiled.register.line(self._sounded(i, laid)) if laid else None

    def _shorter(self, i: int, fills: Sequence[Fill | None]) -> Forms | None:
        phrase, register = self.compiled.phrases[i], self.compiled.register
        if phrase.waits and self.line(i, fills) is None:
            return None
        bare = register.sums_hold and not phrase.sound and not phrase.follower
        return forms_of(
            register, phrase.plan, self._own(i, fills), lambda laid: self._sounded(i, laid), bare
        )

    def _own(self, i: int, fills: Sequence[Fill | None]) -> dict[str, Fill | None]:
        """The fills of phrase `i` by slot, without those that the model takes as a setting
        instead.
        """
        named = {self.compiled.rules[p].name: fills[p] for p in self.compiled.phrases[i].positions}
        menus, hidden = self.compiled.surroundings.menus, self.compiled.surroundings.hidden
        return (
            {slot: None if slot in menus and hidden(slot, f) else f for slot, f in named.items()}
            if menus
            else named
        )

    def _sounded(self, i: int, laid: DraftPhrase) -> DraftPhrase:
        sound, heard = self.compiled.profile.sound, self.compiled.phrases[i].sound
        return (
            resounded(laid, heard, sound, {rule.name: rule for rule in self.compiled.rules})
            if sound and heard
            else laid
        )
