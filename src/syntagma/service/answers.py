"""The replies of a service, read with a profile's pointers; nothing in them is trusted."""

import re
from collections.abc import Mapping
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any, NamedTuple

from syntagma.core.models.profile import Answer

MISSING = object()


class Result(NamedTuple):
    """One result of a task: where it can be obtained, or itself as base64; until when (seconds
    since 1970, 0: nobody says).
    """

    address: str = ""
    data: str = ""
    expires: float = 0.0


class Told(NamedTuple):
    """What an answer says of a task. `state` is one of waiting, done, failed, refused, cancelled,
    or "" if its word is not known.
    """

    task: str = ""
    state: str = ""
    word: str = ""
    progress: float | None = None
    results: tuple[Result, ...] = ()
    charged: float | None = None
    why: str = ""


def at(value: Any, pointer: str) -> Any:
    """What a JSON Pointer (RFC 6901) leads to; MISSING if nothing is there. A blank pointer leads
    nowhere.
    """
    if not pointer:
        return MISSING
    for step in pointer.split("/")[1:]:
        step = step.replace("~1", "/").replace("~0", "~")
        if isinstance(value, Mapping) and step in value:
            value = value[step]
        elif (
            isinstance(value, list)
            and step.lstrip("-").isdigit()
            and -len(value) <= int(step) < len(value)
        ):
            value = value[int(step)]
        else:
            return MISSING
    return value


def text_at(value: Any, pointer: str) -> str:
    """What is at a pointer, as text; "" if nothing does."""
    found = at(value, pointer)
    return (
        ""
        if found is MISSING or found is None or isinstance(found, dict | list | bool)
        else str(found)
    )


def put(value: dict[str, Any], pointer: str, what: Any) -> dict[str, Any]:
    """A copy of a request with something at a pointer; tables on the way are made."""
    made = dict(value)
    table = made
    *path, last = pointer.split("/")[1:]
    for step in path:
        inner = table.get(step)
        table[step] = dict(inner) if isinstance(inner, dict) else {}
        table = table[step]
    table[last] = what
    return made


def told(answer: Any, rule: Answer, clock: float) -> Told:
    """What an answer says, at a time (seconds since 1970)."""
    said = at(answer, rule.state)
    word = ("true" if said else "false") if isinstance(said, bool) else text_at(answer, rule.state)
    state = next(
        (
            name
            for name in ("done", "failed", "refused", "cancelled", "waiting")
            if word and word.lower() in (one.lower() for one in getattr(rule, name))
        ),
        "",
    )
    wrong = at(answer, rule.wrong)
    why = (
        wrong
        if isinstance(wrong, str)
        else _reason(wrong)
        if wrong not in (MISSING, None, False, "", {}, [])
        else ""
    )
    results = _results(answer, rule, clock)
    if why and state in ("", "waiting", "done") and not results:
        state = "failed"
    if not state and not rule.state and results:
        state = "done"
    return Told(
        text_at(answer, rule.task),
        state,
        word,
        _share(text_at(answer, rule.progress)),
        results,
        _charge(text_at(answer, rule.charged)),
        why[:500],
    )


def _results(answer: Any, rule: Answer, clock: float) -> tuple[Result, ...]:
    found = at(answer, rule.results) if rule.results else answer
    if found is MISSING or found is None:
        return ()
    results = []
    for one in found if isinstance(found, list) else [found]:
        bare = isinstance(one, str)
        address = (
            one
            if bare and rule.address in ("", "/") and rule.results
            else text_at(one, rule.address)
        )
        data = text_at(one, rule.data)
        until = at(one, rule.expires) if not bare else MISSING
        until = at(answer, rule.expires) if until is MISSING else until
        if address or data:
            results.append(Result(address, data, expiry(until, clock)))
    return tuple(results)


def expiry(value: Any, clock: float) -> float:
    """When something ends, in seconds since 1970: from a date (ISO 8601, HTTP), from such seconds,
    or from the seconds that are left; 0 if nothing says it.
    """
    if value is MISSING or value is None or isinstance(value, bool):
        return 0.0
    number = _number(str(value)) if re.fullmatch(r"[+-]?[\d.]+", str(value).strip()) else None
    if number is not None:
        return number / 1000 if number > 1e11 else number if number > 1e9 else clock + number
    try:
        when = datetime.fromisoformat(str(value).strip().replace("Z", "+00:00"))
    except ValueError:
        try:
            when = parsedate_to_datetime(str(value))
        except (ValueError, TypeError, IndexError):
            return 0.0
    return (when if when.tzinfo else when.replace(tzinfo=UTC)).timestamp()


def _reason(value: Any) -> str:
    """A reason in words, wherever a service puts it."""
    if isinstance(value, Mapping):
        for name in ("message", "detail", "reason", "error", "description", "title", "code"):
            if isinstance(value.get(name), str):
                return value[name]
        return "; ".join(
            f"{key}: {one}"
            for key, one in list(value.items())[:4]
            if isinstance(one, str | int | float)
        )
    if isinstance(value, list):
        return "; ".join(
            filter(None, (_reason(one) if not isinstance(one, str) else one for one in value[:3]))
        )
    return str(value)


def reason_of(answer: Any, rule: Answer) -> str:
    """Why a service turned something down, as its answer has it."""
    wrong = at(answer, rule.wrong)
    found = _reason(wrong) if wrong not in (MISSING, None, False, "", {}, []) else ""
    if not found and isinstance(answer, Mapping):
        found = _reason(
            {
                name: answer[name]
                for name in ("error", "message", "detail", "errors", "reason")
                if isinstance(answer.get(name), str)
            }
        ) or next(
            (
                _reason(answer[name])
                for name in ("error", "errors", "detail")
                if isinstance(answer.get(name), dict | list)
            ),
            "",
        )
    return found[:500]


def _share(text: str) -> float | None:
    number = _number(text.rstrip("%"))
    return None if number is None else max(0.0, min(1.0, number / 100 if number > 1 else number))


_AMOUNT = re.compile(
    r"[^\d.+-]{0,4}([+-]?(?:\d{1,18}(?:\.\d{0,12})?|\.\d{1,12})(?:[eE][+-]?\d{1,2})?)(?:\s*[^\W\d]{1,12}|\s*[€$£])?"
)


def _charge(text: str) -> float | None:
    """What a task was charged; None if nothing that can be a charge is there."""
    number = _number(text)
    return number if number is not None and number >= 0 else None


def _number(text: str) -> float | None:
    """A number, whatever currency goes with it; None if it is none."""
    match = _AMOUNT.fullmatch(text.strip())
    return float(match[1]) if match else None
