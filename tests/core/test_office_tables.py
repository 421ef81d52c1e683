"""Shot lists as offices make them: headings, separators, encodings, title blocks, dividers, totals, abbreviations, several speakers."""

from io import BytesIO

import pytest
from openpyxl import Workbook

from syntagma.app.film.lists import FilmList
from syntagma.formats.office_tables import office_text
from tests.film_prompts import workspace


def book(*rows) -> bytes:
    made = Workbook()
    for row in rows:
        made.active.append(row)
    file = BytesIO()
    made.save(file)
    return file.getvalue()


# Each: the file, what its first and its last shot have, and what is said of it.
OFFICE = {
    "a title block above, TC and seconds": (
        "SKERROW FERRIES – Spring film;;;;\nDirector: N. Ounce;;;;\n;;;;\nSc;Shot;Est. Secs;Shot Size / Type;Action / Description\n1;1A;0:05;MLS;A ferry leaves.\n;1B;3,5;BCU;A rope.\n".encode("cp1252"),
        {"seconds": "5", "size": "medium wide shot", "action": "A ferry leaves."}, {"size": "choker", "seconds": "3,5"},
        ["Windows-1252", "2 rows above the headings left out: SKERROW FERRIES"],
    ),
    "tabs, D/N and I/E": (
        b"Scene\tSetup\tI/E\tLocation\tD/N\tCam Move\n2\t4\tE\tquay\tN\ttrack L\n2\t5\t\t\t\twhip pan L\n",
        {"int/ext": "EXT.", "hour": "night", "move": "track left"}, {"setting": "quay", "int/ext": "EXT.", "hour": "night", "move": "whip pan left"}, [],
    ),
    "UTF-16 as spreadsheets write Unicode text": (
        "Shot #\tDialogue / VO\tTalent\n1\tAh, mañana.\tIris\n".encode("utf-16"),
        {"line": "Ah, mañana.", "who": "Iris"}, {"shot": "1"}, ["UTF-16"],
    ),
    "UTF-16 without a mark": ("Shot,Action\n7,Rain.\n".encode("utf-16-le"), {"action": "Rain."}, {"shot": "7"}, ["UTF-16"]),
    "a UTF-8 mark and pipes": ("\ufeffShot|Desc.|Framing\n3|A café.|2S\n".encode(), {"action": "A café.", "size": "two-shot"}, {"shot": "3"}, []),
    "dividers by scene and a total": (
        b"Shot,Size,Action,Dur (s)\nSCENE 4 - KITCHEN - DAY,,,\n1,CU,A pot.,2\n2,WS,A cook.,3\nScene 5: YARD,,,\n1,ELS,A hen.,4\nTOTAL,,,9\n",
        {"scene": "4", "size": "close-up", "seconds": "2"}, {"scene": "5", "shot": "1", "size": "ELS"}, ["3 rows without a shot left out: SCENE 4 - KITCHEN - DAY; Scene 5: YARD; TOTAL 9"],
    ),
    "the headings again on each page": (b"Sc No,Sh No,Visual\n1,1,A lamp.\nSc No,Sh No,Visual\n1,2,A moth.\n", {"action": "A lamp."}, {"shot": "2"}, []),
    "timecodes in and out": (b"Slate,TC In,TC Out,Picture\n9A,00:00:10:00,00:00:12:12,A bell.\n", {"seconds": "2.5"}, {"in": "00:00:10:00"}, []),
    "two columns of notes, one unknown": (b"Shot,Sound FX,Trans.,Crew Call\n1,thud,Diss.,05:00\n", {"sfx": "thud", "transition": "Diss."}, {"shot": "1"}, []),
    "quotes, commas and a line break in a cell": (b'No.,Description,Dialog\r\n1,"Rope, wet","ADA: Now.\nTOM: No."\r\n', {"action": "Rope, wet"}, {"shot": "1"}, []),
    "a workbook with a title block": (
        book(["Bakery film", None, None], [None, None, None], ["Shot", "Angle", "Screen time"], [1, "HA", 2.5], ["Total", None, 2.5]),
        {"angle": "high angle", "seconds": "2.5"}, {"shot": "1"}, ["1 row above the headings left out: Bakery film", "Total 2.5"],
    ),
    "our own note above": (
        b"# One row a shot. A blank cell goes on from above.\nscene,shot,size\n1,1,OTS\n", {"size": "OTS"}, {"scene": "1"}, [],
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", OFFICE)
def test_an_office_list_is_read(name, tmp_path):
    data, first, last, said = OFFICE[name]
    path = tmp_path / ("list.xlsx" if data[:2] == b"PK" else "list.csv")
    path.write_bytes(data)
    found = FilmList(workspace(), str(path))
    assert found.wrong == [] or name == "quotes, commas and a line break in a cell"
    for shot, wanted in ((found.shots.shots[0], first), (found.shots.shots[-1], last)):
        assert {column: shot.cells.get(column, "") for column in wanted} == wanted
    for words in said:
        assert any(words in note for note in found.notes), found.notes
    assert bool(said) == bool(found.notes), found.notes


@pytest.mark.parametrize(
    ("cell", "speaker", "lines"),
    [
        ("ADA: Now. TOM (low): No.", "", [("ADA", "Now.", ""), ("TOM", "No.", "low")]),
        ("Ada: Now.\nTom: No.", "", [("Ada", "Now.", ""), ("Tom", "No.", "")]),
        ("Look here: it is nine.", "tom", [("tom", "Look here: it is nine.", "")]),
        ("It is late. Remember: nine o'clock.", "tom", [("tom", "It is late. Remember: nine o'clock.", "")]),
        ("Now.\nNo.", "ada; tom", [("ada", "Now.\nNo.", ""), ("tom", "Now.\nNo.", "")]),
        ("Now. | No.", "ada; tom", [("ada", "Now.", ""), ("tom", "No.", "")]),
    ],
)  # fmt: skip
def test_several_speakers_in_a_cell(cell, speaker, lines):
    from syntagma.core.film.spoken import lines_of

    found = lines_of(cell, speaker, people=["ada", "tom"])
    assert [(one.speaker, one.text, one.manner) for one in found] == lines


def test_bytes_are_read_as_what_they_are():
    assert office_text("façade".encode()) == ("façade", "")
    assert office_text("façade – “x”".encode("cp1252")) == ("façade – “x”", "Windows-1252")
