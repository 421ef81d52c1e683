"""Model profiles: what one generator takes, and how its limits are counted."""

from syntagma.core.models.measure import Limit
from syntagma.core.models.profile import FORMS, PLAIN, Profile

__all__ = ["FORMS", "PLAIN", "Limit", "Profile"]
