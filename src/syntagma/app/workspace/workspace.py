"""Everything that apply: the layers, their vocabulary, formulas and models, and the workspace's
settings.
"""

import os
import re
from collections.abc import Callable, Sequence
from functools import cache, cached_property, lru_cache, partial
from pathlib import Path
from typing import TYPE_CHECKING

from syntagma.core.diagnostics import Finding, Mistake, Refused, Trouble, perhaps
from syntagma.core.formula import (
    Formula,
    check_formula,
    is_oneline,
    read_formula,
    read_oneline,
    with_look,
    yielding,
)
from syntagma.core.models import FORMS, PLAIN, Profile
from syntagma.core.notation.toml import NoToml, read_toml, toml_mistake
from syntagma.core.picking.themes import Theme, read_theme
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.terms import Index, Term, Vocabulary, index_of, normal
from syntagma.formats.table_in import read_situations, read_terms
from syntagma.storage import folders
from syntagma.storage.files import MOST, read_text
from syntagma.storage.folders import Marks, by_name, compiled, read_marks

# ──── Tokens counted as a generator counts them, by a tokenizer.json of the person's.


def counter_of(path: Path) -> Callable[[str], int]:
    """What counts the tokens of a text, special ones apart. Raises LookupError if the file or the
    package is not there, ValueError where the file is not a tokenizer.
    """
    if not path.is_file() or path.stat().st_size > MOST:
        raise LookupError("the file does not exist, or is too large")
    try:
        from tokenizers import Tokenizer
    except ImportError:
        raise LookupError(
            "the package tokenizers is not installed: pip install 'syntagma[tokens]'"
        ) from None
    try:
        tokenizer = Tokenizer.from_file(str(path))
    except Exception as error:  # the package raises nothing narrower
        raise ValueError(f"it is not a tokenizer ({error})") from None

    @lru_cache(maxsize=65536)
    def count(text: str) -> int:
        return len(tokenizer.encode(text, add_special_tokens=False).ids)

    return count


# ──── Everything that apply: the layers, their vocabulary, formulas and models, and the workspace's
# settings.


if TYPE_CHECKING:
    from syntagma.core.models.references import KnownReference
    from syntagma.core.picking.situations import Situation
    from syntagma.core.vocabulary.facets import Traits
    from syntagma.core.vocabulary.world import Dimensions
    from syntagma.core.writing.prompt import Manner

SETTING_KEYS = ("model", "budget", "results")
KNOWN, FACETS, WORLD, DEEDS = "known.toml", "facets.toml", "world.toml", "deeds.toml"
BASES = 16  # profiles that may build on one another


class Workspace:
    """What a command works with. Facets, formulas and models are read when they are asked for.

    `mistakes` collects what could not be read in vocabulary files: the rest of them is that apply
    all the same.
    """

    def __init__(
        self,
        folder: Path | None = None,
        layers: list[folders.Layer] | None = None,
        tell: Callable[[str], None] | None = None,
    ):
        self.tell, self._told = tell, set()
        self.folder = folder
        self.layers = layers if layers is not None else folders.layers(folder)
        self.mistakes: list[Mistake] = []
        self._profiles: dict[str, Profile] = {}
        self._reading: list[str] = []  # the models that are being read, each building on the next
        self._facets = self._room("vocabulary", ".csv")
        facets.use(self._traits)
        self.vocabulary = Vocabulary(
            self._facets, self._terms, self._traits, self._dimensions, self._indexed
        )
        self.settings = self._settings()

    @classmethod
    def load(
        cls, start: Path | None = None, tell: Callable[[str], None] | None = None
    ) -> "Workspace":
        """The workspace as it is from a folder, the current one by default. `tell` hears of what
        can't be read and is left out.
        """
        here = (start or Path.cwd()).resolve()
        found = folders.find_workspace(here)
        if found is None and tell and folders.looks_like_one(here):
            tell(
                "this folder looks like a workspace but is not one, so its files are ignored:"
                " `syntagma start .` makes it one"
            )
        return cls(found, tell=tell)

    def leave_out(self, what: str, why: Exception) -> None:
        """Something can't be read, so this call does without it, and reports that once."""
        if self.tell and what not in self._told:
            self._told.add(what)
            self.tell(
                f"{what} can't be read, so it is left out ({str(why).splitlines()[0]}); `syntagma"
                " check` explains it"
            )

    def _room(self, room: str, ending: str) -> dict[str, list[tuple[str, Path]]]:
        found: dict[str, list[tuple[str, Path]]] = {}
        for layer in self.layers:
            for name, path in layer.files(room, ending).items():
                found.setdefault(name, []).append((layer.name, path))
        return found

    def _traits(self) -> "dict[str, Traits]":
        """What facets are like, the person's own and the workspace's over what ships. A file that
        can't be read is left out.
        """
        from syntagma.core.vocabulary.facets import read_facets

        found: dict[str, Traits] = {}
        for layer in self.layers:
            if layer.path == folders.SHIPPED:
                found |= _shipped_traits()
            elif (path := layer.path / FACETS).exists():
                try:
                    text = read_text(path, "the facets")
                    found |= read_facets(text, self.shown(path), found)
                except (Refused, Trouble) as bad:
                    self.leave_out(self.shown(path), bad)
        return found

    def _dimensions(self) -> "Dimensions":
        """What pictures take for granted."""
        return _shipped_dimensions()

    def wrong_world(self, term: Term) -> tuple[str, str] | None:
        """What is wrong with what a person's term takes for granted, and what to write instead."""
        from syntagma.core.vocabulary.world import BadWorld

        try:
            for world in filter(None, (term.world, term.when and f"hour: {term.when}")):
                self.vocabulary.dimensions.world(world)
        except BadWorld as bad:
            return f"“{term.term}”: {bad}", bad.remedy
        return None

    def _terms(self, facet: str) -> list[Term]:
        terms: list[Term] = []
        for layer, path in self._facets[facet]:
            try:
                if path.parent.parent == folders.SHIPPED:
                    read, mistakes = _shipped_terms(facet, path, layer)
                else:
                    read, mistakes = read_terms(
                        facet, read_text(path, "a vocabulary file"), self.shown(path), layer
                    )
            except Trouble as trouble:
                read, mistakes = [], [Mistake(str(trouble), trouble.remedy, self.shown(path))]
            terms += read
            self.mistakes += mistakes
            if layer != self.layers[0].name:
                self.mistakes += [
                    Mistake(*wrong, self.shown(path))
                    for term in read
                    if (wrong := self.wrong_world(term))
                ]
        return self._marked(facet, terms)

    def _indexed(self, facet: str) -> Callable[[], Index] | None:
        """What gives the words of a facet, where all of it ships; None if a person has
        terms in it.
        """
        [(layer, path), *more] = self._facets[facet]
        return (
            partial(_shipped_index, facet, path, layer)
            if not more and path.parent.parent == folders.SHIPPED
            else None
        )

    @cached_property
    def marks(self) -> Marks:
        """The person's stars and notes, by facet and name in normal form."""
        try:
            return by_name(read_marks())
        except Trouble as bad:
            self.leave_out("your stars and notes", bad)
            return {}

    def _marked(self, facet: str, terms: list[Term]) -> list[Term]:
        """Terms with the person's marks on them, favourites first."""
        if not any(name == facet for name, _ in self.marks):
            return terms
        marked = []
        for term in terms:
            mark = self.marks.get((facet, normal(term.term)))
            marked.append(term._replace(star=mark.star, note=mark.note) if mark else term)
        return sorted(marked, key=lambda term: not term.star)

    def _settings(self) -> dict[str, str]:
        if not self.folder:
            return {}
        path = self.folder / folders.SETTINGS
        text = read_text(path)
        source = self.shown(path)
        try:
            settings = read_toml(text)
        except NoToml as error:
            raise Refused([toml_mistake(source, text, 0, len(text), error)]) from None
        for key, value in settings.items():
            if key not in SETTING_KEYS:
                raise Trouble(
                    f"{source}: no setting is called “{key}”",
                    perhaps(key, SETTING_KEYS, "the settings are model, budget and results"),
                    1,
                )
            if key == "budget" and not (
                isinstance(value, int | float) and not isinstance(value, bool) and 0 <= value < 1e12
            ):
                raise Trouble(
                    f"{source}: the setting “budget” takes a number",
                    "write budget = 200: a limit for all sheets together",
                    1,
                )
            if key != "budget" and not isinstance(value, str):
                like = "results/{sheet}/{take}" if key == "results" else "curlew-still"
                raise Trouble(
                    f"{source}: the setting “{key}” takes text", f'write {key} = "{like}"', 1
                )
        return settings

    def shown(self, path: Path) -> str:
        """A path as messages show it: from the current folder where it lies below it."""
        whole = os.path.abspath(path)  # no link is followed: one may lead to itself
        try:
            return str(Path(whole).relative_to(Path.cwd()))
        except ValueError:
            return str(path)

    def formulas(self) -> dict[str, list[tuple[str, Path]]]:
        """Every formula by name, with the layers that have it, earliest first."""
        return self._room("formulas", ".formula")

    def models(self) -> dict[str, list[tuple[str, Path]]]:
        """Every model by name, with the layers that have it, earliest first."""
        return self._room("models", ".toml")

    def looks(self) -> dict[str, list[tuple[str, Path]]]:
        """Every look by name, with the layers that have it, earliest first."""
        return self._room("looks", ".formula")

    def themes(self) -> dict[str, list[tuple[str, Path]]]:
        """Every theme by name, with the layers that have it, earliest first."""
        return self._room("themes", ".toml")

    def formula(self, name: str, looks: Sequence[str] = ()) -> tuple[Formula, list[Finding]]:
        """A formula by name, by file, or given on one line, with looks put round it, the first
        inmost; and remarks on it. Raises Trouble or Refused.
        """
        if is_oneline(name):
            formula, remarks = self._checked(read_oneline(name))
        else:
            formula, remarks = self._formula_file(
                name,
                self.formulas(),
                "formula",
                "; to write one in the call, put its slots in square brackets: “a [medium] of [a"
                " subject]”",
            )
        if formula.is_look:
            remedy = f"use it with a formula: syntagma compose FORMULA --look {name}"
            raise Trouble(f"“{formula.name}” is a look (it has a line “content”)", remedy, 2)
        whole, found = self.put_round(formula, looks)
        return whole, remarks + found

    def put_round(self, formula: Formula, looks: Sequence[str]) -> tuple[Formula, list[Finding]]:
        """A formula with looks put round it, the first inmost, and the findings on that. Raises
        Trouble or Refused.
        """
        remarks: list[Finding] = []
        for name in looks:
            look, noted = self.look(name)
            formula, yielded = yielding(formula, look, self.vocabulary)
            formula, found = with_look(formula, look)
            remarks = remarks + noted + yielded + found
        return formula, remarks

    def look(self, name: str) -> tuple[Formula, list[Finding]]:
        """A look by name or by file, with remarks on it. Raises Trouble or Refused."""
        look, remarks = self._formula_file(name, self.looks(), "look", "")
        if not look.is_look:
            raise Trouble(
                f"“{look.name}” is not a look",
                "give it one line with the single word content, where the rest goes",
                2,
            )
        return look, remarks

    def facet_called(self, name: str) -> str:
        """The facet that a name means: in another spelling, or the one that most slots of that name
        take terms of. The name itself if there is none.
        """
        from syntagma.core.writing.prompt import plain

        ours = plain(name)
        if ours in self.vocabulary:
            return ours
        found = [
            rule.facet
            for formula in self.formulas()
            for rule in self.formula(formula)[0].slots
            if rule.name == ours and rule.facet in self.vocabulary
        ]
        return max(dict.fromkeys(found), key=found.count) if found else name

    def _formula_file(
        self, name: str, known: dict, what: str, otherwise: str
    ) -> tuple[Formula, list[Finding]]:
        if name.endswith(".formula") or "/" in name:
            path = Path(name)
        elif name in known:
            path = known[name][-1][1]
        else:
            raise Trouble(
                f"no {what} is called “{name}”",
                perhaps(name, known, f"`syntagma {what}` lists them{otherwise}"),
                2,
            )
        read = _shipped_formula if path.parent.parent == folders.SHIPPED else _formula
        return self._checked(read(path, what, self.shown(path)))

    def _checked(self, formula: Formula) -> tuple[Formula, list[Finding]]:
        mistakes, remarks = check_formula(formula, self.vocabulary)
        if mistakes:
            raise Refused(mistakes)
        return formula, remarks

    def situations(self, facets: Sequence[str]) -> "list[Situation]":
        """The situations of those who are of some facets."""
        return [one for one in self.every_situation() if one.facet in facets]

    def every_situation(self) -> "list[Situation]":
        """All situations: a person's own, and the workspace's, beside what ships. A file that can't
        be read is left out.
        """
        found = []
        for name, files in self._room("situations", ".csv").items():
            for layer, path in files:
                try:
                    said, mistakes = (_shipped_situations if layer == "shipped" else _situations)(
                        path, layer
                    )
                except Trouble as trouble:
                    self.leave_out(f"situations/{name}.csv", trouble)
                    continue
                self.mistakes += [one for one in mistakes if one not in self.mistakes]
                found += said
        return found

    @property
    def situation_tags(self) -> frozenset[str]:
        """The tags that situations have."""
        return frozenset(tag for one in self.every_situation() for tag in one.tags)

    def theme(self, name: str) -> Theme:
        """A theme by name or by file. Raises Trouble or Refused."""
        known = self.themes()
        if name.endswith(".toml") or "/" in name:
            path = Path(name)
        elif name in known:
            path = known[name][-1][1]
        else:
            raise Trouble(
                f"no theme is called “{name}”",
                perhaps(name, known, "`syntagma theme` lists them"),
                2,
            )
        return read_theme(read_text(path, "a theme"), path.stem, self.shown(path))

    @cached_property
    def known(self) -> "dict[str, KnownReference]":
        """Those who can be called by @name: the person's own and the workspace's known.toml, the
        later over the earlier. A file that can't be read is left out.
        """
        from syntagma.core.models.references import read_known

        known: dict[str, KnownReference] = {}
        for layer in self.layers:
            path = layer.path / KNOWN
            if path.exists():
                try:
                    known |= read_known(read_text(path, "what is known"), self.shown(path))
                except (Refused, Trouble) as bad:
                    self.leave_out(self.shown(path), bad)
        return known

    def manner(self, manner: "Manner") -> "Manner":
        """The manner that a person asks for, with those whom they know by name."""
        return manner._replace(known=self.known) if self.known else manner

    def model(self, name: str | None) -> Profile:
        """A model by name; without one, the workspace's, else plain prose without a limit; "prose"
        and "tags" are ways of writing for no generator in particular. Raises Trouble or Refused.
        """
        name = name or self.settings.get("model", "")
        if not name:
            return PLAIN
        if name in self._profiles:
            return self._profiles[name]
        known = self.models()
        if name in FORMS and name not in known:
            return FORMS[name]
        if name not in known:
            raise Trouble(
                f"no model is called “{name}”",
                perhaps(name, known, "`syntagma model` lists them"),
                2,
            )
        self._profiles[name] = self.read_model(name, known[name][-1][1])
        return self._profiles[name]

    def model_or_file(self, name: str) -> Profile:
        """A model by name, or by the file of its profile; from then on it is known by its name.
        Raises Trouble or Refused.
        """
        if not name.endswith(".toml"):
            return self.model(name)
        path = Path(name)
        self._profiles[path.stem] = self.read_model(path.stem, path)
        return self._profiles[path.stem]

    def readable_models(self, first: str | None = None) -> list[Profile]:
        """Every model that can be read, `first` before all others; the others are left out, but
        `first` is needed. Raises Trouble or Refused.
        """
        found = [self.model(first)] if first else []
        for name in self.models():
            try:
                found += [self.model(name)] if name != first else []
            except (Refused, Trouble) as bad:
                self.leave_out(f"the model {name}", bad)
        return found

    def read_model(self, name: str, path: Path) -> Profile:
        """Read one profile file, and the profiles that it builds on. Raises Trouble or Refused."""
        from syntagma.core.models.profile_file import (
            read_profile,
        )  # imported late: a prompt for no model validates none

        if path.parent.parent == folders.SHIPPED and (alone := _shipped_profile(name, path)):
            return alone

        def base(other: str) -> Profile:
            if other not in self.models() or other in self._reading or len(self._reading) > BASES:
                raise LookupError(other)
            return self.model(other)

        self._reading.append(name)
        try:
            return read_profile(
                read_text(path, "a model profile"),
                name,
                self.shown(path),
                base,
                lambda file: _counter(path, file),
            )
        finally:
            self._reading.remove(name)


def _formula(path: Path, what: str, source: str) -> Formula:
    return read_formula(read_text(path, f"a {what}"), path.stem, source)


EXTRA = Term._fields.index("extra")

# What ships does not change while a program runs: it is read once, for however many workspaces.


@cache
def _shipped_terms(facet: str, path: Path, layer: str) -> tuple[list[Term], list[Mistake]]:
    def read() -> tuple[list[tuple], list[tuple]]:
        terms, mistakes = read_terms(facet, read_text(path, "a vocabulary file"), str(path), layer)
        return [(*term[:EXTRA], dict(term.extra), *term[EXTRA + 1 :]) for term in terms], list(
            map(tuple, mistakes)
        )

    terms, mistakes = compiled(path, f"terms {layer} {' '.join(Term._fields)}", read)
    return list(map(Term._make, terms)), list(map(Mistake._make, mistakes))


@cache
def _shipped_situations(path: Path, layer: str) -> "tuple[list[Situation], list[Mistake]]":
    from syntagma.core.picking.situations import Moment, Situation

    def read() -> tuple[list[tuple], list[tuple]]:
        said, mistakes = _situations(path, layer)
        return [
            (
                one.facet,
                one.lead,
                list(map(tuple, one.moments)),
                sorted(one.tags),
                sorted(one.formulas),
            )
            for one in said
        ], list(map(tuple, mistakes))

    said, mistakes = compiled(
        path, f"situations {' '.join((*Situation._fields, *Moment._fields))}", read
    )
    made = [
        Situation(
            facet,
            lead,
            tuple(map(Moment._make, moments)),
            frozenset(tags),
            frozenset(formulas),
            layer,
        )
        for facet, lead, moments, tags, formulas in said
    ]
    return made, list(map(Mistake._make, mistakes))


def _situations(path: Path, layer: str) -> "tuple[list[Situation], list[Mistake]]":
    return read_situations(read_text(path, "a file of situations"), str(path), layer)


def _shipped_index(facet: str, path: Path, layer: str) -> Index:
    return compiled(path, "words", lambda: index_of(_shipped_terms(facet, path, layer)[0]))


@cache
def _shipped_profile(name: str, path: Path) -> Profile | None:
    """A profile that builds on no other; None for one that does, since a workspace may have another
    under that name.
    """
    from syntagma.core.models.profile_file import read_profile

    text = read_text(path, "a model profile")
    return None if re.search(r"^base\b", text, re.M) else read_profile(text, name, path.name)


_shipped_formula = cache(_formula)


@cache
def _shipped_traits() -> "dict[str, Traits]":
    from syntagma.core.vocabulary.facets import read_facets

    return read_facets(read_text(folders.SHIPPED / FACETS, "the facets"), FACETS)


@cache
def _shipped_dimensions() -> "Dimensions":
    from syntagma.core.vocabulary.world import read_deeds, read_dimensions

    def deeds() -> dict[str, str]:
        return read_deeds(read_text(folders.SHIPPED / DEEDS, "what actions assume"), DEEDS)

    return read_dimensions(read_text(folders.SHIPPED / WORLD, "what pictures assume"), WORLD, deeds)


def _counter(profile: Path, file: str):
    """What counts the tokens of a tokenizer file that lies beside a profile. Raises LookupError or
    ValueError if it can't be used.
    """

    if Path(file).name != file:
        raise LookupError("it is not in the profile's folder")

    return counter_of(profile.parent / file)
