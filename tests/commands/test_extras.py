"""What is an extra: it is reported when it is missing, and everything else works."""

import importlib.util

import pytest

from syntagma.app.existing import shortening
from tests.commands.program import good, run

LONG = "A linocut of a tired harbour pilot on a wet quay, lit by sodium quay lamps, fine detail, 8k"
FAMILY = (
    "expand",
    "poster",
    "medium=linocut",
    "subject=tea urn",
    "--vary",
    "light=candlelight,sodium quay lamps",
)


@pytest.fixture
def without(monkeypatch):
    """Makes a package as if it were not installed."""
    there = importlib.util.find_spec

    def hide(name: str) -> None:
        for module in (
            shortening,
            importlib.import_module("syntagma.app.families.report"),
            importlib.import_module("syntagma.app.families.files"),
        ):
            monkeypatch.setattr(
                module,
                "find_spec",
                lambda asked, *more: None if asked == name else there(asked, *more),
            )
        shortening.frequencies.cache_clear()

    yield hide
    shortening.frequencies.cache_clear()


def test_words(tmp_path, without):
    with_them = good(tmp_path, "shorten", LONG, "--json")
    without("wordfreq")
    done = run(tmp_path, "shorten", LONG, "--json")
    assert done.returncode == 0 and "pip install 'syntagma[words]'" in done.stderr
    assert "rare words" in with_them and "rare words" not in done.stdout


def test_plots(tmp_path, without):
    without("matplotlib")
    done = run(tmp_path, *FAMILY, "--table", "design.png")
    assert (
        done.returncode == 2
        and "pip install 'syntagma[plots]'" in done.stderr
        and not (tmp_path / "design.png").exists()
    )
    assert "candlelight" in good(tmp_path, *FAMILY, "--table", "-")


def test_parquet(tmp_path, without):
    without("pyarrow")
    done = run(tmp_path, *FAMILY, "--out", "all.parquet")
    assert done.returncode == 2 and "pip install 'syntagma[parquet]'" in done.stderr


def test_the_documented_names():
    import syntagma

    for name in syntagma.__all__:
        assert getattr(syntagma, name)
    with pytest.raises(AttributeError):
        _ = syntagma.nothing
