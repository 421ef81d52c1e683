"""The purse: money is set aside before a request goes out, by the most that it can cost, and settled by what was charged.

What nobody knows is not free: a take whose charge is not said keeps what was set aside for it. A service that charges more than that is sent nothing more,
from any workspace, until a person has looked (`syntagma service resume HOST`).
"""

from collections.abc import Callable, Mapping
from typing import Any

from syntagma.core.models.prices import priced
from syntagma.storage.ledger import Attempt, Ledger, OverBudget

ROUNDING = 1e-6  # by how much a charge may be over what was set aside: rounding


class NoMoney(Exception):
    """One more take can't be paid. It says why."""


class Purse:
    """What one run may spend (`budget`; None: no cap) and all sheets together (`project`), by currency; `halt` is called for a service that charges too much."""

    def __init__(self, ledger: Ledger, budget: float | None = None, project: float | None = None, halt: Callable[[str, str], None] = lambda host, why: None):
        self.ledger, self.budget, self.project, self.halt = ledger, budget, project, halt
        self._run: dict[tuple[str, str], tuple[str, float]] = {}  # the takes of this run: their currency, and what they have cost or may cost
        self._sum: dict[str, float] = {}
        self.over: dict[str, str] = {}  # services that charged too much, each with what is to be said of it

    @property
    def capped(self) -> bool:
        return self.budget is not None or self.project is not None

    @property
    def spent(self) -> dict[str, float]:
        """What this run has cost, or may have, by currency."""
        return {currency: round(amount, 6) for currency, amount in self._sum.items() if amount > ROUNDING}

    def begin(self, one: Mapping[str, Any], body: str, most: float | None, currency: str, run: str = "", code: str = "", doubt: bool = False) -> Attempt:
        """Set money aside for a take and note its attempt, in one step of the ledger. `most`: what it can cost, None if nobody knows. Raises NoMoney,
        Differs, Meanwhile."""
        name = f"{one['row']}.{one['number']}"
        if most is None and self.capped:
            raise NoMoney(f"{one['model']} has no price, so a take's cost is unknown: give it in the profile ([price] amount = …, or 0 if it is free)")
        amount = most or 0.0
        key = (one["sheet"], name)
        before = self._run.get(key, (currency, 0.0))[1]
        if self.budget is not None and self._sum.get(currency, 0.0) - before + amount > self.budget + ROUNDING:
            raise NoMoney(f"one more take ({priced(amount, currency)}) would be over the budget of {self.budget:g}")
        try:
            attempt = self.ledger.begin(one["sheet"], name, body, amount, currency, run, code, self.project, doubt)
        except OverBudget as over:
            raise NoMoney(f"one more take ({priced(amount, currency)}) would be over the project's budget of {self.project:g}, of which {over.spent:g} has been spent") from None
        self._put(key, currency, max(amount, before))
        return attempt

    def settle(self, one: Mapping[str, Any], host: str, charged: float | None, priced_by: bool = True) -> None:
        """What a take was charged is known (None: it is not, and what was set aside stays). `priced_by`: its model says what it costs."""
        key, currency = (one["sheet"], f"{one['row']}.{one['number']}"), one["currency"]
        if charged is None:
            return
        if key in self._run:
            self._put(key, currency, charged)
        if charged > one["reserved"] + ROUNDING and priced_by:
            why = f"it charged {priced(charged, currency)} for {key[1]} of the sheet {key[0]}, but at most {priced(one['reserved'], currency)} had been set aside"
            self.over.setdefault(host, why)
            self.halt(host, why)

    def _put(self, key: tuple[str, str], currency: str, amount: float) -> None:
        before = self._run.get(key, (currency, 0.0))[1]
        self._sum[currency] = self._sum.get(currency, 0.0) + amount - before
        self._run[key] = (currency, amount)
