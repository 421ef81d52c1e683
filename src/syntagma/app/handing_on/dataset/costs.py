"""What a data set costs to train on and to use, in tokens and money, beside asking a general model with the formula's brief."""

from typing import NamedTuple

from syntagma.app.composing.asked import Taste
from syntagma.app.handing_on.brief import brief
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.models.measure import estimated_tokens

MILLION = 1_000_000


class Prices(NamedTuple):
    """Prices for a million tokens: of training, of using what was trained, of a general model; how often the set is gone through, and how many prompts
    are asked for."""

    training: float | None = None
    use: float | None = None
    general: float | None = None
    epochs: int = 3
    uses: int = 1000


class Tokens(NamedTuple):
    """Counts so far: pairs, tokens of instructions and of prompts."""

    pairs: int = 0
    asked: int = 0
    answered: int = 0

    def and_one(self, asked: str, answered: str) -> "Tokens":
        return Tokens(self.pairs + 1, self.asked + estimated_tokens(asked), self.answered + estimated_tokens(answered))


def cost_lines(workspace: Workspace, formulas: list[str], model: str | None, counted: Tokens, prices: Prices) -> list[tuple[str, str, str]]:
    """(What, tokens, money) of training once, of so many prompts from the trained model, and by a general model with the brief."""
    each = (counted.asked + counted.answered) / max(1, counted.pairs)
    page = sum(estimated_tokens(brief(workspace, name, model, 7, "", 0, "", Taste((), "usual", 1))) for name in formulas) / max(1, len(formulas))
    training = (counted.asked + counted.answered) * prices.epochs
    use, general = each * prices.uses, (each + page) * prices.uses
    return [
        (f"training, {prices.epochs} times through", f"{training:,.0f}", _money(training, prices.training)),
        (f"{prices.uses:,} prompts from the trained model", f"{use:,.0f}", _money(use, prices.use)),
        (f"{prices.uses:,} prompts from a general model, with the brief each time", f"{general:,.0f}", _money(general, prices.general)),
    ]


def pays_after(counted: Tokens, lines: list[tuple[str, str, str]], prices: Prices) -> int | None:
    """After how many prompts training has paid, where all three prices are known; None if it never does, or nothing is known."""
    if None in (prices.training, prices.use, prices.general):
        return None
    training, use, general = (float(line[2]) for line in lines)
    saved = (general - use) / prices.uses
    return -int(-training // saved) if saved > 0 else None


def _money(tokens: float, price: float | None) -> str:
    return "" if price is None else f"{tokens * price / MILLION:.2f}"
