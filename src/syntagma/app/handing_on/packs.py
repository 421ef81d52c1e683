"""Packs: what a workspace has of its own, for another; and a pack taken beside what is there, if
nothing is overwritten unasked.
"""

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from syntagma.app.families.spec import read_plan
from syntagma.app.handing_on.pack_file import (
    ALONE,
    ENDING,
    ROOMS,
    Pack,
    read_pack,
    texts,
    write_pack,
)
from syntagma.app.workspace.workspace import KNOWN, Workspace
from syntagma.core.diagnostics import Refused, Trouble, perhaps
from syntagma.core.formula import parse_formula, read_formula
from syntagma.core.models.references import read_known
from syntagma.core.notation.toml import read_toml
from syntagma.core.picking.themes import read_theme
from syntagma.core.vocabulary.facets import read_facets
from syntagma.core.vocabulary.terms import normal
from syntagma.formats.archive import safe_name
from syntagma.formats.metadata.pictures import BadPicture, said
from syntagma.formats.table_in import harmless, read_rows, read_situations, read_terms
from syntagma.storage.files import (
    decoded,
    held,
    make_folder,
    read_bytes,
    read_text,
    whole_file,
    within,
    write_text,
)
from syntagma.storage.library import FOLDER, LIBRARY, Library

NEW, SAME, CLASH, REPLACED, LEFT = "new", "the same", "clash", "replaced", "left out"
EVERYTHING = "all"


class PackChange(NamedTuple):
    """What taking one thing of a pack means: its kind and name, the outcome, the messages, and
    where it clashes what is here and what comes.
    """

    kind: str
    name: str
    outcome: str
    note: str = ""
    here: str = ""
    comes: str = ""

    @property
    def called(self) -> str:
        """How a person names it: formula crossing-poster."""
        return f"{self.kind} {self.name}"


def make_pack(
    workspace: Workspace,
    said: Mapping[str, str],
    only: Sequence[str] = (),
    plans: Sequence[Path] = (),
    people: bool = False,
) -> tuple[Pack, list[str]]:
    """What a workspace has of its own as a pack, and what was left out and why. `only` names things
    (crossing-poster, formula:crossing-poster, lighting); `people`: real ones too. Raises Trouble.
    """
    if workspace.folder is None:
        raise Trouble(
            "a pack is made from a workspace, and this folder is not one",
            "make one: syntagma start DIR, and work there",
            2,
        )
    files: dict[str, bytes] = {}
    left: list[str] = []
    for room, ending in ROOMS.items():
        for name, path in (
            workspace.layers[-1].files(room, ending).items() if room != "plans" else ()
        ):
            files[f"{room}/{name}{ending}"] = read_bytes(path, "a file of the workspace")
    for name in ALONE:
        if (workspace.folder / name).is_file():
            files[name] = read_bytes(workspace.folder / name)
    for plan in plans:
        read_plan(text := read_text(plan, "a plan"), str(plan))
        files[f"plans/{safe_name(plan.stem, 'plan')}.toml"] = text.encode()
    for place, data in files.items():
        decoded(data, place)  # what is not text is reported by its name
    if only:
        files = _with_facets(workspace, _only(files, only), files)
    for profile in [path for path in files if path.startswith("models/")]:
        files[profile], off = without_service(files[profile].decode("utf-8"))
        if off:
            left.append(
                f"the service of {profile[7:-5]}: people who import the profile allow their own"
            )
    if KNOWN in files:
        files[KNOWN], away = _people(files[KNOWN].decode("utf-8"), people)
        left += [f"{name}, a real person (--people includes real people)" for name in away]
    pictures = _pictures(workspace, files)
    if not files:
        raise Trouble(
            "this workspace has nothing of its own to share",
            "make a formula, a term, a look: syntagma formula new …",
            2,
        )
    return (
        Pack(
            said,
            {**files, **{path: data for path, (_, data) in pictures.items()}},
            {path: of for path, (of, _) in pictures.items()},
        ),
        left,
    )


def _only(files: Mapping[str, bytes], only: Sequence[str]) -> dict[str, bytes]:
    kept: dict[str, bytes] = {}
    for word in only:
        room, _, name = word.rpartition(":")
        found = {p: d for p, d in files.items() if _matches(p, room, name)}
        if not found:
            names = [Path(path).stem for path in files]
            raise Trouble(
                f"this workspace has no “{word}” of its own",
                perhaps(name, names, f"it has {', '.join(sorted(set(names)))}"),
                2,
            )
        kept |= found
    return kept


def _with_facets(
    workspace: Workspace, kept: dict[str, bytes], files: Mapping[str, bytes]
) -> dict[str, bytes]:
    """What was named with what it can't do without: facets that only this workspace has, of which a
    formula's slots are, and what facets.toml says of those that go along.
    """
    import tomlkit
    from tomlkit.exceptions import TOMLKitError

    slots = {
        rule.facet
        for room in ("formulas", "looks")
        for _, name, text in texts(kept, room)
        for rule in parse_formula(text, name)[0].slots
    }
    shipped = workspace.layers[0].files("vocabulary", ".csv")
    kept |= {
        path: files[path]
        for facet in slots
        if facet not in shipped and (path := f"vocabulary/{facet}.csv") in files
    }
    if "facets.toml" in files and "facets.toml" not in kept:
        try:
            read_toml(
                text := files["facets.toml"].decode("utf-8")
            )  # what is not usable TOML is refused before it is taken apart
            document = tomlkit.parse(text)
        except (TOMLKitError, ValueError) as error:
            raise Trouble(
                f"facets.toml can't be read: {error}", "fix it first: syntagma check", 1
            ) from None
        for name in [name for name in document if f"vocabulary/{name}.csv" not in kept]:
            document.remove(name)
        kept |= {"facets.toml": tomlkit.dumps(document).encode()} if document else {}
    return kept


def _situations(name: str, text: str) -> object:
    """The situations of a file. Raises Refused if a row makes none."""
    found, mistakes = read_situations(text, f"{name}.csv", "")
    if mistakes:
        raise Refused(mistakes)
    return found


def _matches(path: str, room: str, name: str) -> bool:
    place, _, file = path.rpartition("/")
    return Path(file).stem == name and (
        not room or place.startswith(room.rstrip("s")) or (room == "vocabulary" and place == room)
    )


def without_service(text: str) -> tuple[bytes, bool]:
    """A profile without the service that it speaks to, everything else as it is; and whether it had
    one. Raises Trouble if it is not TOML.
    """
    import tomlkit
    from tomlkit.exceptions import TOMLKitError

    try:
        read_toml(text)
        profile = tomlkit.parse(text)
        if "service" not in profile:
            return text.encode(), False
        profile.remove("service")
        return tomlkit.dumps(profile).encode(), True
    except (TOMLKitError, ValueError) as error:
        raise Trouble(
            f"a profile can't be read: {error}", "fix it first: syntagma check", 1
        ) from None


def _people(text: str, people: bool) -> tuple[bytes, list[str]]:
    """Those who are known, without the real ones unless they are asked for; and who was
    left out.
    """
    import tomlkit

    away = [name for name, known in read_known(text, KNOWN).items() if known.real and not people]
    document = tomlkit.parse(text)
    for name in away:
        document.remove(name)
    return tomlkit.dumps(document).encode() if away else text.encode(), away


def _pictures(
    workspace: Workspace, files: Mapping[str, bytes]
) -> dict[str, tuple[tuple[str, str], bytes]]:
    """The chosen pictures of the terms that go along: path → (facet, term), bytes."""
    folder = workspace.folder
    if folder is None or not (folder / LIBRARY).is_file():
        return {}
    found = {}
    with Library(folder, True).whole() as library:
        for (facet, term), file in sorted(library.pictures().items()):
            path = within(folder, f"{FOLDER}/{file}")
            if (
                f"vocabulary/{facet}.csv" in files
                and path.is_file()
                and path.suffix.lower() in (".png", ".jpg", ".jpeg", ".webp")
            ):
                found[f"pictures/{facet}/{safe_name(term, 'term')}{path.suffix.lower()}"] = (
                    (facet, term),
                    read_bytes(path, "a picture"),
                )
    return found


def save_pack(pack: Pack, target: Path) -> None:
    """Write a pack to a file. Raises Trouble."""
    if not target.name.endswith(".zip"):
        raise Trouble(
            f"can't write a pack as {target}", f"name it {target.stem or 'house'}{ENDING}", 2
        )
    with whole_file(target) as file:
        write_pack(file.buffer, pack)


def open_pack(path: Path) -> Pack:
    """Read a pack of anybody's. Raises Trouble."""
    return read_pack(read_bytes(path, "a pack"), str(path))


class Taker:
    """Takes a pack into a workspace, or says what that would change. `replace` names what may be
    overwritten.
    """

    def __init__(
        self,
        workspace: Workspace,
        pack: Pack,
        replace: Sequence[str] = (),
        people: bool = False,
        write: bool = True,
    ):
        if workspace.folder is None and write:
            raise Trouble(
                "a pack is imported into a workspace, and this folder is not one",
                "make one: syntagma start DIR, and work there",
                2,
            )
        self.workspace, self.pack, self.replace, self.people, self.write = (
            workspace,
            pack,
            set(replace),
            people,
            write,
        )
        self.folder = workspace.folder or Path()
        self._replaced: set[str] = set()

    def take(self) -> list[PackChange]:
        """Take over everything in the pack. Raises Trouble if a name to replace is not in it."""
        found: list[PackChange] = []
        readers: dict[str, Callable[[str, str], object]] = {
            "formulas": lambda name, text: read_formula(text, name, f"{name}.formula"),
            "looks": lambda name, text: read_formula(text, name, f"{name}.formula"),
            "themes": lambda name, text: read_theme(text, name, f"{name}.toml"),
            "models": self._profile,
            "plans": lambda name, text: read_plan(text, f"{name}.toml"),
            "situations": _situations,
        }
        for _, name, text in texts(self.pack.files, "vocabulary"):
            found += self._vocabulary(name, text)
        for room, reader in readers.items():
            for path, name, text in texts(self.pack.files, room):
                found.append(self._file(room, path, name, text, reader))
        found += self._tables()
        found += self._pictures()
        unknown = (
            self.replace
            - self._replaced
            - {EVERYTHING}
            - {name for change in found for name in (change.name, change.called)}
        )
        if unknown:
            names = [change.called for change in found if change.outcome == CLASH]
            raise Trouble(
                f"this pack has no “{sorted(unknown)[0]}”",
                perhaps(sorted(unknown)[0], names, f"the clashes are {', '.join(names) or 'none'}"),
                2,
            )
        return found

    def _may(self, kind: str, name: str) -> bool:
        """May it be overwritten?"""
        meant = {EVERYTHING, name, f"{kind} {name}"} & self.replace
        self._replaced |= meant
        return bool(meant)

    def _profile(self, name: str, text: str) -> object:
        from syntagma.core.models.profile_file import read_profile

        def nothing(file: str):
            raise LookupError(f"the tokenizer {file} is not in the pack")

        others = {other: of for _, other, of in texts(self.pack.files, "models")}

        def base(other: str):
            if other in others and other != name:
                return read_profile(
                    others[other], other, f"{other}.toml", self.workspace.model, nothing
                )
            return self.workspace.model(other)

        return read_profile(text, name, f"{name}.toml", base, nothing)

    def _file(
        self, room: str, path: str, name: str, text: str, reader: Callable[[str, str], object]
    ) -> PackChange:
        """One file of its own."""
        kind = room.removesuffix("s")
        note = ""
        try:
            if room == "models":
                data, had = without_service(text)
                text, note = data.decode(), "its service is switched off" if had else ""
            reader(name, text)
        except Refused as wrong:
            return PackChange(kind, name, LEFT, wrong.mistakes[0].message[:160])
        except Trouble as wrong:
            return PackChange(kind, name, LEFT, str(wrong)[:160])
        target = self.folder / path
        if not (self.workspace.folder and target.exists()):
            if room != "situations" and name in self._shipped(room):
                note = "; ".join(
                    filter(None, (note, "it replaces the one that ships with Syntagma"))
                )
            self._save(target, text)
            return PackChange(kind, name, NEW, note)
        there = read_text(target)
        if there == text:
            return PackChange(kind, name, SAME)
        if self._may(kind, name):
            self._save(target, text)
            return PackChange(kind, name, REPLACED, note, there, text)
        return PackChange(kind, name, CLASH, note, there, text)

    def _shipped(self, room: str) -> Mapping[str, Path]:
        return self.workspace.layers[0].files(room, ROOMS[room])

    def _save(self, target: Path, text: str) -> None:
        if self.write:
            make_folder(target.parent)
            write_text(target, text)

    def _vocabulary(self, facet: str, text: str) -> list[PackChange]:
        """The terms of a facet, row by row: new ones go below those that are there."""
        target = self.folder / "vocabulary" / f"{facet}.csv"
        columns, rows, broken = read_rows(text, f"{facet}.csv")
        good, wrong = read_terms(facet, text, f"{facet}.csv", "")
        worlds = {
            normal(term.term): found[0]
            for term in good
            if (found := self.workspace.wrong_world(term))
        }
        if not columns or "term" not in columns:
            return [PackChange("terms of", facet, LEFT, (broken or wrong)[0].message)]
        fit = {normal(term.term) for term in good} - set(worlds)
        coming = {
            normal(row.cells["term"]): row.cells
            for row in rows
            if normal(row.cells.get("term", "")) in fit
        }
        left = len(rows) - len(coming) + len(broken)
        note = f"{left} row{'s' if left != 1 else ''} can't be read" if left else ""
        if not coming:
            return [PackChange("terms of", facet, LEFT, note or "it has no terms")]
        if not (self.workspace.folder and target.exists()):
            unsafe = any(
                harmless(cell) != cell
                for cells in (dict.fromkeys(columns, ""), *coming.values())
                for one in cells.items()
                for cell in one
            )
            self._save(target, _csv(columns, list(coming.values())) if left or unsafe else text)
            return [
                PackChange(
                    "terms of",
                    facet,
                    NEW,
                    "; ".join(
                        filter(None, (f"{len(coming)} term{'s' if len(coming) != 1 else ''}", note))
                    ),
                )
            ]
        with held(target):
            return self._merged(facet, target, columns, coming, note)

    def _merged(
        self,
        facet: str,
        target: Path,
        columns: list[str],
        coming: Mapping[str, Mapping[str, str]],
        note: str,
    ) -> list[PackChange]:
        own_columns, own_rows, _ = read_rows(read_text(target), str(target))
        own = {normal(row.cells.get("term", "")): row.cells for row in own_rows}
        new = {key: cells for key, cells in coming.items() if key not in own}
        found: list[PackChange] = []
        changed: dict[str, Mapping[str, str]] = dict(own)
        for key, cells in coming.items():
            if key in own and _said(own[key]) != _said(cells):
                name = f"{facet}/{cells['term']}"
                may = self._may("term", name)
                found.append(
                    PackChange(
                        "term", name, REPLACED if may else CLASH, "", _row(own[key]), _row(cells)
                    )
                )
                if may:
                    changed[key] = cells
        if self.write and (new or any(one.outcome == REPLACED for one in found)):
            every = [*own_columns, *(name for name in columns if name not in own_columns)]
            if any(one.outcome == REPLACED for one in found) or every != own_columns:
                write_text(target, _csv(every, [*changed.values(), *new.values()]))
            else:
                text = read_text(target)
                write_text(
                    target,
                    text
                    + ("" if text.endswith("\n") else "\n")
                    + _csv(own_columns, list(new.values()), header=False),
                )
        outcome = NEW if new else SAME
        return [
            PackChange(
                "terms of",
                facet,
                outcome,
                "; ".join(
                    filter(
                        None,
                        (f"{len(new)} new term{'s' if len(new) != 1 else ''}" if new else "", note),
                    )
                ),
            ),
            *found,
        ]

    def _tables(self) -> list[PackChange]:
        """The cast and the facets: a table each."""
        import tomlkit

        found: list[PackChange] = []
        for file, kind in ((KNOWN, "cast"), ("facets.toml", "facet")):
            if file not in self.pack.files:
                continue
            target = self.folder / file
            try:
                text = self.pack.files[file].decode("utf-8")
                people: Mapping[str, object] = (
                    read_known(text, file) if file == KNOWN else read_facets(text, file)
                )
                coming = tomlkit.parse(text)
            except (Refused, ValueError) as wrong:
                said_ = wrong.mistakes[0].message if isinstance(wrong, Refused) else str(wrong)
                found.append(PackChange(kind, file, LEFT, said_[:160]))
                continue
            there = (
                tomlkit.parse(read_text(target))
                if self.workspace.folder and target.exists()
                else tomlkit.document()
            )
            changed = False
            for name in people:
                table, own = coming[name], there.get(name)
                if getattr(people[name], "real", False) and not self.people:
                    found.append(
                        PackChange(kind, name, LEFT, "a real person: imported only with --people")
                    )
                elif own is None or self._may(kind, name):
                    outcome = (
                        NEW if own is None else SAME if own.unwrap() == table.unwrap() else REPLACED
                    )
                    if outcome != SAME:
                        there[name] = table
                        changed = True
                    found.append(PackChange(kind, name, outcome))
                else:
                    same = own.unwrap() == table.unwrap()
                    found.append(
                        PackChange(
                            kind,
                            name,
                            SAME if same else CLASH,
                            "",
                            "" if same else _toml(own),
                            "" if same else _toml(table),
                        )
                    )
            if changed:
                self._save(target, tomlkit.dumps(there))
        return found

    def _pictures(self) -> list[PackChange]:
        """Pictures of terms, into the library."""
        paths = [path for path in sorted(self.pack.files) if path.startswith("pictures/")]
        if not paths:
            return []
        known: dict[tuple[str, str], str] = {}
        if self.workspace.folder and (self.folder / LIBRARY).is_file():
            with Library(self.folder, True).whole() as library:
                known = library.pictures()
        found = []
        for path in paths:
            facet, term = self.pack.pictures.get(path, ("", ""))
            name = f"{facet}/{term}"
            try:
                said(self.pack.files[path])
            except BadPicture as wrong:
                found.append(PackChange("picture", name, LEFT, str(wrong)))
                continue
            there = known.get((facet, term))
            same = (
                bool(there)
                and (self.folder / FOLDER / str(there)).is_file()
                and (self.folder / FOLDER / str(there)).read_bytes() == self.pack.files[path]
            )
            outcome = (
                SAME
                if same
                else NEW
                if not there
                else REPLACED
                if self._may("picture", name)
                else CLASH
            )
            if outcome in (NEW, REPLACED) and self.write:
                self._keep_picture(path, facet, term)
            found.append(PackChange("picture", name, outcome))
        return found

    def _keep_picture(self, path: str, facet: str, term: str) -> None:
        from tempfile import TemporaryDirectory

        with TemporaryDirectory() as folder, Library(self.folder).whole() as library:
            beside = Path(folder) / f"picture{Path(path).suffix}"
            beside.write_bytes(self.pack.files[path])
            name, ending, _ = library.put_file(beside)
            library.set_picture(facet, term, f"{name[:2]}/{name}{ending}")


def _said(cells: Mapping[str, str]) -> dict[str, str]:
    return {name: cell.strip() for name, cell in cells.items() if cell.strip()}


def _row(cells: Mapping[str, str]) -> str:
    return "\n".join(f"{name}: {cell}" for name, cell in _said(cells).items())


def _toml(table: object) -> str:
    return "" if table is None else str(getattr(table, "as_string", lambda: str(table))()).strip()


def _csv(columns: Sequence[str], rows: Sequence[Mapping[str, str]], header: bool = True) -> str:
    out = io.StringIO(newline="")
    table = csv.writer(out, lineterminator="\n")
    if header:
        table.writerow(map(harmless, columns))
    table.writerows([harmless(row.get(name, "")) for name in columns] for row in rows)
    return out.getvalue()
