"""Property tests run the same cases each time (`HYPOTHESIS_PROFILE=search` looks for new ones); one worker more than processors, since
some tests wait for a service or a browser."""

import os
from functools import cache

import pytest
from hypothesis import settings

from syntagma.core.vocabulary import facets
from syntagma.storage.folders import SHIPPED

settings.register_profile("same", derandomize=True)
settings.register_profile("search", derandomize=False)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))


def pytest_xdist_auto_num_workers():
    return (os.cpu_count() or 1) + 1


@pytest.fixture(autouse=True)
def shipped_facets():
    """Each test begins with the facets that ship; a workspace that it loads brings its own."""
    facets.use(_shipped)


@cache
def _shipped():
    return facets.read_facets((SHIPPED / "facets.toml").read_text("utf-8"), "facets.toml")
