"""Telling twins: which texts have been seen; of many, in 8 bytes a text and room to spare."""

from array import array
from collections.abc import Iterable

FEW = 150_000  # keys that are kept in a set: quicker, and several times as large


class KeySet:
    """A set of 64-bit keys; of more than `FEW` by open addressing in one array, at most 16 bytes a key where the number is known.

    Two different texts are taken for twins with a chance of about n² / 2⁶⁵: 3 in 100 million for a million texts.
    """

    def __init__(self, expected: int = 1024):
        self._few: set[int] | None = set()
        if expected > FEW:
            self._open(expected)

    def _open(self, expected: int) -> None:
        """From now on in an array."""
        self._few = None
        self._slots = max(64, expected * 8 // 5) | 1
        self._table = array("q", bytes(8 * self._slots))
        self._room = self._slots * 3 // 4

    def new(self, keys: Iterable[int]) -> list[bool]:
        """Add keys in order; for each, whether it was new."""
        keys = list(keys)
        if (few := self._few) is None:
            return self._new([key or 1 for key in keys])  # 0 marks a free place
        found, each = [True] * len(keys), set(keys)
        if len(each) == len(keys) and few.isdisjoint(each):
            few |= each
        else:
            for i, key in enumerate(keys):
                found[i] = key not in few
                few.add(key)
        if len(few) > FEW:
            self._open(2 * len(few))
            self._new([key or 1 for key in few])
        return found

    def _new(self, keys: Iterable[int]) -> list[bool]:
        found: list[bool] = []
        note = found.append
        table, slots, room = self._table, self._slots, self._room
        for key in keys:
            i = key % slots
            while at := table[i]:
                if at == key:
                    note(False)
                    break
                i = i + 1 if i + 1 < slots else 0
            else:
                table[i] = key
                note(True)
                room -= 1
                if not room:
                    table, slots, room = self._grow()
        self._room = room
        return found

    def _grow(self) -> tuple[array, int, int]:
        """Twice the room; return the new table, its slots, and how many keys it still takes."""
        old = self._table
        self._slots = self._slots * 2 + 1
        self._table = array("q", bytes(8 * self._slots))
        self._room = self._slots * 3 // 4
        self._new(key for key in old if key)
        return self._table, self._slots, self._room
