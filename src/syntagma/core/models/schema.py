"""The JSON Schema of profiles (draft 2020-12), for editors: made from the structures that files are validated against."""

from typing import Any

from msgspec.json import schema

from syntagma.core.models.profile import Profile
from syntagma.core.models.profile_file import HIDDEN
from syntagma.core.notation.twins import twin_of


def profile_schema() -> dict[str, Any]:
    """The schema of a profile file."""
    made = schema(twin_of(Profile))
    for name, definition in made["$defs"].items():
        definition.pop("default", None)
        properties = definition.get("properties", {})
        for hidden in HIDDEN if name == "Profile" else ():
            properties.pop(hidden, None)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "A model profile of Syntagma", **made}
