"""What belongs to a film beside its shot list: NAME.toml next to NAME.csv. Title, formula, looks, models, frame rate, respellings, clothes."""

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from syntagma.core.diagnostics.places import Refused
from syntagma.core.notation.toml_file import TomlFile
from syntagma.storage.files import read_text

RATES = (8.0, 120.0)


class FilmFile(NamedTuple):
    """A film's own settings. `wears` is a person → story day → clothes; `say` a word → how it is said."""

    title: str = ""
    formula: str = "film-shot"
    model: str = ""
    stills: str = ""
    looks: tuple[str, ...] = ()
    rate: float = 24.0
    say: Mapping[str, str] = {}
    wears: Mapping[str, Mapping[str, str]] = {}


def film_file(shot_list: Path) -> FilmFile:
    """The settings beside a shot list; the usual ones if no such file exists. Raises Refused or Trouble."""
    path = shot_list.with_suffix(".toml")
    if shot_list.suffix.lower() == ".toml" or not path.is_file():
        return FilmFile(title=shot_list.stem)
    return read_film(read_text(path, "a film's settings"), str(path), shot_list.stem)


def read_film(text: str, source: str, title: str) -> FilmFile:
    """Read a film's settings. Raises Refused with all its mistakes."""
    file = TomlFile(text, source)
    values = file.values()
    number = values.pop("rate", 24.0)
    if isinstance(number, bool) or not isinstance(number, int | float) or not RATES[0] <= number <= RATES[1]:
        file.wrong("rate", f"“{number}” is not a frame rate", "write rate = 24, or a number from 8 to 120")
        number = 24.0
    good = file.good(values, {"title": str, "formula": str, "model": str, "stills": str, "looks": list, "say": dict, "wears": dict}, "a film")
    for word, said in good.get("say", {}).items():
        if not isinstance(said, str) or not said.strip():
            file.wrong(word, f"“{word}” has no respelling", f'write {word} = "as it is said"', "say")
    for person, days in good.get("wears", {}).items():
        if not isinstance(days, dict) or not all(isinstance(clothes, str) for clothes in days.values()):
            file.wrong(person, f"what {person} wears is a table of days", f'write {person} = {{ 2 = "a borrowed duffel coat" }}', "wears")
    if file.mistakes:
        raise Refused(file.mistakes)
    looks = tuple(str(name) for name in good.pop("looks", ()))
    return FilmFile(**{"title": title, "rate": float(number), "looks": looks, **good})
