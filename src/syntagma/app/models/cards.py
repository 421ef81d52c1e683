"""Models described for a person or a program: what one can do at a glance, with one prompt in its
form; all of them in a table; ranked for a piece of work by what each would lose and cost.
"""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.app.asked import Ask
from syntagma.app.composing.composer import Composed, Composer
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import ERROR, WARNING, Refused, Trouble
from syntagma.core.drafting.fills import BadFills, Given
from syntagma.core.fitting import TooLong
from syntagma.core.models import Limit, Profile
from syntagma.core.models.measure import words
from syntagma.core.models.parameters import shown
from syntagma.core.models.prices import cost, priced
from syntagma.core.models.profile import Parameter
from syntagma.core.writing.prompt import Manner

SHOWN_IN = {
    "video": "film-shot",
    "image": "photograph",
    "": "photograph",
}  # the formulas that show a model's form
MAKES = {"": "images and films", "image": "images", "video": "films"}
_NEGATIVE = {
    "field": "a field of its own",
    "inline": "within the text",
    "parameter": "a parameter",
    "folded": "a sentence of the text",
    "none": "not taken",
}


def model_rows(workspace: Workspace) -> list[dict[str, Any]]:
    """Every model, a row each; one that can't be read says so."""
    rows: list[dict[str, Any]] = []
    for name in workspace.models():
        try:
            profile = workspace.model(name)
        except (Refused, Trouble) as bad:
            rows.append({"model": name, "about": f"can't be read: {str(bad).splitlines()[0]}"})
            continue
        row = {
            "model": name,
            "media": profile.makes or "both",
            "takes": profile.register,
            "limit": limit_in_words(profile.text_limit).removeprefix("at most "),
        }
        rows.append(
            {
                k: v
                for k, v in (
                    row
                    | {
                        "price": price_in_words(profile).partition(";")[0],
                        "about": profile.about,
                    }
                ).items()
                if v
            }
        )
    return rows


def model_card(workspace: Workspace, name: str) -> dict[str, Any]:
    """One model in full: habits, parameters, and one prompt in its form. Raises Trouble or
    Refused.
    """
    profile = workspace.model_or_file(name)
    card: dict[str, Any] = {
        "model": profile.name,
        "about": profile.about,
        "base": profile.base,
        "media": profile.makes or "both",
    }
    card["habits"] = habits(profile)
    card["parameters"] = [_parameter(profile, n, p) for n, p in profile.parameter.items()]
    if profile.request:
        card["request"] = profile.request
    shown_in = SHOWN_IN[profile.makes]
    if shown_in in workspace.formulas():
        try:
            composed = example(workspace, shown_in, profile.name)
            card["example"] = {
                "text": composed.prompt.text,
                "negative": composed.prompt.negative,
                "call": composed.call,
            }
        except (BadFills, TooLong) as bad:
            card["example"] = {
                "text": f"(the example of {shown_in} can't be written: {bad})",
                "call": f"syntagma model try {name}",
            }
    return {k: v for k, v in card.items() if v}


def example(workspace: Workspace, formula: str, model: str) -> Composed:
    """The example of a formula, written for a model."""
    composer = Composer(workspace, Ask(formula, model), remarks=False)
    return composer.compose(composer.writer.formula.head.example)


def habits(profile: Profile) -> dict[str, str]:
    """What a model does with a draft, in words."""
    text, found = profile.text, {"makes": MAKES[profile.makes]}
    found["text"] = f"{profile.register}, {limit_in_words(profile.text_limit)}"
    if profile.limits.reach:
        found["reach"] = f"the first {profile.limits.reach} words carry most of the weight"
    for name, what in (("whole", "all the pasted text"), ("request", "the request")):
        if limit := profile.limit(name):
            found[what] = limit_in_words(limit)
    if profile.register == "tags":
        found["separator"] = f"“{text.separator or ', '}”"
    elif profile.register == "labelled":
        found["lines"] = f"“{profile.labelled.line}”"
    elif profile.register == "timed":
        found["segments"] = f"“{profile.timed.segment}”"
    elif text.final_stop is not None:
        found["final stop"] = "always" if text.final_stop else "never"
    around = [f"begins with “{text.opening}”"] if text.opening else []
    around += [f"ends with “{text.closing}”"] if text.closing else []
    around += [f"{text.case} case"] if text.case != "kept" else []
    around += [f"fixed phrases: {text.fixed}"] if text.fixed != "stays" else []
    around += [f"first {', '.join(text.order)}"] if text.order else []
    if around:
        found["form"] = "; ".join(around)
    if profile.stress:
        rule = profile.stress
        found["stress"] = (
            f"“{rule.pattern}” per {rule.per}, {rule.range[0]:g} to {rule.range[1]:g} in steps of"
            f" {rule.step:g}"
        )
    negative = _NEGATIVE[profile.negative.way]
    within = (
        f", {limit_in_words(profile.negative_limit)}"
        if profile.negative.way != "none" and profile.negative_limit
        else ""
    )
    found["negative text"] = negative + within
    for role, one in profile.reference.items():
        strength = (
            f", strength {one.strength.range[0]:g} to {one.strength.range[1]:g}"
            if one.strength
            else ""
        )
        at = {
            "front": "in front",
            "after": "after the text",
            "place": "in place of the words",
            "field": "in the request",
        }[one.at]
        found[f"{role} reference"] = f"up to {one.most} as {' or '.join(one.kinds)}, {at}{strength}"
    if profile.silent:
        found["sound"] = "none"
    elif profile.sound:
        found["sound"] = f"about {profile.sound.pace:g} spoken words a second"
    for name, menu in profile.menu.items():
        leaves = "and leave the text" if menu.text == "leaves" else "and stay in the text"
        found[f"{name} menu"] = (
            f"{len(menu.terms)} choices of {menu.facet} set {menu.parameter}, {leaves}"
        )
    if profile.rewriting and profile.rewriting.happens:
        off = ", ".join(f"{n}={shown(v)}" for n, v in profile.rewriting.off.items())
        found["rewrites"] = (
            f"by itself; {off} switches that off"
            if off
            else "by itself; no parameter switches that off"
        )
    if profile.refused:
        found["refuses"] = ", ".join(r.words or f"/{r.pattern}/" for r in profile.refused)
    if profile.price:
        found["price"] = price_in_words(profile)
    if profile.sizes:
        found["sizes"] = ", ".join(f"{ratio} {w}×{h}" for ratio, (w, h) in profile.sizes.items())
    if profile.text_limit and profile.text_limit.unit == "tokens":
        found["tokens"] = _tokens(profile.text_limit)
    return found


def _tokens(limit: Limit) -> str:
    if limit.counter:
        return "counted by the model's own tokenizer"
    margin = f"; {limit.margin:.0%} of the limit stays free" if limit.margin else ""
    return (
        f"estimated: one per {limit.letters} letters of a word, begun or whole, and one per"
        f" sign{margin}"
    )


def _parameter(profile: Profile, name: str, parameter: Parameter) -> dict[str, str]:
    at = parameter.at or profile.parameters.at
    where = [parameter.write] if at != "field" and parameter.write else []
    where += [f"field {parameter.field or name}"] if at != "after" else []
    takes = ", ".join(shown(v) for v in parameter.values) or parameter.type
    if parameter.range:
        takes = f"{_number(parameter.range[0])} to {_number(parameter.range[1])}" + (
            f", step {parameter.step:g}" if parameter.step else ""
        )
    notes = [f"{shown(parameter.default)} unless given"] if parameter.default is not None else []
    notes += [parameter.about] if parameter.about else []
    notes += [f"also {', '.join(parameter.aliases)}"] if parameter.aliases else []
    notes += [f"requires {', '.join(parameter.requires)}"] if parameter.requires else []
    notes += [f"excludes {', '.join(parameter.excludes)}"] if parameter.excludes else []
    row = {"parameter": name, "written": "; ".join(where), "takes": takes, "note": "; ".join(notes)}
    return {k: v for k, v in row.items() if v}


def limit_in_words(limit: Limit | None) -> str:
    return f"at most {limit.most} {limit.unit}" if limit else "no limit"


def _number(value: float) -> str:
    return str(int(value)) if value == int(value) else f"{value:g}"


def price_in_words(profile: Profile) -> str:
    """ "4 credits a picture; 10 prompts a day free"."""
    price = profile.price
    if price is None:
        return ""
    per = {
        "prompt": "a prompt",
        "picture": "a picture",
        "second": "a second",
        "thousand-tokens": "a thousand tokens",
    }[price.per]
    said = [f"{priced(price.amount, price.currency)} {per}"]
    for factor in price.factors:
        change = f"× {factor.times:g}" if factor.times != 1 else ""
        change += f" + {factor.plus:g}" if factor.plus else ""
        said.append(f"{change.strip()} when {factor.parameter}={shown(factor.value)}")
    said += [f"{price.free} a day free"] if price.free else []
    return "; ".join(said)


class Ranked(NamedTuple):
    """How one model would do a piece of work: what it would lose, what it would cost (in its own
    currency).
    """

    model: str
    losses: list[str]
    weight: float
    cost: float | None
    currency: str
    text: str

    def record(self) -> dict[str, Any]:
        row = {
            "model": self.model,
            "loses": self.losses,
            "loss": round(self.weight, 3),
            "text": self.text,
        }
        cost = (
            {}
            if self.cost is None
            else {"cost": {"amount": round(self.cost, 6), "currency": self.currency}}
        )
        return {k: v for k, v in row.items() if v or k in ("loss", "loses")} | cost


def rank(
    workspace: Workspace,
    formula: str,
    given: Mapping[str, Given],
    manner: Manner,
    looks: Sequence[str] = (),
    budget: float | None = None,
) -> list[Ranked]:
    """The models that make what the formula is for, the one that loses least first, of those that
    lose the same the cheaper. Without fills it uses the formula's example. Loss: a warning is 1, an
    error 3, what is left out counts by its share of the words. Raises Trouble if there is none.
    """
    plain = Composer(workspace, Ask(formula, None, looks, manner=manner), remarks=False)
    plain.compose(
        given or plain.writer.formula.head.example
    )  # what no model could write is said once
    media = plain.writer.formula.head.media
    found: list[Ranked] = []
    for profile in workspace.readable_models():
        if media and profile.makes and profile.makes != media:
            continue
        ranked = _ranked(workspace, Ask(formula, profile.name, looks, manner=manner), given)
        if budget is None or ranked.cost is None or ranked.cost <= budget:
            found.append(ranked)
    if not found:
        raise Trouble(
            f"no model makes {media or 'this'} within the budget",
            "`syntagma model` lists the models",
            1,
        )
    return sorted(
        found, key=lambda r: (round(r.weight, 6), r.cost if r.cost is not None else float("inf"))
    )


def _ranked(workspace: Workspace, ask: Ask, given: Mapping[str, Given]) -> Ranked:
    composer = Composer(workspace, ask, remarks=False)
    profile = composer.writer.profile
    currency = profile.price.currency if profile.price else ""
    try:
        composed = composer.compose(given or composer.writer.formula.head.example)
    except (BadFills, TooLong) as bad:
        return Ranked(profile.name, [str(bad)], 100.0, None, currency, "")
    losses, weight = [], 0.0
    for finding in composed.findings:
        if finding.place == "negative" and profile.negative.way == "none":
            losses.append("the negative text")
            weight += 0.5
        elif finding.kind in (ERROR, WARNING) and not finding.message.startswith("a contradiction"):
            losses.append(finding.message)
            weight += 3.0 if finding.kind == ERROR else 1.0
    if composed.prompt.fitted:
        whole = sum(
            words(line.text)
            for i in range(len(composer.writer.compiled.plans))
            if (line := composer.writer.phrases.line(i, composed.fills))
        )
        kept = sum(words(line.text) for line in composed.prompt.fitted.lines if line is not None)
        weight += 2.0 * (1 - kept / whole) if whole else 0.0
    price = cost(profile, composed.prompt.around.values, composed.prompt.words)
    return Ranked(
        profile.name, list(dict.fromkeys(losses)), weight, price, currency, composed.prompt.text
    )
