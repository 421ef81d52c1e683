"""Model profiles: what one generator takes, and how its limits are counted."""

from syntagma.core.models.measure import Limit
from syntagma.core.models.profile import PLAIN, Profile

__all__ = ["PLAIN", "Limit", "Profile"]
