"""Forms: filled-in rows of every shipped formula, as a spreadsheet program works them out, as the
page does in a browser, and as `compose --rows` writes them.

python -m benchmarks.forms [ROWS] [FORMULA …]: needs LibreOffice (soffice); with chromium and its
driver the page is filled in too. Fills are drawn from the lists; free slots take words of the
formula's example. Every difference is printed.
"""

import json
import random
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from syntagma.app.handing_on.forms import table_of, write_form
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.drafting.fills import BadFills
from syntagma.core.form_table import FormTable
from syntagma.core.models import PLAIN
from syntagma.core.writing.prompt_writer import Writer
from syntagma.formats.form_sheet import FIRST

WORDS = {
    "trait": "salt-stained",
    "line": "You are early.",
    "answer": "The tide is earlier.",
    "title": "No Moon",
    "topic": "islands that empty in winter",
    "words": "Night crossings",
    "speaker": "the purser",
    "effect": "a lid that clicks",
}


def drawn(table: FormTable, rows: int, seed: int) -> list[dict[str, list[str]]]:
    """Rows of fills: what is needed always, the rest in two of three rows."""
    dice = random.Random(seed)
    found = []
    for _ in range(rows):
        row = {}
        for field in table.fields:
            if not (field.need or dice.random() < 0.66):
                continue
            if field.offered:
                row[field.slot] = dice.sample(field.names, dice.randint(1, field.places))
            elif field.number:
                row[field.slot] = [str(dice.randint(1, 14))]
            elif not field.default or dice.random() < 0.3:
                row[field.slot] = [
                    WORDS.get(field.slot, (field.example or field.default or ("",))[0])
                ]
        found.append({slot: cells for slot, cells in row.items() if cells[0]})
    return found


def by_compose(writer: Writer, rows: list[dict[str, list[str]]]) -> list[str]:
    """What the program itself writes."""
    found = []
    for row in rows:
        try:
            found.append(
                writer.write(
                    writer.fills({slot: "; ".join(cells) for slot, cells in row.items()})
                ).text
            )
        except BadFills as bad:
            found.append(f"({bad})")
    return found


def by_spreadsheet(path: Path, rows: list[dict[str, list[str]]], folder: Path) -> list[str]:
    """What a spreadsheet program works out in the column of prompts."""
    from openpyxl import load_workbook

    book = load_workbook(path)
    sheet = book["form"]
    names = [cell.value for cell in sheet[FIRST - 1]]
    for at, row in enumerate(rows):
        for slot, cells in row.items():
            for j, words in enumerate(cells):
                sheet.cell(FIRST + at, names.index(slot) + 1 + j, words)
    filled = folder / "filled.xlsx"
    book.save(filled)
    subprocess.run(
        [
            "soffice",
            f"-env:UserInstallation=file://{folder}/profile",
            "--headless",
            "--convert-to",
            "xlsx:Calc MS Excel 2007 XML",
            "--outdir",
            folder / "out",
            filled,
        ],
        check=True,
        capture_output=True,
        timeout=600,
    )
    done = load_workbook(folder / "out" / "filled.xlsx", data_only=True)["form"]
    column = next(cell.column for cell in done[2] if cell.value == "The prompt")
    return [str(done.cell(FIRST + at, column).value or "") for at in range(len(rows))]


def by_page(path: Path, rows: list[dict[str, list[str]]]) -> list[str]:
    """What the page puts together, typed into its fields in a browser."""
    from selenium import webdriver

    options = webdriver.ChromeOptions()
    for word in (
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ):
        options.add_argument(word)
    browser = webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )
    try:
        browser.get(path.as_uri())
        script = """
            return arguments[0].map((row) => {
              document.getElementById('again').click();
              for (const [slot, cells] of Object.entries(row)) cells.forEach((words, j) => {
                const field = document.getElementById(`f-${slot}-${j}`); field.value = words; field.dispatchEvent(new Event('input', {bubbles: true}));
              });
              return document.getElementById('prompt').textContent;
            });"""  # noqa: E501
        return browser.execute_script(script, rows)
    finally:
        browser.quit()


def main(words: list[str]) -> None:
    rows = int(words[0]) if words else 200
    workspace = Workspace.load()
    names = words[1:] or list(workspace.formulas())
    same = dict.fromkeys(("spreadsheet", "page"), 0)
    total = 0
    for seed, name in enumerate(names):
        table, _ = table_of(workspace, name)
        wanted_rows = drawn(table, rows, seed)
        wanted = by_compose(
            Writer(workspace.formula(name)[0], PLAIN, workspace.vocabulary), wanted_rows
        )
        total += len(wanted)
        with tempfile.TemporaryDirectory() as folder:
            said = {}
            if shutil.which("soffice"):
                write_form(workspace, name, Path(folder) / "form.xlsx", rows)
                said["spreadsheet"] = by_spreadsheet(
                    Path(folder) / "form.xlsx", wanted_rows, Path(folder)
                )
            if shutil.which("chromedriver"):
                write_form(workspace, name, Path(folder) / "form.html", rows)
                said["page"] = by_page(Path(folder) / "form.html", wanted_rows)
        for who, found in said.items():
            good = sum(a == b for a, b in zip(wanted, found, strict=True))
            same[who] += good
            for row, a, b in [
                (r, a, b) for r, a, b in zip(wanted_rows, wanted, found, strict=True) if a != b
            ][:3]:
                print(
                    f"{name}, {who}:\n  compose {a}\n  form    {b}\n  of"
                    f" {json.dumps(row, ensure_ascii=False)}"
                )
        print(
            f"{name}:"
            f" {', '.join(f'{who} {sum(a == b for a, b in zip(wanted, found, strict=True))} of {len(wanted)}' for who, found in said.items())}",  # noqa: E501
            flush=True,
        )
    print(f"the same: {', '.join(f'{who} {number} of {total}' for who, number in same.items())}")


if __name__ == "__main__":
    main(sys.argv[1:])
