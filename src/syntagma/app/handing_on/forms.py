"""A formula as a form for people who don't have the program: a workbook, or one page; what comes
back is a table of fills for `compose --rows`.
"""

from pathlib import Path

from syntagma.app.asked import Taste
from syntagma.app.picking import Chooser
from syntagma.app.workspace.html_pages import as_data, page
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.form_table import FormTable, Uncompilable, form_table
from syntagma.core.models import PLAIN
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.files import whole_file, write_text

ENDINGS = (".xlsx", ".html")
NOTE = (
    "One picture a row. Choose from the lists, or write words of your own; leave blank what you"
    " don't mind (* is required). The prompt grows beside your name in plain sentences; Syntagma"
    " fits it to the generator afterwards."
)


def table_of(workspace: Workspace, formula: str) -> tuple[FormTable, str]:
    """The table of a formula's form, and what the formula is about. Raises Trouble or Refused."""
    read, _ = workspace.formula(formula)
    writer = Writer(read, PLAIN, workspace.vocabulary)
    chooser = Chooser(workspace, writer, Taste((), "usual", 1))
    offered = {
        rule.name: chooser.terms(rule.name)
        for rule in writer.rules
        if rule.facet in workspace.vocabulary and not rule.number
    }
    try:
        return form_table(read, workspace.vocabulary, offered), read.head.about or read.name
    except Uncompilable as wrong:
        raise Trouble(
            f"{read.name} can't be a form: {wrong}", "split the phrase into two lines", 1
        ) from None


def write_form(
    workspace: Workspace, formula: str, target: Path, rows: int, title: str = "", note: str = ""
) -> FormTable:
    """Write a form, .xlsx or .html; return its table. Raises Trouble or Refused."""
    ending = target.suffix.lower()
    if ending not in ENDINGS:
        raise Trouble(
            f"can't write a form as {target}",
            "name it .xlsx (a row a prompt) or .html (one page)",
            2,
        )
    table, about = table_of(workspace, formula)
    title, note = title or about, note or NOTE
    if ending == ".xlsx":
        from syntagma.formats import form_sheet

        with whole_file(target) as file:
            form_sheet.write_form(file.buffer, table, title, note, rows)
    else:
        name = target.stem
        write_text(
            target,
            page(
                "form.html.j2",
                title=title,
                note=note if note != NOTE else "",
                data=as_data({**table.data(), "key": f"form-{name}", "file": f"{name}-filled.csv"}),
            ),
        )
    return table
