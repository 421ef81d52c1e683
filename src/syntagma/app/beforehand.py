"""What has to be known of a family before it is written: what it costs, and where its parts begin. Both write it once without keeping it."""

from syntagma.app.expanding import Family, Wish
from syntagma.app.world import World
from syntagma.core.models.prices import money, sums
from syntagma.storage.trouble import Trouble


def part_of(world: World, wish: Wish, number: int, parts: int) -> tuple[int, int]:
    """The members of one part of a family, from and to, parts counted from 1: the parts joined are the whole. The family is written
    once without being kept, since only that tells how many members differ."""
    family = Family(world, wish)
    for _ in family.blocks():
        pass
    return family.written * (number - 1) // parts, family.written * number // parts


def keep_to(budget: float, world: World, wish: Wish) -> None:
    """Write a whole family without keeping it, to see what it costs. Raises Trouble where that is more than `budget` in any
    currency."""
    family = Family(world, wish)
    for _ in family.blocks():
        pass
    for currency, amount in sums(family.bills()).items():
        if amount > budget + 1e-9:
            message = f"the family costs {money(amount)} {currency}, more than the {money(budget)} allowed"
            remedy = "ask for fewer (--count), a cheaper model (`syntagma models --for FORMULA`), or a larger --budget"
            raise Trouble(message, remedy, 1)
