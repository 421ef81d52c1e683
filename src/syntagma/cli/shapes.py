"""help json: what --json prints, by command; the shapes are those of data/schemas/output.json (JSON
Schema, draft 2020-12).
"""

import json
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

SCHEMAS = Path(__file__).parents[1] / "data" / "schemas" / "output.json"


def schemas() -> dict[str, Any]:
    """The schemas of all shapes, as they ship."""
    return json.loads(SCHEMAS.read_text("utf-8"))


def schema_of(shape: str) -> dict[str, Any]:
    """The schema of one shape, with the definitions that it needs. Raises KeyError if there is none
    of that name.
    """
    whole = schemas()
    known, wanted, needed = whole["$defs"], [shape], {}
    while wanted:
        name = wanted.pop()
        if name not in needed:
            needed[name] = known[name]
            wanted += _named(known[name])
    return {
        "$schema": whole["$schema"],
        "title": shape,
        "$ref": f"#/$defs/{shape}",
        "$defs": dict(sorted(needed.items())),
    }


def _named(part: object) -> Iterator[str]:
    """The definitions that a part of a schema refers to."""
    if isinstance(part, dict):
        if "$ref" in part:
            yield part["$ref"].removeprefix("#/$defs/")
        for value in part.values():
            yield from _named(value)
    elif isinstance(part, list):
        for value in part:
            yield from _named(value)


def help_json(names: Sequence[str], printed: Mapping[str, Sequence[str]]) -> tuple[str, str]:
    """(What `syntagma help json …` prints, what to write instead): without a name the shapes by
    command, with one its schema.
    """
    known = schemas()["$defs"]
    if not names:
        width = max(map(len, printed))
        rows = "\n".join(
            f"  {call:<{width}}  {', '.join(shapes)}" for call, shapes in printed.items()
        )
        return (
            (
                f"What --json prints, by command:\n\n{rows}\n\n`syntagma help json NAME` prints the"
                ' JSON Schema of one; {"items": […], "findings": […]} where there may be many.'
            ),
            "",
        )
    if names[0] not in known:
        from syntagma.core.diagnostics import nearest

        near = nearest(names[0], known)
        return "", (
            f"did you mean: syntagma help json {near}"
            if near
            else "`syntagma help json` lists them"
        )
    return json.dumps(schema_of(names[0]), indent=2, ensure_ascii=False), ""
