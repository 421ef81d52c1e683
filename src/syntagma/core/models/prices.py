"""What generations cost: per prompt, picture, second or thousand tokens, by parameter, with what is
free each day.
"""

from collections.abc import Iterable, Mapping
from math import ceil
from typing import NamedTuple

from syntagma.core.models.measure import estimated_tokens
from syntagma.core.models.parameters import shown
from syntagma.core.models.profile import Profile, Value


def cost(profile: Profile, values: Mapping[str, Value], text: str) -> float | None:
    """What one generation costs; None if the profile has no price.

    amount × what is counted, then each factor that applies: times its factor, plus what it adds.
    """
    price = profile.price
    if price is None:
        return None
    many = {
        "prompt": lambda: 1.0,
        "picture": lambda: _number(values.get(price.pictures), 1.0),
        "second": lambda: _number(values.get(price.seconds), 0.0),
        "thousand-tokens": lambda: _tokens(profile, text) / 1000,
    }[price.per]()
    amount = price.amount * many
    for factor in price.factors:
        if factor.parameter in values and shown(values[factor.parameter]) == shown(factor.value):
            amount = amount * factor.times + factor.plus
    return amount


def _number(value: Value | None, otherwise: float) -> float:
    return (
        float(value)
        if isinstance(value, int | float) and not isinstance(value, bool)
        else otherwise
    )


def _tokens(profile: Profile, text: str) -> int:
    limit = profile.text_limit
    return limit.count(text) if limit and limit.unit == "tokens" else estimated_tokens(text)


class Bill(NamedTuple):
    """What a family costs on one model: prompts, their sum in the model's currency, days of
    allowance that it takes.
    """

    model: str
    prompts: int
    amount: float | None
    currency: str = ""
    free: int = 0

    @property
    def days(self) -> int:
        """Days in which the free allowance covers all prompts; 0 if there is none."""
        return ceil(self.prompts / self.free) if self.free else 0

    def shown(self) -> str:
        """The bill in words."""
        if self.amount is None:
            return f"{self.model}: {self.prompts:,} prompts, no price in its profile"
        said = f"{self.model}: {self.prompts:,} prompts, {priced(self.amount, self.currency)}"
        return (
            f"{said}, or {self.days:,} day{'' if self.days == 1 else 's'} of its {self.free} free"
            " a day"
            if self.free
            else said
        )


def bill(profile: Profile, prompts: int, amount: float | None) -> Bill:
    """The bill for some prompts that cost `amount` together."""
    price = profile.price
    return Bill(
        profile.name or "no model",
        prompts,
        amount,
        price.currency if price else "",
        price.free if price else 0,
    )


def sums(bills: Iterable[Bill]) -> dict[str, float]:
    """What bills come to, by currency."""
    found: dict[str, float] = {}
    for one in bills:
        if one.amount is not None:
            found[one.currency] = found.get(one.currency, 0.0) + one.amount
    return found


def in_all(bills: Iterable[Bill]) -> str:
    """What bills come to, in words: 12 credits and 3 coins."""
    return " and ".join(priced(amount, currency) for currency, amount in sums(bills).items())


def priced(amount: float, currency: str) -> str:
    """An amount with its currency: 1 credit, 4 credits; the bare number of a price without a
    currency.
    """
    return f"{money(amount)} {currency[:-1] if amount == 1 and currency.endswith('s') else currency}".strip()  # noqa: E501


def money(amount: float) -> str:
    """An amount with as many digits as say something: 12, 1.5, 0.04, 0.0025."""
    return (
        f"{amount:,.2f}".rstrip("0").rstrip(".")
        if amount >= 0.01 or amount == 0
        else f"{amount:.2g}"
    )
