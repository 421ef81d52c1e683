"""How a person comes to something: the core says what to do; its caller names the command for it (`use`)."""

from collections.abc import Mapping

_WAYS = {  # by name: what is said if nobody has a call for it
    "facets": "use an existing facet",
    "terms": "use a term of {facet}",
    "looks": "an existing one",
    "models": "use an existing model",
    "stress": "{name}={weight}",
    "parameter": "{name}={value}",
    "tags": "use a tag of the vocabulary",
    "language": "use the language of formulas",
}
NAMES = frozenset(_WAYS)


def use(ways: Mapping[str, str]) -> None:
    """Say it in these words from now on: by name, each with the same values in {braces}. Raises KeyError for a name that there is not."""
    for name, said in ways.items():
        if name not in NAMES:
            raise KeyError(name)
        _WAYS[name] = said


def way(name: str, /, **values: object) -> str:
    """How a person comes to something."""
    return _WAYS[name].format(**values)
