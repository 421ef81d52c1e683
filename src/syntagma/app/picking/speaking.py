"""Who speaks the line of a picture: the one whom it is of, if that is somebody who can."""


from syntagma.core import english
from syntagma.core.drafting.fills import Fill
from syntagma.core.english.noun_groups import head_end
from syntagma.core.vocabulary.terms import Term, Vocabulary
from syntagma.core.vocabulary.world import LEAD, Seat, Thing
from syntagma.core.writing.prompt_writer import Writer

SPEAKER = "speaker"  # the slot of who says a line: with nobody given, the one that the picture is of


def with_speaker(fills: list[Fill | None], writer: Writer) -> list[Fill | None]:
    """The fills with the one whom the picture is of as the speaker of its line, if that is somebody who can."""
    seats = writer.compiled.seats
    lead = next((rule.name for rule, fill in zip(writer.rules, fills, strict=True) if fill and rule.facet == "subject" and seats[rule.name].role == LEAD), "")
    item = fills[writer.position[lead]].items[0] if lead else None
    if item is None or not _speaks(seats[lead], item.term, item.words, writer.compiled.vocabulary):
        return fills
    words = english.split_determiner(item.term.term if item.term else item.words)[1]
    said = writer.fills({SPEAKER: f"the {words[: head_end(words)]}"})
    return [mine or theirs for mine, theirs in zip(said, fills, strict=True)]


def _speaks(seat: Seat, term: Term | None, words: str, vocabulary: Vocabulary) -> bool:
    if term is None:
        return vocabulary["animal"].get(words) is None
    return not vocabulary.dimensions.disagreements([vocabulary.thing(seat, term), Thing(seat, SPEAKER, vocabulary.world("being: person child group"))])
