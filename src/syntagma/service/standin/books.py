"""The books of the stand-in: tasks, keys, charges, credit. They are the witness of what was really charged."""

import secrets
import time
from dataclasses import dataclass, field
from threading import RLock
from typing import Any


@dataclass
class Task:
    """A task: its number, our customer's reference, the model, its words, the ratio that was asked for (0: none), when it began and how long it takes, what it was charged, what it comes to."""

    id: str
    reference: str
    model: str
    words: str
    ratio: float
    began: float
    takes: float
    charged: float
    ends: str = "ready"  # ready, declined, broken or left
    why: str = ""
    sign: str = field(default_factory=lambda: secrets.token_hex(8))

    def state(self, now: float) -> str:
        """How it is at a time."""
        if self.ends == "left":
            return "left"
        gone = now - self.began
        return "queued" if gone < self.takes * 0.3 else "drawing" if gone < self.takes else self.ends

    def progress(self, now: float) -> float:
        return max(0.0, min(1.0, (now - self.began) / self.takes))


class Books:
    """All tasks, by number, by reference, by key; and the credit that is left."""

    def __init__(self, credit: float = 1e9):
        self.tasks: dict[str, Task] = {}
        self.keys: dict[str, str] = {}
        self.credit = credit
        self.lock = RLock()

    def by_key(self, key: str) -> Task | None:
        """The task that was made with an idempotency key."""
        with self.lock:
            return self.tasks.get(self.keys.get(key, "")) if key else None

    def charge(self, task: Task, key: str) -> bool:
        """Take a task in, and charge it; is there credit for it?"""
        with self.lock:
            if task.charged > self.credit:
                return False
            self.credit -= task.charged
            self.tasks[task.id] = task
            if key:
                self.keys[key] = task.id
            return True

    def by_reference(self, reference: str) -> list[Task]:
        with self.lock:
            return [task for task in self.tasks.values() if task.reference == reference]

    def every(self) -> list[Task]:
        with self.lock:
            return list(self.tasks.values())

    def report(self) -> dict[str, Any]:
        """The books, for whoever checks them: each charge with its reference."""
        now = time.time()
        with self.lock:
            charges = [{"task": t.id, "reference": t.reference, "model": t.model, "charged": t.charged, "state": t.state(now)} for t in self.tasks.values()]
        return {"charges": charges, "sum": round(sum(one["charged"] for one in charges), 6), "credit": self.credit}
