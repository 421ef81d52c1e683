"""Other picks in the place of a row's: what was picked for it is picked again, everything else stays."""

from syntagma.app.batches.rows_made import row_of
from syntagma.app.batches.sheets import Sheet
from syntagma.app.composing.asked import Taste
from syntagma.app.composing.records import Recorder, says_more
from syntagma.app.picking.chooser import Chooser
from syntagma.core.batches.rows import SheetRow
from syntagma.core.picking.situations import number_of
from syntagma.core.vocabulary.terms import normal
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.trouble import Trouble

TRIES = 30


def redraw(sheet: Sheet, row: SheetRow, draw: int) -> SheetRow:
    """Put other picks in place of a row's, and the row that comes of it in its place. Raises Trouble if it is sent, or nothing of it was picked."""
    if sheet.sent(row.id):
        raise Trouble(f"{row.id} has been sent already", "write new prompts, and make a sheet of those", 2)
    record = row.record
    fills, formula = record.get("fills"), record.get("formula")
    if not isinstance(fills, dict) or not formula or row.text != record.get("text"):
        raise Trouble(f"{row.id} was not picked by a formula, or has been edited since", "edit its text in the sheet", 2)
    if says_more(record):
        raise Trouble(f"{row.id} has words from a wish that fit no slot of its formula", "edit its text in the sheet", 2)
    workspace = sheet.workspace
    looks = [str(name) for name in record.get("looks", ())] if isinstance(record.get("looks"), list) else []
    parameters = {name: value for name, value in row.parameters.items()}
    writer = Writer(workspace.formula(str(formula), looks)[0], workspace.model(row.model), workspace.vocabulary, workspace.manner(Manner(parameters=parameters)))
    slots = _picked(record, writer)
    if not slots:
        raise Trouble(f"nothing in {row.id} was picked", "edit its text in the sheet", 2)
    given = {slot: fill for slot, fill in fills.items() if slot in writer.position}
    chooser = Chooser(workspace, writer, Taste(draw=draw))
    texts = {one.text for one in sheet.rows.values()}
    for turn in range(TRIES):
        made = chooser.pick(writer.fills({**given, **dict.fromkeys(slots, "")}), slots, chooser.random(row.id, turn), turn=number_of(row.id) + turn)
        prompt = writer.write(made)
        if prompt.text not in texts:
            fresh = Recorder(writer, made, draw=draw).record(prompt, findings=writer.findings(made, prompt))
            new = row_of(workspace, {**record, **fresh}, row.id)._replace(takes=row.takes, note=row.note, further=row.further, needs=row.needs, held=row.held)
            sheet.put(new, "redrawn", f"{', '.join(slots)} by {draw}")
            return new
    raise Trouble(f"{row.id}: no picks are left that the sheet does not have already", "try another --draw", 2)


def _picked(record: object, writer: Writer) -> list[str]:
    """The slots that were picked: those that differ in the family, else, where a draw made it, those that hold a term, or what it does."""
    assert isinstance(record, dict)
    design = record.get("design")
    changes = design.get("changes") if isinstance(design, dict) else None
    if isinstance(changes, dict) and changes:
        return [slot for slot in changes if slot in writer.position and writer.rules[writer.position[slot]].facet in writer.compiled.vocabulary]
    if "draw" not in record:
        return []
    vocabulary = writer.compiled.vocabulary
    said = {rule.name: fill for rule in writer.rules if rule.facet in vocabulary and isinstance(fill := record["fills"].get(rule.name), str)}
    terms = {slot: term for slot, fill in said.items() if (term := vocabulary[writer.rules[writer.position[slot]].facet].get(fill)) is not None}
    deeds = {normal(deed.partition("@")[0]) for term in terms.values() for deed in term.does}  # what a picked subject does goes with it
    return [slot for slot, fill in said.items() if slot in terms or normal(fill) in deeds]
