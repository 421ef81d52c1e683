"""How a reference picture that was read is shown: palette, light, edges, and as fills."""

from syntagma.cli import terminal


def picture(file: str, seen) -> None:
    """Show what a picture looks like."""
    light = seen.look.light
    wide, high = seen.look.size
    terminal.say((file, terminal.NAME), f"  {wide} × {high}, {seen.ratio}", error=False)
    swatches = [(("  ███  ", one.code), f"{one.share:4.0%}  {one.word:<16}", (f" {one.code}", terminal.QUIET)) for one in seen.palette]
    for parts in swatches:
        terminal.say(*parts, error=False)
    side = f", brighter {light.side if light.side in ('above', 'below') else f'on the {light.side}'}" if light.side else ""
    sharp = "crisp" if seen.look.sharpness > 0.6 else "soft" if seen.look.sharpness < 0.25 else "neither crisp nor soft"
    terminal.say(("light     ", terminal.QUIET), f"{light.key_word}, {light.contrast_word}, {light.warmth_word}{side}", error=False)
    terminal.say(("edges     ", terminal.QUIET), sharp, error=False)
    for term, sure in seen.terms:
        how = "says just that" if sure >= 0.72 else "may suit" if sure >= 0.5 else "not quite"
        terminal.say((f"{term.facet:<10}", terminal.QUIET), f"{term.term}", (f"  {how} ({sure:.0%})", terminal.QUIET), error=False)
    fills = " ".join(f'{facet}="{words}"' for facet, words in seen.fills.items())
    terminal.say(("fills     ", terminal.QUIET), fills, error=False)
