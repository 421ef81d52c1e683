"""The stand-in with the prices of the models that ship: what a request would cost is what it charges."""

from collections.abc import Mapping
from typing import Any

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.places import Refused
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.models.prices import cost
from syntagma.core.models.profile import Profile
from syntagma.service.standin.faults import FAULTS, Faults
from syntagma.service.standin.server import PORT, Standin
from syntagma.storage.trouble import Trouble

_NUMBERS = {"length": "seconds", "seconds": "seconds", "pictures": "pictures", "sheets": "pictures", "count": "pictures"}


def standin(workspace: Workspace, port: int = PORT, faults: str = "", seed: int = 1, takes: float = 0.4, keys: bool = True, key: str = "", credit: float = 1e9) -> Standin:
    """The service, ready to serve. Raises Trouble where its port is taken, or a fault is none."""
    names = tuple(name.strip() for name in faults.split(",") if name.strip())
    names = tuple(FAULTS) if names == ("all",) else names
    for name in names:
        if name not in FAULTS:
            raise Trouble(f"there is no fault “{name}”", perhaps(name, FAULTS, f"there are {', '.join(FAULTS)}; or all"), 2)
    profiles: dict[str, Profile | None] = {}

    def price(model: str, body: Mapping[str, Any]) -> float:
        if model not in profiles:
            try:
                profiles[model] = workspace.model(model) if model in workspace.models() else None
            except (Refused, Trouble):
                profiles[model] = None
        profile = profiles[model]
        if profile is None or profile.price is None:
            return 1.0
        defaults = {name: one.default for name, one in profile.parameter.items() if one.default is not None}
        return (cost(profile, {**defaults, **_numbers(body)}, "") or 0.0) * (1 + profile.price.tax)

    try:
        return Standin(port, Faults(names, seed), price, takes, keys, key, credit, lambda model: model.endswith("-motion"))
    except OSError as error:
        raise Trouble(f"the stand-in can't listen on port {port} ({error.strerror or error})", "give it another: --port 8790", 3) from None


def _numbers(body: Any) -> dict[str, float]:
    """The numbers of a request that a price hangs on, wherever they stand in it."""
    found: dict[str, float] = {}
    if isinstance(body, dict):
        for name, value in body.items():
            if name in _NUMBERS and isinstance(value, int | float) and not isinstance(value, bool):
                found.setdefault(_NUMBERS[name], value)
            found = {**_numbers(value), **found}
    elif isinstance(body, list):
        for one in body:
            found = {**_numbers(one), **found}
    return found
