"""What a film costs on each model: its clips with the takes that they are likely to need, and its stills."""

from typing import NamedTuple

from syntagma.app.film.film_prompts import FilmPrompts
from syntagma.core.models.prices import cost, priced
from syntagma.core.models.profile import Profile


class FilmBill(NamedTuple):
    """What a film comes to on one model: clips and stills that are still to be made, the takes of all of them, seconds of film, money by
    currency (blank where the profile has no price), what the next best way to pack it would cost, what exists already, and each clip's name and seconds."""

    model: str
    clips: int
    stills: int
    takes: float
    seconds: float
    money: tuple[tuple[float, str], ...]
    next_best: float | None
    kept: int
    priced: bool
    named: tuple[tuple[str, float], ...] = ()

    @property
    def money_shown(self) -> str:
        """The money in words."""
        return " and ".join(priced(round(amount, 4), currency) for amount, currency in self.money) if self.money else "no price in its profile"

    @property
    def row(self) -> dict[str, str]:
        """The bill as a table has it."""
        takes = f"{self.takes:.3g}"
        return {"model": self.model, "clips": str(self.clips), "stills": str(self.stills), "takes": takes, "seconds": f"{self.seconds:g}", "money": self.money_shown}


def bill_of(prompts: FilmPrompts) -> FilmBill:
    """The bill of a film on one model."""
    sums: dict[str, float] = {}
    profile = prompts.profile
    new = [planned for planned in prompts.plan.clips if not planned.clip.pinned]
    if profile.price:
        sums[profile.price.currency] = sum(one.clip.price * one.clip.takes for one in new)
    stills = [made for made in prompts.made if made.kind != "clip" and not made.planned.clip.pinned]
    each = _still_takes(prompts.stills)
    for made in stills:
        if prompts.stills.price and (amount := cost(prompts.stills, made.prompt.around.values, made.prompt.words)):
            sums[prompts.stills.price.currency] = sums.get(prompts.stills.price.currency, 0.0) + amount * each
    best = prompts.plan.packing.next_best
    return FilmBill(
        profile.name or "no model", len(new), len(stills), sum(one.clip.takes for one in new) + each * len(stills), prompts.plan.seconds,
        tuple((amount, currency) for currency, amount in sums.items()), best if best is None or profile.price is None else round(best, 4),
        len(prompts.plan.clips) - len(new), profile.price is not None, tuple((one.name, one.clip.seconds) for one in prompts.plan.clips),
    )  # fmt: skip


def _still_takes(stills: Profile) -> float:
    return stills.price.takes if stills.price else 1.0

