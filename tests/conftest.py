"""Property tests run the same cases each time; `HYPOTHESIS_PROFILE=search` looks for new ones."""

import os

from hypothesis import settings

settings.register_profile("same", derandomize=True)
settings.register_profile("search", derandomize=False)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))
