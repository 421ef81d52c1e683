"""A form as a workbook: a row per prompt, open lists, and the prompt growing in a column by
formulas that every spreadsheet program works out.

This is one of two small interpreters of core/form_table.py; the other is the script of
data/pages/form.html.j2. Both put the same pieces together in the same order, so what a form shows
is what `compose --rows` gives, wherever terms of the lists are chosen.

Sheets: form (to fill in), choices (what each term does), parts and working (hidden: the pieces, and
what is worked out of them). On the form row 2 asks, row 3 explains, row 4 (hidden) names the slots
for whoever reads the table back; the defined name AREA says where it is.
"""

import re
from collections.abc import Callable, Sequence
from datetime import datetime
from io import BytesIO
from typing import IO, Any, NamedTuple
from zipfile import ZipFile

from syntagma.core import english
from syntagma.core.english import word_lists
from syntagma.core.form_table import (
    COUNT,
    PERSONAL,
    SILENT,
    YOO,
    Field,
    FormTable,
    GroupForm,
    PhraseForm,
    Template,
    Waits,
)
from syntagma.core.vocabulary.terms import normal
from syntagma.formats.archive import write_archive
from syntagma.formats.xlsx import AREA, as_text

HEADER, FIRST = 4, 5  # the hidden row of slot names, the first row to fill in
ROW = "§"  # represents the row's number in a formula
STOPS, CLOSERS, OPENERS, SOFT = ".!?…", "\"'”’»)]}", "\"'“‘«([{¿¡", ",;:–—"
_LONGEST_TEXT = 240  # a text within a formula has at most 255 characters
WHO = "by"  # the column for whoever fills a row in


def text(words: str) -> str:
    """Words within a formula."""
    parts = [words[i : i + _LONGEST_TEXT] for i in range(0, len(words), _LONGEST_TEXT)] or [""]
    return "&".join('"' + part.replace('"', '""') + '"' for part in parts)


def joined(*parts: str) -> str:
    """Formulas one after the other, without those that give nothing."""
    return "&".join(part for part in parts if part != '""') or '""'


def either(condition: str, yes: str, no: str) -> str:
    """One or the other."""
    return yes if yes == no else f"IF({condition},{yes},{no})"


def among(sign: str, signs: str) -> str:
    """Is a sign one of these?"""
    return f"ISNUMBER(FIND({sign},{text(signs)}))"


def stopped(cell: str) -> str:
    """Does a text end in a stop, looked for through a closing quote?"""
    return f"OR({among(f'RIGHT({cell},1)', STOPS)},AND(LEN({cell})>1,{among(f'RIGHT({cell},1)', CLOSERS)},{among(f'MID({cell},LEN({cell})-1,1)', STOPS)}))"  # noqa: E501


def bare(cell: str) -> str:
    """A text without its single full stop."""
    return f'IF(RIGHT({cell},1)=".",LEFT({cell},LEN({cell})-1),{cell})'


class _FormColumns:
    """Columns of a sheet by what they hold, each with the formula of a row."""

    def __init__(self, letter: Callable[[int], str]):
        self.letter = letter
        self.formulas: list[str] = []

    def add(self, formula: str) -> str:
        """A new column; return the cell of it in this row."""
        self.formulas.append(formula)
        return f"{self.letter(len(self.formulas))}{ROW}"


class _Parts:
    """The hidden sheet of pieces: columns of texts, and where each lies."""

    def __init__(self, letter: Callable[[int], str]):
        self.letter = letter
        self.columns: list[Sequence[str]] = []

    def add(self, values: Sequence[str]) -> str:
        """A new column; return its range."""
        self.columns.append(values)
        at = self.letter(len(self.columns))
        return f"parts!${at}$1:${at}${max(1, len(values))}"


class _Place:
    """One cell of the form while a row is worked out: its value, its place in the list (0: words of
    one's own), and of one's own words the determiner, the rest, their number and sound.
    """

    def __init__(self, value: str, row: str, determiner: str, rest: str, number: str, sound: str):
        self.value, self.row, self.determiner, self.rest, self.number, self.sound = (
            value,
            row,
            determiner,
            rest,
            number,
            sound,
        )


class _Known(NamedTuple):
    """Where the word lists for recognising people's own words are."""

    determiners: str
    prepositions: str
    yoo: str
    silent: str
    numbers: str
    personal: str


class _Interpreter:
    """The formulas of one row, out of the table."""

    def __init__(self, table: FormTable, letter: Callable[[int], str], cells: dict[str, list[str]]):
        self.table, self.cells = table, cells
        self.parts, self.working = _Parts(letter), _FormColumns(letter)
        self.known = _Known(
            *map(
                self.parts.add,
                (
                    sorted(word_lists.DETERMINERS),
                    sorted(word_lists.PREPOSITIONS),
                    YOO,
                    SILENT,
                    word_lists.NUMBERS[1:],
                    PERSONAL,
                ),
            )
        )
        self.ranges = {
            (f.slot, key): self.parts.add(values)
            for f in table.fields
            if f.names
            for key, values in f.columns.items()
        }
        self.places = {f.slot: self._places(f) for f in table.fields}
        self.counts = {f.slot: self._count(f) for f in table.fields if f.number}
        self.groups = [self._group(group) for group in table.groups]

    def prompt(self) -> str:
        """The whole prompt."""
        texts = self._texts()
        acc, state = (
            self.working.add('=""'),
            self.working.add('="0000"'),
        )  # of the line before: ends…, stopped, a stop passed back, just before this one; its mark
        before = '""'
        for phrase, cell in zip(self.table.phrases, texts, strict=True):
            opening = self.working.add("=" + self._opening(phrase, cell))
            seam = self._seam(phrase, state, cell, opening, before)
            acc = self.working.add(f'=IF({cell}="",{acc},{acc}&{seam})')
            state = self.working.add("=" + self._state(phrase, state, cell))
            before = cell
        tail = f'IF(MID({state},2,1)="1","",IF(LEFT({state},1)="1",MID({state},5,9),IF(MID({state},3,1)="1",".","")))'  # noqa: E501
        return f"{acc}&{tail}"

    def _places(self, field: Field) -> list[_Place]:
        """The cells of one field, and what is known of what is in them."""
        own = self.cells[field.slot]
        default = [*field.default[: len(own)], *[""] * (len(own) - len(field.default))]
        blank = f'TRIM({"&".join(own)})=""'
        keys = self.parts.add([normal(name) for name in field.names]) if field.names else ""
        found = []
        for cell, instead in zip(own, default, strict=True):
            typed = f'IF(RIGHT(TRIM({cell}),1)=",",TRIM(LEFT(TRIM({cell}),LEN(TRIM({cell}))-1)),TRIM({cell}))'  # noqa: E501
            value = self.working.add(
                "=" + (f"IF({blank},{text(instead)},{typed})" if any(default) else typed)
            )
            row = "0"
            if keys:
                key = f'SUBSTITUTE(SUBSTITUTE(SUBSTITUTE(LOWER({value}),"-"," "),"_"," "),"’","\'")'
                plain = (  # what represents any sign in a search
                    f'SUBSTITUTE(SUBSTITUTE(SUBSTITUTE({key},"~","~~"),"?","~?"),"*","~*")'
                )
                row = self.working.add(f'=IF({value}="",0,IFERROR(MATCH({plain},{keys},0),0))')
            word = f'LEFT({value},FIND(" ",{value}&" ")-1)'
            owned = f'AND(LEN({word})>2,OR(RIGHT({word},2)="\'s",RIGHT({word},2)="’s"),NOT(EXACT(LEFT({value},1),LOWER(LEFT({value},1)))))'  # noqa: E501
            leads = (
                'AND(ISNUMBER(FIND("'
                f' ",{value})),OR(ISNUMBER(MATCH(LOWER({word}),{self.known.determiners},0)),{owned}))'  # noqa: E501
            )
            second = (
                f'MID({value},LEN({word})+2,FIND(" ",{value}&"  ",LEN({word})+2)-LEN({word})-2)'
            )
            somebodys = f'AND(ISNUMBER(MATCH(LOWER({word}),{self.known.personal},0)),OR(RIGHT({second},2)="\'s",RIGHT({second},2)="’s"),LEN({value})>LEN({word})+LEN({second})+1)'  # noqa: E501
            determiner = self.working.add(
                f'=IF({row}>0,"",IF({leads},IF({somebodys},{word}&" "&{second},{word}),""))'
            )
            rest = self.working.add(
                f'=IF({determiner}="",{value},MID({value},LEN({determiner})+2,9999))'
            )
            found.append(
                _Place(
                    value,
                    row,
                    determiner,
                    rest,
                    self.working.add("=" + self._number(rest)),
                    self.working.add("=" + self._sound(rest)),
                )
            )
        return found

    @staticmethod
    def _number(rest: str) -> str:
        """Is it one, many, or a name? By its ending and its first letter."""
        many = f'AND(LOWER(RIGHT({rest},1))="s",LOWER(RIGHT({rest},2))<>"ss",LOWER(RIGHT({rest},2))<>"us",LOWER(RIGHT({rest},2))<>"is")'  # noqa: E501
        name = f"NOT(EXACT(LEFT({rest},1),LOWER(LEFT({rest},1))))"
        return f'IF({many},"many",IF({name},"name","one"))'

    def _sound(self, rest: str) -> str:
        """a or an, by the first letters."""
        yoo, silent = (
            f"ISNUMBER(MATCH(LOWER(LEFT({rest},{size})),{where},0))"
            for size, where in ((3, self.known.yoo), (4, self.known.silent))
        )
        vowel = f'ISNUMBER(FIND(LOWER(LEFT({rest}&"-",1)),"aeiou8"))'
        return f'IF({silent},"an",IF({yoo},"a",IF({vowel},"an","a")))'

    def _count(self, field: Field) -> str:
        """How many, as a number; 0 if it says none."""
        value = self.places[field.slot][0].value
        return self.working.add(
            f'=IF({value}="",0,IFERROR(MATCH(LOWER({value}),{self.known.numbers},0),IFERROR(VALUE({value}),0)))'
        )

    def _picked(self, group: GroupForm, key: str, place: _Place) -> str:
        """What a column holds of the term that is chosen."""
        return f"INDEX({self.ranges[group.head, group.columns[key]]},{place.row})"

    def _group(self, group: GroupForm) -> str:
        """A noun group in words; the cell that holds it."""
        modifiers, sound = self._modifiers(group)
        count = self.counts.get(group.counted, "0")
        places = self.places[group.head]
        members = []
        for j, place in enumerate(places):
            first, last = (
                f'{joined(*(p.value for p in some))}=""' if some else "TRUE"
                for some in (places[:j], places[j + 1 :])
            )
            member = self._member(group, place, modifiers, sound, count, j, first, last)
            join = either(first, '""', either(last, '" and "', '", "')) if j else '""'
            members.append(f'IF({place.value}="","",{joined(join, member)})')
        return self.working.add("=" + joined(*members))

    def _member(
        self,
        group: GroupForm,
        place: _Place,
        modifiers: str,
        sound: str,
        count: str,
        j: int,
        first: str,
        last: str,
    ) -> str:
        """One member of the group's list: a term as the table has it, or words of one's own."""
        term = self._term(group, place, modifiers, sound, count, first if j else "TRUE", last)
        own = self._own(group, place, modifiers, sound, count, first if j else "TRUE", last)
        return f"IF({place.row}>0,{term},{own})" if place.row != "0" else own

    def _term(
        self,
        group: GroupForm,
        place: _Place,
        modifiers: str,
        sound: str,
        count: str,
        first: str,
        last: str,
    ) -> str:
        def form(prefix: str) -> str:
            alone = self._picked(group, prefix + "alone", place)
            if prefix + "mid" in group.columns:
                alone = either(last, alone, self._picked(group, prefix + "mid", place))
            if prefix + "core" not in group.columns:
                return alone
            core = self._picked(group, prefix + "core", place)
            if prefix + "core-mid" in group.columns:
                core = either(last, core, self._picked(group, prefix + "core-mid", place))
            front = either(
                f'{sound}="an"',
                self._picked(group, prefix + "front-an", place),
                self._picked(group, prefix + "front-a", place),
            )
            return either(f'AND({first},{modifiers}<>"")', joined(front, modifiers, core), alone)

        if not place.row or place.row == "0":
            return '""'
        if not group.counted:
            return form("")
        many = f'SUBSTITUTE({form("many-")},"{COUNT}",{self._said(count)})'
        return f"IF({count}=0,{form('')},IF({count}=1,{form('one-')},{many}))"

    def _said(self, count: str) -> str:
        return f'IFERROR(INDEX({self.known.numbers},IF({count}>12,99,{count})),TEXT({count},"0"))'

    def _own(
        self,
        group: GroupForm,
        place: _Place,
        modifiers: str,
        sound: str,
        count: str,
        first: str,
        last: str,
    ) -> str:
        """Words of one's own within the group: an article by the signs that there are."""
        before = (
            modifiers if first == "TRUE" or modifiers == '""' else f'IF({first},{modifiers},"")'
        )
        heard = (
            place.sound if modifiers == '""' else f'IF({joined(before)}="",{place.sound},{sound})'
        )
        number = text(group.after_number) if group.after_number else place.number
        own_a = f'OR(LOWER({place.determiner})="a",LOWER({place.determiner})="an")'
        article = {
            "a": f'IF({number}="one",{heard}&" ","")',
            "the": f'IF({number}="name","","the ")',
        }.get(group.article, '""')
        if group.form == "place" and not group.article:
            article = f'IF({number}="one",{heard}&" ","")'
        front = (
            f'IF({place.determiner}="",{article},IF({own_a},{heard}&" ",{place.determiner}&" "))'
        )
        if group.counted:
            said = self._said(count)
            front = (
                f'IF({count}>0,{joined(text("the ") if group.article == "the" else text(""), said)}&"'  # noqa: E501
                f' ",{front})'
            )
        core = either(last, place.rest, bare(place.rest))
        if group.after:
            after = (
                f"IF({count}>1,{text(' ' + group.after_many)},{text(' ' + group.after)})"
                if group.counted
                else text(" " + group.after)
            )
            core = joined(core, after)
        whole = joined(front, before, core)
        if group.form != "place":
            return whole
        word = f'LOWER(LEFT({place.value},FIND(" ",{place.value}&" ")-1))'
        there = (
            'AND(ISNUMBER(FIND("'
            f' ",{place.value})),ISNUMBER(MATCH({word},{self.known.prepositions},0)))'
        )
        return f"IF({there},{place.value},{joined(text('in '), whole)})"

    def _modifiers(self, group: GroupForm) -> tuple[str, str]:
        """The words that lead to the head, each with a space after it, and the article that they
        take.
        """
        if not group.before:
            return '""', '"a"'
        words, sounds = [], '"a"'
        for kind, value in reversed(group.before):
            if kind == "quote":
                words.append(text(value + " "))
                sounds = text(english.article(value))
                continue
            places = self.places[value]
            said = []
            for j, place in enumerate(places):
                term = (
                    f"INDEX({self.ranges[value, 'words']},{place.row})"
                    if place.row != "0"
                    else '""'
                )
                plain = f'IF(OR(LOWER({place.determiner})="a",LOWER({place.determiner})="an",LOWER({place.determiner})="the"),{bare(place.rest)},{bare(place.value)})'  # noqa: E501
                one = f"IF({place.row}>0,{term},{plain})" if place.row != "0" else plain
                earlier = joined(*(p.value for p in places[:j]))
                join = f'IF({earlier}="","",", ")' if j else '""'
                said.append(f'IF({place.value}="","",{joined(join, one)})')
            every = joined(*(p.value for p in places))
            words.append(f'IF({every}="","",{joined(*said, text(" "))})')
            for place in reversed(places):
                one = (
                    f"IF({place.row}>0,INDEX({self.ranges[value, 'sound']},{place.row}),{place.sound})"  # noqa: E501
                    if place.row != "0"
                    else place.sound
                )
                sounds = f'IF({place.value}="",{sounds},{one})'
        return self.working.add("=" + joined(*reversed(words))), self.working.add("=" + sounds)

    def _texts(self) -> list[str]:
        """The cell of each phrase's words; one that leans on the next goes when that has gone."""
        cells: list[str] = []
        following = '""'
        for phrase in reversed(self.table.phrases):
            said = self._phrase(phrase)
            if phrase.hanging:
                said = f'IF({following}="","",{said})'
            following = self.working.add("=" + said)
            cells.append(following)
        return cells[::-1]

    def _phrase(self, phrase: PhraseForm) -> str:
        said = text(phrase.fixed)
        if phrase.heads:
            filled = [
                f'IF({joined(*(p.value for p in self.places[head]))}<>"",{2**i},0)'
                for i, head in enumerate(phrase.heads)
            ]
            said = f"CHOOSE(1+{'+'.join(filled)},{','.join(self._template(t) for t in phrase.templates)})"  # noqa: E501
        return f'IF({self._stands(phrase.waits)},{said},"")' if phrase.waits else said

    def _template(self, template: Template | None) -> str:
        if template is None:
            return '""'
        said = [text(template.lead)]
        for one in template.then:
            cell = self.groups[one.group]
            said += [
                bare(cell) if one.bare else cell,
                either(stopped(cell), text(one.after_stop), text(one.words)),
            ]
        return joined(*said)

    def _stands(self, waits: Waits) -> str:
        """Is a phrase in the prompt, given which of its slots are filled?"""
        places = self.places[waits.slot]
        column = self.ranges.get((waits.slot, waits.column), "")
        yes = (
            [
                f'IF({p.row}>0,INDEX({column},{p.row})="1",{"TRUE" if waits.every else "FALSE"})'
                for p in places
            ]
            if column
            else ["FALSE"]
        )
        own = "OR(" + ",".join(f'AND({p.value}<>"",{p.row}=0)' for p in places) + ")"
        known = f"{'AND' if waits.every else 'OR'}({','.join(yes)})"
        every = joined(*(p.value for p in places))
        return (
            f'IF({every}="",{str(waits.blank).upper()},IF({own},{str(waits.own).upper()},{known}))'
        )

    @staticmethod
    def _opening(phrase: PhraseForm, cell: str) -> str:
        """A line as a sentence begins with it: a word with a digit, a slash or a capital of its own
        stays.
        """
        if not phrase.heads:
            return f'IF({cell}="","",{text(english.capitalised(phrase.fixed))})'
        at = f"IF({among(f'LEFT({cell},1)', OPENERS)},2,1)"
        word = f'MID(LEFT({cell},FIND(" ",{cell}&" ")-1),{at},999)'
        digits = f'SUMPRODUCT(--ISNUMBER(FIND({{"0","1","2","3","4","5","6","7","8","9","/"}},{word})))>0'  # noqa: E501
        changed = f"LEFT({cell},{at}-1)&UPPER(MID({cell},{at},1))&MID({cell},{at}+1,9999)"
        return (
            f'IF({cell}="","",IF(OR(NOT(EXACT({word},LOWER({word}))),{digits}),{cell},{changed}))'
        )

    @staticmethod
    def _seam(phrase: PhraseForm, state: str, cell: str, opening: str, before: str) -> str:
        """What comes before a line, and the line as it reads there."""
        plain = f'", "&{cell}'
        if phrase.joined and before != '""':
            last = f'LOWER(TRIM(RIGHT(SUBSTITUTE({before}," ",REPT(" ",99)),99)))'
            stutters = f'EXACT({last},LOWER(LEFT({cell},FIND(" ",{cell}&" ")-1)))'
            plain = (
                f'IF(AND(MID({state},4,1)="1",LEFT({state},1)="3",NOT({stutters}))," ",", ")&{cell}'
            )
        mark = f"MID({state},5,9)"
        soft = f'IF(LEFT({state},1)="2",{mark}&" "&{cell},{plain})'
        passed = f'IF(MID({state},3,1)="1",IF(MID({state},2,1)="1"," ",". ")&{opening},{soft})'
        return (
            f'IF(LEFT({state},1)="0",{opening},IF(LEFT({state},1)="1",{mark}&"'
            f' "&{opening},{passed}))'
        )

    def _state(self, phrase: PhraseForm, state: str, cell: str) -> str:
        """What the next line has to know: does this one end a sentence (1), take no comma (2), end
        in a filled slot (3) or not (4); is it stopped; has a sentence's end been passed back; does
        it stand just before; and its mark.
        """
        ends = "TRUE" if phrase.sentence else stopped(cell)
        soft = "TRUE" if phrase.soft else among(f"RIGHT({cell},1)", SOFT)
        closed = '"3"'
        if phrase.heads and not all(t.closed for t in phrase.templates if t):
            filled = [
                f'IF({joined(*(p.value for p in self.places[head]))}<>"",{2**i},0)'
                for i, head in enumerate(phrase.heads)
            ]
            closed = f"CHOOSE(1+{'+'.join(filled)},{','.join(text('3' if t and t.closed else '4') for t in phrase.templates)})"  # noqa: E501
        mark = f'IF({stopped(cell)},"",{text(phrase.end)})'
        kind = '"1"' if phrase.sentence else f'IF({ends},"1",IF({soft},"2",{closed}))'
        gone = f'LEFT({state},2)&{text("1") if phrase.sentence else f"MID({state},3,1)"}&"0"&MID({state},5,9)'  # noqa: E501
        return f'IF({cell}="",{gone},{kind}&IF({stopped(cell)},"1","0")&"01"&{mark})'

    def remark(self) -> str:
        """What is still needed, and which words of one's own may come out otherwise."""
        said = []
        for field in self.table.fields:
            places = self.places[field.slot]
            if field.need:
                said.append(
                    f'IF({joined(*(p.value for p in places))}="",{text(f"still open: {field.ask} ")},"")'  # noqa: E501
                )
        fragile = {g.head for g in self.table.groups if g.fragile} | {
            p.waits.slot for p in self.table.phrases if p.waits
        }
        for field in self.table.fields:
            if field.slot in fragile:
                own = (
                    "OR("
                    + ",".join(f'AND({p.value}<>"",{p.row}=0)' for p in self.places[field.slot])
                    + ")"
                )
                said.append(
                    f'IF({own},{text(f"your own words for “{field.ask}”: the article or plural may still change. ")},"")'  # noqa: E501
                )
        return f"TRIM({joined(*said)})"


def write_form(file: IO[bytes], table: FormTable, title: str, note: str, rows: int) -> None:
    """Write the workbook with so many rows to fill in. Raises OSError."""
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font, PatternFill
    from openpyxl.utils import get_column_letter
    from openpyxl.workbook.defined_name import DefinedName
    from openpyxl.worksheet.datavalidation import DataValidation

    columns = [
        (WHO, "Your name", "the person who filled in this row", None),
        ("", "The prompt", "it grows on the right as you fill in the row", None),
        *(
            (
                f.slot,
                f.ask + (f" ({j})" if j > 1 else "") + (" *" if f.need and j == 1 else ""),
                _about(f),
                f,
            )
            for f in table.fields
            for j in range(1, f.places + 1)
        ),
    ]
    cells: dict[str, list[str]] = {}
    for at, (slot, _, _, field) in enumerate(columns, 1):
        if field:
            cells.setdefault(slot, []).append(f"form!{get_column_letter(at)}{ROW}")
    rules = _Interpreter(table, get_column_letter, cells)
    prompt = rules.working.add("=" + rules.prompt())
    remark = rules.working.add("=" + rules.remark())
    last = FIRST + rows - 1
    book = Workbook()
    sheet = book.active
    sheet.title = "form"
    choices, parts, working = (book.create_sheet(name) for name in ("choices", "parts", "working"))
    parts.sheet_state = working.sheet_state = "hidden"
    sheet["A1"] = f"{title}\n{note}"
    as_text(sheet["A1"])
    sheet.merge_cells(start_row=1, start_column=1, end_row=1, end_column=min(5, len(columns)))
    sheet["A1"].alignment, sheet["A1"].font = (
        Alignment(wrap_text=True, vertical="top"),
        Font(size=12),
    )
    (
        sheet.row_dimensions[1].height,
        sheet.row_dimensions[2].height,
        sheet.row_dimensions[3].height,
    ) = (56, 34, 44)
    sheet.row_dimensions[HEADER].hidden = True
    shown = [
        *((ask, about) for _, ask, about, _ in columns),
        ("Its length", "length of the prompt in characters"),
        ("Remarks", ""),
    ]
    for at, (ask, about) in enumerate(shown, 1):
        head, below = sheet.cell(2, at, ask), sheet.cell(3, at, about)
        as_text(head, below)
        head.font, head.fill, head.alignment = (
            Font(bold=True),
            PatternFill("solid", fgColor="E9E4D8"),
            Alignment(wrap_text=True, vertical="top"),
        )
        below.font, below.alignment = (
            Font(italic=True, color="5F636B", size=9),
            Alignment(wrap_text=True, vertical="top"),
        )
        sheet.column_dimensions[get_column_letter(at)].width = {
            1: 16,
            2: 58,
            len(columns) + 1: 12,
            len(columns) + 2: 48,
        }.get(at, 24)
    listed: dict[str, int] = {}
    for at, (slot, _, _, field) in enumerate(columns, 1):
        as_text(sheet.cell(HEADER, at, slot or None))
        if field and field.names:
            if slot not in listed:
                listed[slot] = len(listed) * 2 + 1
                _choices(choices, field, listed[slot])
            letter, own = get_column_letter(listed[slot]), get_column_letter(at)
            rule = DataValidation(
                "list",
                f"choices!${letter}$2:${letter}${max(1, field.offered or len(field.names)) + 1}",
                allow_blank=True,
                showErrorMessage=False,
            )
            rule.add(f"{own}{FIRST}:{own}{last}")
            sheet.add_data_validation(rule)
    for at, values in enumerate(rules.parts.columns, 1):
        for row, value in enumerate(values, 1):
            cell = parts.cell(row, at, value)
            cell.data_type = "s"
    every = "&".join(cell for some in cells.values() for cell in some)
    for row in range(FIRST, last + 1):
        sheet.row_dimensions[
            row
        ].height = 46  # three lines: programs don't make room for what a formula gives
        for at in (1, *range(3, len(columns) + 1)):
            cell = sheet.cell(row, at)
            cell.number_format, cell.alignment = (
                "@",
                Alignment(wrap_text=True, vertical="top"),
            )  # what is typed stays text: 1/2 is not a date
        for at, formula in enumerate(rules.working.formulas, 1):
            working.cell(row, at, formula.replace(ROW, str(row)))
        begun = every.replace(ROW, str(row))
        for at, what, of in (
            (2, f"working!{prompt}", "{}"),
            (len(columns) + 1, f"working!{prompt}", "LEN({})"),
            (len(columns) + 2, f"working!{remark}", "{}"),
        ):
            cell = sheet.cell(
                row, at, f'=IF(TRIM({begun})="","",{of.format(what)})'.replace(ROW, str(row))
            )
            cell.alignment = Alignment(wrap_text=True, vertical="top")
    sheet.freeze_panes = f"C{FIRST}"
    area = f"form!$A${HEADER}:${get_column_letter(len(columns))}${last}"
    book.defined_names[AREA] = DefinedName(AREA, attr_text=area)
    book.properties.created = book.properties.modified = datetime(1980, 1, 1)
    made = BytesIO()
    book.save(made)
    with ZipFile(made) as whole:  # without the hour at which it was made
        write_archive(file, ((name, _undated(whole.read(name))) for name in whole.namelist()))


def _undated(part: bytes) -> bytes:
    """A part of the workbook without the moment of saving, which the package writes."""
    return re.sub(rb"(<dcterms:modified[^>]*>)[^<]*", rb"\g<1>1980-01-01T00:00:00Z", part)


def _about(field: Field) -> str:
    """What a field is for, and for instance what."""
    example = "; ".join(field.example)
    blank = f"left blank, it is: {', '.join(field.default)}" if field.default else ""
    return ". ".join(
        filter(None, (field.about, f"for instance: {example}" if example else "", blank))
    )


def _choices(sheet: Any, field: Field, at: int) -> None:
    """What can be chosen for a field, and what it does to the picture."""
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    for column, words, width in ((at, field.ask, 32), (at + 1, "what it does to the picture", 60)):
        head = sheet.cell(1, column, words)
        head.font = Font(bold=True)
        as_text(head)
        sheet.column_dimensions[get_column_letter(column)].width = width
    shown = field.offered or len(field.names)
    for row, (name, gloss) in enumerate(zip(field.names[:shown], field.glosses, strict=False), 2):
        sheet.cell(row, at, name).data_type = "s"
        if gloss:
            sheet.cell(row, at + 1, gloss).data_type = "s"
