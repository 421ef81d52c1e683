"""Property tests run the same cases each time (`HYPOTHESIS_PROFILE=search` looks for new ones); one worker more than processors, since
some tests wait for a service or a browser."""

import os

from hypothesis import settings

settings.register_profile("same", derandomize=True)
settings.register_profile("search", derandomize=False)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))


def pytest_xdist_auto_num_workers():
    return (os.cpu_count() or 1) + 1
