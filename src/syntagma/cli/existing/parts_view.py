"""How prompts that were taken apart look in a terminal: the text with its parts coloured, tables of parts, what differs."""

from syntagma.cli import terminal
from syntagma.cli.harmless import shown

_INKS = {
    "green": "subject action pose expression wardrobe animal food object architecture creature-feature",
    "blue": "setting weather hour era background time-passing",
    "violet": "lighting light-quality palette mood colour-grade",
    "teal": "shot-size camera-angle camera-move camera-rig lens focus exposure composition pacing transition",
    "ochre": "speech voice sound-effect ambience music",
    "crimson": "medium genre design-style technique finish material film-look lettering pattern badge-shape visual-effect",
}
_INK = {facet: ink for ink, facets in _INKS.items() for facet in facets.split()}


def ink(piece) -> str:
    """The colour of a piece."""
    if piece.kind == "glue":
        return terminal.QUIET
    if piece.kind != "part":
        return "dim italic"
    return _INK.get(piece.facet, "")


def coloured(reading) -> None:
    """The prompt, each part in the colour of its kind."""
    terminal.say(*((shown(piece.text), ink(piece)) for piece in reading.pieces), error=False)


MOST_SEEN = 400  # parts that a terminal shows


def parts_table(reading) -> None:
    """Every piece but glue: its words, what it is, the term that it is or is nearest to, how sure that is and why."""
    from rich.text import Text

    rows = []
    said = [piece for piece in reading.pieces if piece.kind != "glue"]
    most = MOST_SEEN if terminal.on_terminal() else len(said)
    for piece in said[:most]:
        words = shown(" ".join(piece.text.split()))
        facet = piece.facet if piece.kind == "part" else piece.kind
        weight = f" ×{piece.stress:g}" if piece.stress != 1 else ""
        term = (
            piece.term.term
            if piece.term
            else f"near {piece.near.term}"
            if piece.near
            else piece.value
            if piece.kind == "parameter"
            else ""
        )
        name = f" {piece.name}" if piece.kind == "parameter" else ""
        sure = f"{piece.sure:.0%}" if piece.sure else ""
        rows.append((Text(facet + name, style=ink(piece)), words + weight, term, sure, Text(piece.why, style=terminal.QUIET)))
    terminal.table(("part", "words", "term", "sure", "why"), rows, share=("words", "term", "why"))
    if len(said) > most:
        terminal.note(f"and {len(said) - most:,} more parts: --json has them all")


def comparison(found) -> None:
    """Two prompts part by part."""
    marks = {
        "same": ("=", terminal.QUIET),
        "changed": ("≠", terminal.CHANGED),
        "only in the first": ("‹", terminal.NAME),
        "only in the second": ("›", terminal.NAME),
    }
    from rich.text import Text

    rows = []
    for pair in found.pairs:
        sign, style = marks[pair.how]
        sides = [
            Text(shown(" ".join(p.text.split())) if p else "–", style=style if pair.how != "same" else terminal.QUIET)
            for p in (pair.first, pair.second)
        ]
        rows.append((Text(sign, style=style), pair.facet, *sides))
    terminal.table(("", "part", "first", "second"), rows, share=("first", "second"))
    counts = {how: sum(p.how == how for p in found.pairs) for how in marks}
    terminal.line()
    terminal.say(", ".join(f"{n} {how}" for how, n in counts.items() if n), error=False)
    terminal.say(f"distance {found.distance:.2f} (0: the same, 1: nothing in common)", error=False)
