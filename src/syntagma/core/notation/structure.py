"""Structures of values, whose annotations are their fields; and which values of files are usable at
all.
"""

from collections.abc import Callable, Iterator, Mapping
from typing import Any, ClassVar, Literal, NamedTuple, TypeVar, dataclass_transform

from syntagma.core.diagnostics import SyntagmaError

# ──── Structures of values: the annotations of a class are its fields. They are light, so a call
# which reads no file of values waits for no validator; validation.py makes them of what a file
# says.


class Bounds(NamedTuple):
    """What a number or a text has to keep to, in an annotation: Annotated[int, Bounds(ge=1)]."""

    ge: float | None = None
    gt: float | None = None
    le: float | None = None
    lt: float | None = None
    pattern: str | None = None


@dataclass_transform(kw_only_default=True, frozen_default=True)
class Structure:
    """Values by name that don't change. A field without a default must be given; lists and tables
    are each one's own. `KEYS` is how its keys are spelled in a file: "as-written" for as_written
    with "kebab"; `MORE` says whether unknown ones are passed over.
    """

    FIELDS: ClassVar[tuple[str, ...]] = ()
    HINTS: ClassVar[Mapping[str, Any]] = {}
    DEFAULTS: ClassVar[Mapping[str, Any]] = {}
    KEYS: ClassVar[Literal["", "kebab"]] = ""
    MORE: ClassVar[bool] = False

    def __init_subclass__(cls, keys: Literal["", "kebab"] = "", more: bool = False) -> None:
        own = [name for name in cls.__annotations__ if not name.isupper()]
        cls.FIELDS = (*cls.FIELDS, *own)
        cls.HINTS = {**cls.HINTS, **{name: cls.__annotations__[name] for name in own}}
        cls.DEFAULTS = {
            **cls.DEFAULTS,
            **{name: cls.__dict__[name] for name in own if name in cls.__dict__},
        }
        cls.KEYS, cls.MORE = keys or cls.KEYS, more or cls.MORE

    def __init__(self, **values: Any) -> None:
        """Raises TypeError if a field is unknown, or one without a default is missing."""
        wrong = (
            values.keys() - set(self.FIELDS)
            or set(self.FIELDS) - values.keys() - self.DEFAULTS.keys()
        )
        if wrong:
            raise TypeError(f"{type(self).__name__}: {', '.join(sorted(wrong))}")
        whole = {
            name: values[name] if name in values else self.DEFAULTS[name] for name in self.FIELDS
        }
        self.__dict__.update(
            {
                name: value.copy() if type(value) in (list, dict) else value
                for name, value in whole.items()
            }
        )

    def __setattr__(self, name: str, value: object) -> None:
        raise AttributeError(f"{type(self).__name__}.{name} does not change")

    def __eq__(self, other: object) -> bool:
        return type(other) is type(self) and other.__dict__ == self.__dict__

    def __repr__(self) -> str:
        return f"{type(self).__name__}({', '.join(f'{name}={value!r}' for name, value in self)})"

    def __iter__(self) -> Iterator[tuple[str, Any]]:
        return iter(self.__dict__.items())


Kind = TypeVar("Kind", bound=Structure)


def changed(structure: Kind, **values: Any) -> Kind:
    """The same with other values in some fields."""
    return type(structure)(**{**structure.__dict__, **values})


def plain(value: Any) -> Any:
    """A structure, and whatever structures there are in it, as tables, lists and single values."""
    if isinstance(value, Structure):
        return {name: plain(inner) for name, inner in value}
    if isinstance(value, dict):
        return {key: plain(inner) for key, inner in value.items()}
    return [plain(inner) for inner in value] if isinstance(value, list | tuple) else value


# ──── What values of files are usable: numbers that are none, or of more digits than a machine's,
# values nested beyond all sense, halves of characters are valid by the letter, and are refused with
# a reason as a slip of spelling is.


DEEP = 60  # levels that a value may be nested
MANY_DIGITS = "a whole number has too many digits"
_LEAST, _LARGEST = -(2**63), 2**64 - 1  # whole numbers that every reader takes


def no_number(number: int | float) -> str:
    """Why a number is unusable; "" if it is."""
    if isinstance(number, float):
        return "" if float("-inf") < number < float("inf") else f"{number} is not a number"
    return "" if _LEAST <= number <= _LARGEST else MANY_DIGITS


class UselessNumber(SyntagmaError, ValueError):
    """A number that is none, or of too many digits."""


def useful_number(text: str) -> float:
    """A number as it is written. Raises UselessNumber."""
    if len(text) > 400:
        raise UselessNumber("a number has too many digits")
    number = float(text.replace("_", ""))
    if wrong := no_number(number):
        raise UselessNumber(wrong)
    return number


def senseless(value: Any) -> str:
    """What makes a value unusable, wherever it is in it; "" if nothing does."""
    checks: dict[type, Callable[[Any], str]] = {
        int: no_number,
        float: no_number,
        str: half_character,
    }
    level = [value]
    for _ in range(DEEP):
        below: list[Any] = []
        for one in level:
            if isinstance(one, dict):
                below += one.keys()
                below += one.values()
            elif isinstance(one, list):
                below += one
            elif (check := checks.get(type(one))) and (wrong := check(one)):
                return wrong
        if not below:
            return ""
        level = below
    return "it is nested too deeply"


def half_character(text: str) -> str:
    """Why a text can't be written: it holds half of a character (a surrogate by itself); "" if it
    can.
    """
    try:
        text.encode("utf-8")
    except UnicodeEncodeError as error:
        return f"the text holds half of a character (\\u{ord(text[error.start]):04x})"
    return ""
