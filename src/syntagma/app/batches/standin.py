"""The stand-in with the prices of the models that ship, so it charges what a request would cost."""

import re
from collections.abc import Iterator, Mapping
from typing import Any

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Refused, Trouble, perhaps
from syntagma.core.models.parameters import found_in, shown
from syntagma.core.models.prices import cost
from syntagma.core.models.profile import Profile
from syntagma.core.models.request_shape import shape_places
from syntagma.service.standin import FAULTS, PORT, Faults, Standin

_NUMBERS = {
    "length": "seconds",
    "seconds": "seconds",
    "pictures": "pictures",
    "sheets": "pictures",
    "count": "pictures",
}


def standin(
    workspace: Workspace,
    port: int = PORT,
    faults: str = "",
    seed: int = 1,
    takes: float = 0.4,
    keys: bool = True,
    key: str = "",
    credit: float = 1e9,
) -> Standin:
    """The service, ready to run. Raises Trouble if its port is in use or a fault is not known."""
    names = tuple(name.strip() for name in faults.split(",") if name.strip())
    names = tuple(FAULTS) if names == ("all",) else names
    for name in names:
        if name not in FAULTS:
            raise Trouble(
                f"no fault is called “{name}”",
                perhaps(name, FAULTS, f"the faults are {', '.join(FAULTS)}; or all"),
                2,
            )
    profiles: dict[str, Profile | None] = {}

    def known(model: str) -> Profile | None:
        if model not in profiles:
            try:
                profiles[model] = workspace.model(model) if model in workspace.models() else None
            except (Refused, Trouble):
                profiles[model] = None
        return profiles[model]

    def price(model: str, body: Mapping[str, Any]) -> float:
        profile = known(model)
        if profile is None or profile.price is None:
            return 1.0
        defaults = {
            name: one.default for name, one in profile.parameter.items() if one.default is not None
        }
        return (cost(profile, {**defaults, **_numbers(body)}, "") or 0.0) * (1 + profile.price.tax)

    try:
        return Standin(
            port,
            Faults(names, seed),
            price,
            takes,
            keys,
            key,
            credit,
            lambda model: model.endswith("-motion"),
            lambda model, body: _ratio(known(model), body),
        )
    except OSError as error:
        raise Trouble(
            f"the stand-in can't listen on port {port} ({error.strerror or error})",
            "give it another: --port 8790",
            3,
        ) from None


def _ratio(profile: Profile | None, body: Any) -> float:
    """Width to height as a request asks for them, by the model's own spellings; 0 if it says
    nothing.
    """
    rule = profile.parameter.get("ratio") if profile else None
    texts = list(_texts(body))
    if profile is None or rule is None:
        return 0.0
    spelled = {
        **{shown(value): shown(value) for value in rule.values},
        **{said: value for value, said in rule.spelled.items()},
    }
    wanted = next(
        (one.value for text in texts for one in found_in(profile, text) if one.name == "ratio"), ""
    ) or next((spelled[text] for text in texts if text in spelled), "")
    pixels = next(
        (match for text in texts if (match := re.fullmatch(r"(\d{2,5})[*x](\d{2,5})", text))), None
    )
    placed = {
        place: _at(body, path)
        for path, place in shape_places(profile.request)
        if place in ("width", "height")
    }
    if all(isinstance(placed.get(side), int) for side in ("width", "height")):
        return float(placed["width"] / placed["height"])
    sides = (
        profile.sizes.get(wanted)
        or re.findall(r"\d+(?:\.\d+)?", wanted)
        or (pixels.groups() if pixels else ())
    )
    return float(sides[0]) / float(sides[1]) if len(sides) == 2 and float(sides[1]) else 0.0


def _at(body: Any, path: tuple[Any, ...]) -> Any:
    for step in path:
        body = body.get(step) if isinstance(body, dict) else None
    return body


def _texts(body: Any) -> Iterator[str]:
    for one in body.values() if isinstance(body, dict) else body if isinstance(body, list) else ():
        if isinstance(one, str):
            yield one
        else:
            yield from _texts(one)


def _numbers(body: Any) -> dict[str, float]:
    """The numbers in a request that its price depends on, wherever they are."""
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
