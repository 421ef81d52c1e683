"""What has to be known of a family before it is written: what it costs, and where its parts begin. Both write it once without keeping it."""

from typing import NamedTuple

from syntagma.app.families.family import Family, Window, Wish
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.models.prices import money, sums
from syntagma.storage.trouble import Trouble


class Counted(NamedTuple):
    """How many members a family has, and whether every combination that contradicts nothing is one; the family itself, run through."""

    members: int
    straight: bool
    family: Family

    def part(self, number: int, parts: int) -> Window:
        """The members of one part, parts counted from 1: the parts joined are the whole."""
        return Window(self.members * (number - 1) // parts, self.members * number // parts, self.straight)


def counted(workspace: Workspace, wish: Wish) -> Counted:
    """Count a family, which only writing it can tell: members that would be twins, or that a limit allows no text, fall out."""
    family = _run_through(workspace, wish)
    fell_out = family.twins or family.failed or family.near or wish.without
    return Counted(family.written, bool(family.axes) and not fell_out, family)


def keep_to(budget: float, workspace: Workspace, wish: Wish) -> None:
    """See what a whole family costs. Raises Trouble where that is more than `budget` in any currency."""
    for currency, amount in sums(_run_through(workspace, wish).bills()).items():
        if amount > budget + 1e-9:
            message = f"the family costs {money(amount)} {currency}, more than the {money(budget)} allowed"
            remedy = "ask for fewer (--count), a cheaper model (`syntagma models --for FORMULA`), or a larger --budget"
            raise Trouble(message, remedy, 1)


def _run_through(workspace: Workspace, wish: Wish) -> Family:
    family = Family(workspace, wish)
    for _ in family.blocks():
        pass
    return family
