"""Faults on demand: each comes by chance, and the chance by a seed, so a run can be had again."""

from random import Random
from threading import Lock

FAULTS = {
    "slow": "replies come late",
    "drop": "connections are cut, before it has charged or after",
    "429": "it is busy, and says when to try again",
    "500": "it breaks: before it has charged or after",
    "garbled": "replies are not JSON, or cut short",
    "late": "states and progress go backwards",
    "twice": "a reply comes twice in a row",
    "expire": "addresses of results expire soon",
    "refuse": "some are refused",
    "forget": "it does not know a task for a while",
    "short": "results are cut short",
}
CHANCE = 0.12


class Faults:
    """Which faults there are, and whether one comes now."""

    def __init__(self, names: tuple[str, ...] = (), seed: int = 1, chance: float = CHANCE):
        self.names, self.chance = frozenset(names), chance
        self._random, self._lock = Random(f"faults {seed}"), Lock()

    def comes(self, name: str, chance: float | None = None) -> bool:
        """Does a fault come now?"""
        with self._lock:
            drawn = self._random.random()
        return name in self.names and drawn < (self.chance if chance is None else chance)

    def after(self) -> bool:
        """Does it come after the charge, and not before?"""
        with self._lock:
            return self._random.random() < 0.5
