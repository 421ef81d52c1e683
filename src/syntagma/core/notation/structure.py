"""Structures of values: the annotations of a class are its fields. They are light, so a call which reads no file of values waits
for no validator; validation.py makes them of what a file says."""

from collections.abc import Iterator, Mapping
from typing import Any, ClassVar, Literal, NamedTuple, TypeVar, dataclass_transform


class Bounds(NamedTuple):
    """What a number or a text has to keep to, in an annotation: Annotated[int, Bounds(ge=1)]."""

    ge: float | None = None
    gt: float | None = None
    le: float | None = None
    lt: float | None = None
    pattern: str | None = None


@dataclass_transform(kw_only_default=True, frozen_default=True)
class Structure:
    """Values by name that don't change. A field without a default must be given; lists and tables are each one's own. `KEYS` is how
    its keys are spelled in a file: "as-written" for as_written with "kebab"; `MORE` says whether unknown ones are passed over."""

    FIELDS: ClassVar[tuple[str, ...]] = ()
    HINTS: ClassVar[Mapping[str, Any]] = {}
    DEFAULTS: ClassVar[Mapping[str, Any]] = {}
    KEYS: ClassVar[Literal["", "kebab"]] = ""
    MORE: ClassVar[bool] = False

    def __init_subclass__(cls, keys: Literal["", "kebab"] = "", more: bool = False) -> None:
        own = [name for name in cls.__annotations__ if not name.isupper()]
        cls.FIELDS = (*cls.FIELDS, *own)
        cls.HINTS = {**cls.HINTS, **{name: cls.__annotations__[name] for name in own}}
        cls.DEFAULTS = {**cls.DEFAULTS, **{name: cls.__dict__[name] for name in own if name in cls.__dict__}}
        cls.KEYS, cls.MORE = keys or cls.KEYS, more or cls.MORE

    def __init__(self, **values: Any) -> None:
        """Raises TypeError if a field is unknown, or one without a default is missing."""
        wrong = values.keys() - set(self.FIELDS) or set(self.FIELDS) - values.keys() - self.DEFAULTS.keys()
        if wrong:
            raise TypeError(f"{type(self).__name__}: {', '.join(sorted(wrong))}")
        whole = {name: values[name] if name in values else self.DEFAULTS[name] for name in self.FIELDS}
        self.__dict__.update({name: value.copy() if type(value) in (list, dict) else value for name, value in whole.items()})

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
