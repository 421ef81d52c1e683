"""The figure of effects: each choice with its interval, what is said of it, and the sentence on top."""

import numpy as np

from syntagma.app.results.effects.report import EffectsReport, needs
from syntagma.app.results.effects.words import headline, pairs_won, verdict
from syntagma.storage.files import why
from syntagma.storage.trouble import Trouble

INK, GREY, BETTER, WORSE, LINE = "#22252b", "#5f636b", "#2a6f63", "#a4441c", "#d8d2c4"
LONGEST = 44  # letters of a choice beside its line
WRAPPED = 104  # letters of a line of the title


def figure(found: EffectsReport, path: str) -> None:
    """Draw the effects with their intervals (Matplotlib). Raises Trouble."""
    needs("matplotlib", "a figure")
    from textwrap import fill

    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot

    effects = [e for e in found.fit.effects if np.isfinite(e.low)]
    scale, nothing, label = _scale(found)
    pyplot.rcParams.update({"font.family": "serif", "font.size": 10.5, "svg.hashsalt": "syntagma"})
    drawn, axes = pyplot.subplots(figsize=(9.4, 1.9 + 0.4 * (len(effects) + len(found.table.factors.names))))
    at, ticks = 0.0, []
    for axis in found.table.factors.names:
        own = [e for e in effects if e.axis == axis]
        if not own:
            continue
        axes.text(0.0, at, axis, transform=axes.get_yaxis_transform(), fontsize=11, weight="bold", va="center", ha="right", color=INK)
        at -= 1
        for e in own:
            said = verdict(e, found)
            colour = BETTER if said.startswith("better") else WORSE if said.startswith("worse") else GREY
            axes.plot([scale(e.low), scale(e.high)], [at, at], color=colour, linewidth=2.4, solid_capstyle="round")
            axes.plot([scale(e.size)], [at], "o", color=colour, markersize=6.5)
            axes.annotate(said.partition(":")[0], (1.0, at), xycoords=axes.get_yaxis_transform(), xytext=(6, 0), textcoords="offset points", fontsize=9, va="center", color=colour, annotation_clip=False)
            ticks.append((at, _short(e.choice) if not e.against else f"{_short(e.choice)},\nagainst {_short(e.against)}"))
            at -= 1
        at -= 0.3
    axes.axvline(nothing, color=INK, linewidth=0.9)
    axes.set_yticks([place for place, _ in ticks], [name for _, name in ticks])
    axes.set_ylim(at + 0.4, 0.8)
    axes.set_xlabel(f"{label}\ndot: the effect; line: its 95 % interval, taken alone; grey: no claim", fontsize=9.5)
    axes.tick_params(axis="y", length=0)
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
    axes.grid(axis="x", color=LINE, linewidth=0.6)
    axes.set_axisbelow(True)
    title = fill(headline(found), WRAPPED)
    drawn.suptitle(title, x=0.02, y=0.985, ha="left", va="top", fontsize=12)
    drawn.tight_layout(rect=(0.01, 0, 0.99, 1 - (0.12 + 0.22 * (1 + title.count("\n"))) / drawn.get_figheight()))
    try:
        drawn.savefig(path, dpi=140, metadata={"Software": ""} if path.lower().endswith(".png") else None)
    except ValueError as error:  # an ending that is none
        raise Trouble(f"{path} can't be written: {error}", "name a .png, .svg or .pdf", 2) from None
    except OSError as error:
        raise Trouble(f"{path} can't be written: {why(error)}", "name a .png, .svg or .pdf in a folder that you can write to") from None
    finally:
        pyplot.close(drawn)


def _scale(found: EffectsReport):
    """How an effect is drawn, where nothing lies on that scale, and what the scale is called."""
    if found.outcome == "wins":
        return lambda value: pairs_won(value, found.fit.scatter) * 100, 50.0, "% of pairs won against the other choices of its axis (50: no difference)"
    if found.outcome == "rating":
        return lambda value: value, 0.0, "points of rating more than the other choices of its axis"
    return lambda value: value * 100, 0.0, "percentage points more approved than of the other choices of its axis"


def _short(text: str) -> str:
    return text if len(text) <= LONGEST else f"{text[: LONGEST - 1]}…"
