"""The library of what is kept: a SQLite file of the workspace for what is known, and a folder
beside it for the files, each named by its content.

A file is there, whole, before it is known; what is known of it is one transaction. Whoever is
killed between the two leaves a file that nobody knows of, and the next call that keeps it finds it.
What is dropped stays, and can be restored.
"""

import hashlib
import json
import os
import re
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple
from uuid import uuid4

from syntagma.core.diagnostics import Trouble
from syntagma.core.records import Record
from syntagma.storage.files import is_locked, make_folder, opened, why, within
from syntagma.storage.ledger import now

LIBRARY, FOLDER = "library.sqlite", "library"
VERSION = 4
MANY = 200  # results for which labels are read at once
_JUDGEMENTS = """create table judgements (
    number integer primary key, id text not null, at text not null, judge text not null,
        sheet text not null, kind text not null, kept integer not null,
        other integer not null default 0,
    value text not null, slot text not null default '', phrase text not null default '',
        again integer not null default 0, undone text not null default '',
        replaced integer not null default 0
);
create unique index judgements_stand on judgements (judge, kind, kept, other, slot, phrase,
    again) where undone = '' and replaced = 0;
create index judgements_of on judgements (sheet, kept);
create index judgements_by_kept on judgements (kept)"""
_SCHEMA = f"""
create table meta (name text primary key, value text not null);
create table kept (
    id integer primary key, file text not null unique, ending text not null, bytes integer not null, at text not null, dropped text not null default '',
    text text not null, negative text not null default '', model text not null default '', formula text not null default '', sheet text not null default '',
    take text not null default '', cost real, currency text not null default '', rating real, note text not null default '', source text not null default '',
    made text not null default '', use text not null default '', record text not null default '{{}}'
);
create index kept_by_sheet on kept (sheet, take);
create index kept_by_model on kept (model);
create table labels (kept integer not null, label text not null, primary key (label, kept)) without rowid;
create table terms (kept integer not null, facet text not null, term text not null collate nocase, primary key (term, facet, kept)) without rowid;
create index terms_of on terms (kept);
create virtual table said using fts5 (words, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');
{_JUDGEMENTS};
create table looks (sheet text not null, at text not null, answers integer not null, outcome text not null, data text not null default '', claims text not null default '[]');
create table pictures (facet text not null, term text not null, file text not null, primary key (facet, term));
"""  # noqa: E501
_MIGRATIONS = {
    1: (
        """
    alter table kept add column made text not null default '';
    alter table kept add column use text not null default '';
    create table looks (sheet text not null, at text not null, answers integer not null,
        outcome text not null);
    create table if not exists pictures (facet text not null, term text not null,
        file text not null, primary key (facet, term));
    create index judgements_by_kept on judgements (kept)
    """
    ),
    # the last word of a key holds; of a rating that was asked for twice the first one stays beside
    # it
    2: (
        f"""
    alter table judgements rename to judgements_before;
    drop index if exists judgements_of;
    drop index if exists judgements_by_kept;
    {_JUDGEMENTS};
    insert into judgements (id, at, judge, sheet, kind, kept, other, value, slot, phrase, again, undone, replaced)
        select id, at, judge, sheet, kind, kept, other, value, slot, phrase, kind = 'mark' and undone = '' and first < place, undone, -(undone = '' and place < last and not (kind = 'mark' and place = first))
        from (select *, rowid as place, min(rowid) over same as first, max(rowid) over same as last from judgements_before
              window same as (partition by judge, kind, kept, other, slot, phrase, undone = '')) order by place;
    drop table judgements_before;
    alter table looks add column data text not null default '';
    alter table looks add column claims text not null default '[]'
    """  # noqa: E501
    ),
    3: (
        """
    alter table kept rename column mark to rating;
    update judgements set kind = 'rating' where kind = 'mark';
    update judgements set kind = 'approve' where kind = 'keep';
    update looks set outcome = 'rating' where outcome = 'mark';
    update looks set outcome = 'approved' where outcome = 'kept'
    """
    ),
}  # a version → what makes the next of it
_COLUMNS = (
    "id, file, ending, bytes, at, dropped, text, negative, model, formula, sheet, take, cost,"
    " currency, rating, note, source, made, use, record"
)
_TEXTS = [
    name.strip()
    for name in _COLUMNS.split(",")
    if name.strip() not in ("id", "bytes", "cost", "rating")
]
_NAME = re.compile(
    r"[0-9a-f]{32}(\.[0-9a-z]{1,11})?"
)  # what a file in the folder is called, and nothing else
_STANDS = "undone = '' and replaced = 0"
_JUDGED = (
    "(select avg(cast(value as real)) from judgements where judgements.kept = kept.id and kind ="
    f" 'rating' and {_STANDS})"
)


class Kept(NamedTuple):
    """Something kept: the name of its file by content, its prompt, what led to it (`record`), if it
    came from, what one thinks of it (`rating`), and the mean rating of those who judged it.
    """

    id: int
    file: str
    ending: str
    bytes: int
    at: str
    dropped: str
    text: str
    negative: str
    model: str
    formula: str
    sheet: str
    take: str
    cost: float | None
    currency: str
    rating: float | None
    note: str
    source: str
    made: str
    use: str
    record: Record
    labels: tuple[str, ...] = ()
    judged: float | None = None

    @property
    def path(self) -> str:
        """Where its file lies, from the workspace's folder."""
        return f"{FOLDER}/{self.file[:2]}/{self.file}{self.ending}"


class Judgement(NamedTuple):
    """What somebody said of a kept thing: `kind` is rating (value 0 to 5), approve (1 or 0), pair
    (value left, right, tie or neither, `other` the right one) or phrase (value shown, missing or
    overpowering, with its slot and words).
    """

    judge: str
    sheet: str
    kind: str
    kept: int
    value: str
    other: int = 0
    slot: str = ""
    phrase: str = ""
    id: str = ""
    at: str = ""
    again: int = 0  # 1: it was asked for a second time, to see how steady the judge is


class EffectsLook(NamedTuple):
    """A look at effects: the how-manieth at this family, with whatever data, outcome and judges;
    and what earlier looks claimed (axis, choice, better or worse).
    """

    number: int
    claims: tuple[tuple[str, str, bool], ...]


class LibraryQuery(NamedTuple):
    """What is looked for: words, terms (facet, term), a least rating (one's own, else the mean of
    those who judged), model, label, sheet, formula; what was dropped instead.
    """

    words: str = ""
    terms: Sequence[tuple[str, str]] = ()
    rating: float | None = None
    model: str = ""
    label: str = ""
    sheet: str = ""
    formula: str = ""
    dropped: bool = False


class Library:
    """A library that is open. Raises Trouble if the file is none that can be read."""

    def __init__(self, folder: Path, read_only: bool = False):
        self.root, self.path = folder, folder / LIBRARY
        if read_only and not self.path.is_file():
            raise Trouble(
                "this workspace has no library yet",
                "start with syntagma library add FILE --prompt TEXT, or syntagma library add SHEET",
                2,
            )
        try:
            self.base = sqlite3.connect(self.path, timeout=60, isolation_level=None)
            self.base.execute("pragma journal_mode=wal")
            self.base.execute("pragma synchronous=full")
            self._ready()
        except (sqlite3.Error, ValueError, OSError) as error:
            raise Trouble(
                f"{self.path} can't be read as a library ({error})",
                "put back a backup of it (syntagma library backup FILE makes one)",
            ) from None

    def _ready(self) -> None:
        if not self.base.execute("select 1 from sqlite_master where name = 'meta'").fetchone():
            with self.step():
                if not self.base.execute(
                    "select 1 from sqlite_master where name = 'meta'"
                ).fetchone():  # another call may have been first
                    for statement in filter(str.strip, _SCHEMA.split(";")):
                        self.base.execute(statement)
                    self.base.execute(
                        "insert into meta values ('version', ?), ('id', ?)",
                        (str(VERSION), uuid4().hex),
                    )
        version = self._version()
        if version > VERSION:
            raise Trouble(
                f"{self.path} was written by a newer version of Syntagma", "update this one"
            )
        while version in _MIGRATIONS:
            with self.step():
                if self._version() == version:
                    for statement in filter(str.strip, _MIGRATIONS[version].split(";")):
                        self.base.execute(statement)
                    self.base.execute(
                        "update meta set value = ? where name = 'version'", (str(version + 1),)
                    )
            version = self._version()

    def _version(self) -> int:
        found = self.base.execute("select value from meta where name = 'version'").fetchone()
        if found is None:
            raise ValueError("it has no version")
        return int(found[0])

    @contextmanager
    def step(self) -> Iterator[None]:
        """One durable transaction."""
        self.base.execute("begin immediate")
        try:
            yield
        except BaseException:
            self.base.execute("rollback")
            raise
        self.base.execute("commit")

    @contextmanager
    def whole(self) -> Iterator["Library"]:
        """The library while it is used, closed afterwards. Raises Trouble if it turns out to be
        damaged.
        """
        try:
            yield self
        except (sqlite3.Error, json.JSONDecodeError, UnicodeDecodeError) as error:
            remedy = (
                "wait until the other command finishes"
                if is_locked(error)
                else "put back a backup of it"
            )
            raise Trouble(f"{self.path} can't be used: {error}", remedy) from None
        finally:
            self.base.close()

    # Keeping

    def put_file(self, path: Path) -> tuple[str, str, int]:
        """Put a copy of a file into the folder; return its name, its ending and its size. The same
        content is one file. Raises Trouble.
        """
        digest, size = hashlib.sha256(), 0
        folder = self.root / FOLDER
        make_folder(folder)
        beside = folder / f"{uuid4().hex}.part"
        try:
            with opened(path, "a result") as source, open(beside, "wb") as file:
                for block in iter(lambda: source.read(1 << 20), b""):
                    digest.update(block)
                    size += len(block)
                    file.write(block)
                file.flush()
                os.fsync(file.fileno())
            name, ending = digest.hexdigest()[:32], path.suffix.lower()[:12]
            target = folder / name[:2] / f"{name}{ending}"
            make_folder(target.parent)
            if target.is_file() and target.stat().st_size == size:
                return name, ending, size
            os.replace(beside, target)
            return name, ending, size
        except OSError as error:
            raise Trouble(
                f"{path} can't be saved: {why(error)}",
                "free some space, and check that you may write to the folder library",
            ) from None
        finally:
            beside.unlink(missing_ok=True)

    def keep(
        self,
        path: Path,
        values: Mapping[str, Any],
        labels: Sequence[str] = (),
        terms: Iterable[tuple[str, str]] = (),
    ) -> tuple[int, bool]:
        """Keep a file with what is known of it (columns of `kept`; `record` as a mapping); return
        its number, and whether it is new. A file that is kept already stays one: what was not known
        of it is added, and if it was dropped, it is there again. Raises Trouble.
        """
        name, ending, size = self.put_file(path)
        known = {key: value for key, value in values.items() if value not in (None, "", {})}
        known["record"] = json.dumps(dict(values.get("record") or {}), ensure_ascii=False)
        with self.step():
            found = self.base.execute(
                "select id, text from kept where file = ?", (name,)
            ).fetchone()
            if found is None:
                row = {
                    "text": "",
                    **known,
                    "file": name,
                    "ending": ending,
                    "bytes": size,
                    "at": now(),
                }
                number = self.base.execute(
                    f"insert into kept ({', '.join(row)}) values ({', '.join('?' * len(row))})"
                    " returning id",
                    tuple(row.values()),
                ).fetchone()[0]
            else:
                number = found[0]
                fresh = {
                    key: value
                    for key, value in known.items()
                    if key in ("rating", "note", "source") or not found[1].strip()
                }
                if fresh:
                    self.base.execute(
                        f"update kept set {', '.join(f'{key} = ?' for key in fresh)} where id = ?",
                        (*fresh.values(), number),
                    )
                self.base.execute("update kept set dropped = '' where id = ?", (number,))
            self.base.executemany(
                "insert or ignore into labels values (?, ?)", [(number, label) for label in labels]
            )
            self.base.executemany(
                "insert or ignore into terms values (?, ?, ?)",
                [(number, facet, term) for facet, term in terms],
            )
            self._index(number)
        return number, found is None

    def _index(self, number: int) -> None:
        """Put the words of one into what is searched."""
        text, negative, note, source, formula, model = self.base.execute(
            "select text, negative, note, source, formula, model from kept where id = ?", (number,)
        ).fetchone()
        labels = " ".join(
            label
            for (label,) in self.base.execute("select label from labels where kept = ?", (number,))
        )
        self.base.execute("delete from said where rowid = ?", (number,))
        self.base.execute(
            "insert into said (rowid, words) values (?, ?)",
            (number, "\n".join((text, negative, note, labels, source, formula, model))),
        )

    def change(self, number: int, labels: Sequence[str] | None = None, **values: Any) -> None:
        """Change what is known of one: a rating, a note, labels (all of them), whether it is
        dropped.
        """
        with self.step():
            if values:
                self.base.execute(
                    f"update kept set {', '.join(f'{key} = ?' for key in values)} where id = ?",
                    (*values.values(), number),
                )
            if labels is not None:
                self.base.execute("delete from labels where kept = ?", (number,))
                self.base.executemany(
                    "insert or ignore into labels values (?, ?)",
                    [(number, label) for label in labels],
                )
            self._index(number)

    # Looking for

    def get(self, number: int) -> Kept:
        """One by its number. Raises Trouble."""
        found = self.base.execute(
            f"select {_COLUMNS}, {_JUDGED} from kept where id = ?", (number,)
        ).fetchone()
        if found is None:
            raise Trouble(
                f"the library has no number {number}", "syntagma library lists the results", 2
            )
        return self._kept(found)

    def of_file(self, path: Path) -> int:
        """The number under which a file of this content is kept; 0 if it is not. Raises Trouble."""
        with opened(path, "a result") as source:
            digest = hashlib.sha256()
            for block in iter(lambda: source.read(1 << 20), b""):
                digest.update(block)
        name = digest.hexdigest()[:32]
        found = self.base.execute(
            "select id from kept where file = ? and dropped = ''", (name,)
        ).fetchone()
        return found[0] if found else 0

    def find(self, wanted: LibraryQuery, most: int = -1) -> list[Kept]:
        """What matches, newest first."""
        values: list[Any] = []
        where = ["dropped != ''" if wanted.dropped else "dropped = ''"]
        source = "kept"
        if words := _query(wanted.words):
            source = "said cross join kept on kept.id = said.rowid"
            where.append("said match ?")
            values.append(words)
        for facet, term in wanted.terms:
            where.append(
                "kept.id in (select kept from terms where term ="
                f" ?{' and facet = ?' if facet else ''})"
            )
            values += [term, facet] if facet else [term]
        if wanted.label:
            where.append("kept.id in (select kept from labels where label = ?)")
            values.append(wanted.label)
        for column in ("model", "sheet", "formula"):
            if value := getattr(wanted, column):
                where.append(f"{column} = ?")
                values.append(value)
        if wanted.rating is not None:
            judged = (
                f"select kept from judgements where kind = 'rating' and {_STANDS} group by kept"
                " having avg(cast(value as real)) >= ?"
            )
            where.append(f"(rating >= ? or (rating is null and kept.id in ({judged})))")
            values += [wanted.rating, wanted.rating]
        query = (
            f"select {', '.join(f'kept.{name.strip()}' for name in _COLUMNS.split(','))}, {_JUDGED}"
            f" from {source} where {' and '.join(where)} order by"
            f" {'said.rowid' if words else 'kept.id'} desc limit ?"
        )
        rows = self.base.execute(query, (*values, most)).fetchall()
        if len(rows) < MANY:
            return [self._kept(row) for row in rows]
        labels: dict[int, list[str]] = {}
        for number, label in self.base.execute("select kept, label from labels order by label"):
            labels.setdefault(number, []).append(label)
        return [self._kept(row, labels.get(row[0], [])) for row in rows]

    def with_text(self, text: str) -> list[Kept]:
        """What was made with exactly this text, in the order in which it was kept."""
        rows = self.base.execute(
            "select id from kept where dropped = '' and text = ? order by id", (text,)
        ).fetchall()
        return [self.get(number) for (number,) in rows]

    def facet_of(self, number: int, term: str) -> str:
        """The facet of a term of a result; "" if it has no such term."""
        row = self.base.execute(
            "select facet from terms where kept = ? and term = ?", (number, term)
        ).fetchone()
        return str(row[0]) if row else ""

    def terms_by_result(self) -> dict[int, list[tuple[str, str]]]:
        """The terms of every result, with their facets, by the number of the result."""
        found: dict[int, list[tuple[str, str]]] = {}
        for number, facet, term in self.base.execute("select kept, facet, term from terms"):
            found.setdefault(number, []).append((facet, term))
        return found

    def count(self, dropped: bool = False) -> int:
        number: int = self.base.execute(
            f"select count(*) from kept where dropped {'!=' if dropped else '='} ''"
        ).fetchone()[0]
        return number

    def _kept(self, row: Sequence[Any], known: Sequence[str] | None = None) -> Kept:
        labels = tuple(
            known
            if known is not None
            else (
                label
                for (label,) in self.base.execute(
                    "select label from labels where kept = ? order by label", (row[0],)
                )
            )
        )
        named = dict(
            zip((*(name.strip() for name in _COLUMNS.split(",")), "judged"), row, strict=True)
        )
        texts = [named[name] for name in _TEXTS]
        numbers = all(isinstance(named[name], int | float | None) for name in ("cost", "rating"))
        if (
            not numbers
            or not all(isinstance(text, str) for text in texts)
            or not _NAME.fullmatch(named["file"] + named["ending"])
        ):
            raise sqlite3.DatabaseError(f"number {named['id']} of the library can't be read")
        try:
            record = json.loads(named["record"])
        except (ValueError, TypeError, RecursionError):
            raise sqlite3.DatabaseError(
                f"number {named['id']} of the library can't be read"
            ) from None
        return Kept(**{**named, "record": Record(record)}, labels=labels)

    def money(self, by: str) -> list[tuple[str, str, int, float]]:
        """What was paid for what is kept, by month, model or label: (what, currency, how many,
        money).
        """
        keys = {
            "month": "substr(case when made != '' then made else at end, 1, 7)",
            "model": "model",
            "label": "label",
        }
        join = " join labels on labels.kept = kept.id" if by == "label" else ""
        return list(
            self.base.execute(
                f"select {keys[by]} as what, currency, count(*), coalesce(sum(cost), 0) from"
                f" kept{join} where dropped = '' group by what, currency order by what"
            )
        )

    def terms(self) -> list[tuple[str, str, int, int]]:
        """(Facet, term, how many kept things have it, how many of those somebody rated)."""
        return list(
            self.base.execute(
                f"select facet, term, count(*), count(coalesce(rating, {_JUDGED})) from terms join"
                " kept on kept.id = terms.kept where dropped = '' group by facet, term"
            )
        )

    def file_of(self, kept: Kept) -> Path:
        """The file of what is kept, which may be gone. Raises Trouble if it is reached over a link:
        a library may have come from anybody.
        """
        return within(self.root, kept.path)

    # Pictures of terms

    def set_picture(self, facet: str, term: str, file: str) -> None:
        with self.step():
            self.base.execute(
                "insert or replace into pictures values (?, ?, ?)", (facet, term, file)
            )

    def pictures(self) -> dict[tuple[str, str], str]:
        return {
            (facet, term): file
            for facet, term, file in self.base.execute("select facet, term, file from pictures")
        }

    # Judgements

    def judge(self, one: Judgement) -> bool:
        """Save a judgement at once; False if it is already, or where something later is in its
        place. The last word of a judge on one thing holds.
        """
        at = one.at or now()
        key = (one.judge, one.kind, one.kept, one.other, one.slot, one.phrase, one.again)
        with self.step():
            before = self.base.execute(
                "select number, value, at from judgements where judge = ? and kind = ? and kept ="
                f" ? and other = ? and slot = ? and phrase = ? and again = ? and {_STANDS}",
                key,
            ).fetchone()
            if before and (before[1] == one.value or (one.at and one.at < before[2])):
                return False
            number = self.base.execute(
                "select coalesce(max(number), 0) + 1 from judgements"
            ).fetchone()[0]
            if before:
                self.base.execute(
                    "update judgements set replaced = ? where number = ?", (number, before[0])
                )
            self.base.execute(
                "insert into judgements (number, id, at, judge, kind, kept, other, slot, phrase,"
                " again, sheet, value) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (number, one.id or uuid4().hex, at, *key, one.sheet, one.value),
            )
        return True

    def undo(self, judge: str, sheet: str) -> Judgement | None:
        """Take the last judgement of somebody back; return it. What it stood in place of holds
        again.
        """
        with self.step():
            row = self.base.execute(
                f"select number from judgements where judge = ? and sheet = ? and {_STANDS} order"
                " by number desc limit 1",
                (judge, sheet),
            ).fetchone()
            if row is None:
                return None
            self.base.execute("update judgements set undone = ? where number = ?", (now(), row[0]))
            self.base.execute("update judgements set replaced = 0 where replaced = ?", row)
        return next(self._judgements("where number = ?", row))

    def judgements(self, sheet: str = "") -> list[Judgement]:
        """All judgements that stand, in order; of one sheet."""
        return list(
            self._judgements(
                f"where {_STANDS}" + (" and sheet = ?" if sheet else ""), (sheet,) if sheet else ()
            )
        )

    def _judgements(self, where: str, values: tuple[Any, ...]) -> Iterator[Judgement]:
        for row in self.base.execute(
            "select judge, sheet, kind, kept, value, other, slot, phrase, id, at, again from"
            f" judgements {where} order by number",
            values,
        ).fetchall():
            if [type(cell) for cell in row] != [
                str,
                str,
                str,
                int,
                str,
                int,
                str,
                str,
                str,
                str,
                int,
            ] or (row[2] == "rating" and not re.fullmatch(r"[0-5]", row[4])):
                raise sqlite3.DatabaseError("a judgement can't be read")
            yield Judgement(*row)

    def first_outcome(self, sheet: str) -> str:
        """The outcome of the first analysis of a family; "" if there was none."""
        found = self.base.execute(
            "select outcome from looks where sheet = ? order by rowid limit 1", (sheet,)
        ).fetchone()
        return str(found[0]) if found else ""

    def look(self, sheet: str, outcome: str, answers: int, data: str) -> EffectsLook:
        """Effects are looked at: remember it. `data` is a digest of all that the look rests on; the
        same data again is the same look.
        """
        with self.step():
            looks = self.base.execute(
                "select data, claims from looks where sheet = ? order by rowid", (sheet,)
            ).fetchall()
            number = next((i for i, (seen, _) in enumerate(looks, 1) if seen == data), 0)
            if not number:
                self.base.execute(
                    "insert into looks (sheet, at, answers, outcome, data) values (?, ?, ?, ?, ?)",
                    (sheet, now(), answers, outcome, data),
                )
                number = len(looks) + 1
        try:
            claims = [
                (str(axis), str(choice), bool(better))
                for _, told in looks[: number - 1]
                for axis, choice, better in json.loads(told)
            ]
        except (ValueError, TypeError) as error:
            raise sqlite3.DatabaseError("what earlier looks claimed can't be read") from error
        return EffectsLook(number, tuple(dict.fromkeys(claims)))

    def claimed(self, sheet: str, data: str, claims: Sequence[tuple[str, str, bool]]) -> None:
        """Remember what a look claimed."""
        with self.step():
            self.base.execute(
                "update looks set claims = ? where sheet = ? and data = ?",
                (json.dumps([list(one) for one in claims], ensure_ascii=False), sheet, data),
            )

    # A backup

    def backup(self, target: Path) -> int:
        """Write all of it into one zip file, which takes the name when it is whole; return how many
        files are in it. Raises Trouble.
        """
        from tempfile import TemporaryDirectory
        from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

        beside = target.with_name(f"{target.name}.partial")
        try:
            with TemporaryDirectory() as folder, ZipFile(beside, "w") as archive:
                copy = sqlite3.connect(Path(folder, LIBRARY))
                self.base.backup(copy)
                copy.close()
                archive.write(Path(folder, LIBRARY), LIBRARY, ZIP_DEFLATED)
                files = [
                    row for row in self.base.execute("select file, ending from kept order by file")
                ]
                count = 0
                for name, ending in files:
                    place = f"{FOLDER}/{name[:2]}/{name}{ending}"
                    if within(self.root, place).is_file():
                        info = ZipInfo(place, (1980, 1, 1, 0, 0, 0))
                        info.compress_type = ZIP_STORED
                        with (
                            archive.open(info, "w", force_zip64=True) as out,
                            open(self.root / place, "rb") as file,
                        ):
                            for block in iter(lambda file=file: file.read(1 << 20), b""):
                                out.write(block)
                        count += 1
            os.replace(beside, target)
            return count
        except OSError as error:
            raise Trouble(
                f"{target} can't be written: {why(error)}",
                "choose an existing folder that you can write to",
            ) from None
        finally:
            beside.unlink(missing_ok=True)


def kind_of(ending: str) -> str:
    """image, video or audio, by the ending of a file's name."""
    if ending in (".mp4", ".webm", ".mov", ".mkv"):
        return "video"
    return "audio" if ending in (".mp3", ".ogg", ".wav", ".m4a") else "image"


def _query(words: str) -> str:
    """What a person types, as the search takes it: every word has to be there, the last one may go
    on.
    """
    found = [
        "".join(letter for letter in word if letter.isalnum() or letter in "'’")
        for word in words.replace("-", " ").split()
    ]
    found = [word for word in found if word]
    return " ".join(f'"{word}"' for word in found[:-1]) + (f' "{found[-1]}"*' if found else "")
