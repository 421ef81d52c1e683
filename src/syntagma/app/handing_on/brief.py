"""Briefs: the page that teaches an assistant to write in a formula, and what to make of its answer;
templates of anybody's, laid out safely.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from syntagma.app.asked import USUAL, Ask, Taste
from syntagma.app.composing.catalogue import formula_card
from syntagma.app.composing.composer import Composer, troubles
from syntagma.app.composing.records import prompt_id
from syntagma.app.models.cards import MAKES, habits
from syntagma.app.picking import Chooser
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.prompt_lint import Finished, findings, mended
from syntagma.core.diagnostics import ERROR, REMARK, Finding, SyntagmaError, Trouble
from syntagma.core.drafting.fills import BadFills
from syntagma.core.fitting import TooLong
from syntagma.core.formula.tree import FixedText, Option
from syntagma.core.models.patterns import written
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formula_matching import Matcher
from syntagma.core.reading.outer_form import outside
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.files import read_text
from syntagma.storage.folders import SHIPPED

if TYPE_CHECKING:
    from syntagma.core.formula.tree import Formula, Phrase, SlotRule
    from syntagma.core.models.profile import Profile

# ──── Templates of pages (Jinja) laid out: ours here, anybody else's in a sandbox, in a process of
# its own whose time and memory are bounded, so a stranger's template can do nothing but make text.


SECONDS = 4  # of work
PATIENCE = 120  # seconds until a process that does not work, and does not end, is given up
MEMORY = 1 << 30  # bytes
MOST = 4 << 20  # characters of a page


class BadTemplate(SyntagmaError):
    """A template that can't be laid out."""


def laid_out(source: str, known: Mapping[str, object]) -> str:
    """The page that a template makes of what it may use. Raises BadTemplate."""
    from jinja2 import FunctionLoader, StrictUndefined, TemplateError, TemplateSyntaxError
    from jinja2.sandbox import ImmutableSandboxedEnvironment

    def no_other(name: str) -> str:
        raise BadTemplate("a template can't include other files")

    sandbox = ImmutableSandboxedEnvironment(
        loader=FunctionLoader(no_other),
        undefined=StrictUndefined,
        trim_blocks=False,
        lstrip_blocks=True,
    )
    try:
        return sandbox.from_string(source).render(**known)
    except TemplateError as error:
        where = f"line {error.lineno}: " if isinstance(error, TemplateSyntaxError) else ""
        raise BadTemplate(f"{where}{str(error) or type(error).__name__}") from None
    except BadTemplate:
        raise
    except MemoryError:
        raise BadTemplate("it uses more memory than any page needs") from None
    except Exception as error:  # whatever a template divides by
        raise BadTemplate(f"{type(error).__name__}: {error}") from None


def laid_out_by(template: str, known: Mapping[str, object]) -> str:
    """The page that a template of anybody's makes. Raises Trouble."""
    asked = json.dumps({"source": read_text(template, "a template"), "known": known})
    # isolated (-I): neither the folder that we are in nor what the environment says is looked
    # through for modules; ours is named
    start = (
        f"import sys; sys.path.insert(0, {str(Path(__file__).parents[3])!r}); from"
        " syntagma.app.handing_on.brief import _alone; _alone()"
    )
    call = [sys.executable, "-I", "-c", start]
    try:
        done = subprocess.run(
            call, input=asked, capture_output=True, text=True, encoding="ascii", timeout=PATIENCE
        )
        answer = (
            json.loads(done.stdout)
            if done.returncode == 0
            else {"wrong": "it uses more time or memory than any page needs"}
        )
    except subprocess.TimeoutExpired:
        answer = {"wrong": f"it did not finish in {PATIENCE} seconds"}
    if "page" in answer:
        return answer["page"]
    said = " ".join(answer["wrong"].split())[:300]
    raise Trouble(
        f"{template} can't be filled in: {said}", f"a template can use {', '.join(known)}", 1
    )


def _alone() -> None:
    """Lay out what comes on standard input, within bounds."""
    try:
        import resource

        began = resource.getrusage(resource.RUSAGE_SELF)
        work = SECONDS + int(began.ru_utime + began.ru_stime + 1)
        resource.setrlimit(resource.RLIMIT_CPU, (work, work))
        resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    except (
        ImportError,
        ValueError,
        OSError,
    ):  # a system without them has the time limit of the caller
        pass
    asked = json.loads(sys.stdin.read())
    try:
        page = laid_out(asked["source"], asked["known"])
        answer = (
            {"page": page}
            if len(page) <= MOST
            else {"wrong": f"the page has {len(page):,} characters"}
        )
    except BadTemplate as error:
        answer = {"wrong": str(error)[:2000]}
    sys.stdout.write(json.dumps(answer))


# ──── Briefs: the page that teaches an assistant to write in a formula, and what to make of its
# answer.


TERMS = 12  # terms of each slot that a brief shows
STAGES = ("ready", "ready again", "the numbered prompts")  # what to expect after each message
_ITEM = regex(
    r"^[ \t]*(?:\*\*|__)?(?:(?:prompt|no\.?|#)\s*)?(?:(\d{1,3})\s*[.):\]-]|[-*•–])(?:\*\*|__)?["
    r" \t]+(?=\S)",
    re.I | re.M,
)
_HEADED = regex(
    r"^[ \t]*(?:\*\*|__|#+ )?prompt\s+(\d{1,3})\s*(?:\*\*|__)?\s*[.:]?\s*(?:\*\*|__)?[ \t]*\n?",
    re.I | re.M,
)
_CHATTER = regex(
    r"^(?:sure|certainly|of course|here (?:are|is|you)|absolutely|okay|ok\b|ready\b|got it|let me"
    r" know|i hope|i've|i have|these (?:prompts|are)|note\b|feel free|if you"
    r"|would you|happy to|enjoy|thanks|thank you|below|each (?:prompt|one)|as"
    r" requested|understood)",
    re.I,
)


class AnswerTaken(NamedTuple):
    """One prompt of an answer: as it came, as it is now, its fills where it keeps to the formula,
    and the findings on it.
    """

    number: int
    came: str
    text: str
    fills: dict[str, str] | None
    findings: list[Finding]

    @property
    def good(self) -> bool:
        return not any(f.kind == ERROR for f in self.findings)


class BriefAnswer(NamedTuple):
    """An answer taken: its prompts, how many were asked for, and the sentence that asks for what is
    missing.
    """

    prompts: list[AnswerTaken]
    asked: int
    reply: str


def brief(
    workspace: Workspace,
    formula: str,
    model: str | None,
    count: int,
    template: str = "",
    stage: int = 0,
    wish: str = "",
    taste: Taste = USUAL,
    examples: int = 3,
) -> str:
    """The page, or one message of it (`stage` 1 to 3). Raises Trouble, or Refused."""
    known = _said(workspace, formula, model, count, wish, taste, examples) | {"stage": stage}
    page = (
        laid_out_by(template, known)
        if template
        else laid_out((SHIPPED / "briefs" / "brief.md.j2").read_text("utf-8"), known)
    )
    return re.sub(r"\n{3,}", "\n\n", page).strip() + "\n"


def _said(
    workspace: Workspace,
    name: str,
    model: str | None,
    count: int,
    wish: str,
    taste: Taste,
    examples: int,
) -> dict[str, Any]:
    card = formula_card(workspace, name)
    formula, _ = workspace.formula(name)
    profile = workspace.model(model)
    writer = Writer(formula, profile, workspace.vocabulary)
    texts: list[str] = []
    for draw in range(taste.draw, taste.draw + 4 * examples):
        if len(texts) == examples:
            break
        composer = Composer(
            workspace, Ask(name, model, (), taste._replace(draw=draw), True), remarks=False
        )
        free = {
            r.name for r in composer.writer.rules if r.need and r.facet not in workspace.vocabulary
        }
        try:
            text = composer.compose(
                {k: v for k, v in formula.head.example.items() if k in free}
            ).prompt.text
        except (BadFills, TooLong):
            continue
        if text not in texts:
            texts.append(text)
    examples_of = {
        slot: "; ".join(v) if isinstance(v, tuple) else v
        for slot, v in formula.head.example.items()
    }
    parts = [
        {
            "words": _in_their_words(phrase, writer, workspace, examples_of),
            "mark": {"!": "always there", "?": "first to go"}.get(phrase.mark, ""),
        }
        for phrase in formula.phrases
        if phrase.body
    ]
    negative = [f["words"] for f in card["phrases"] if f["label"] == "negative"]
    return {
        "formula": formula.name,
        "about": formula.head.about,
        "when": formula.head.when,
        "makes": MAKES[
            profile.makes or (formula.head.media if formula.head.media in MAKES else "")
        ],
        "phrases": parts,
        "slots": [
            _slot_in_their_words(rule, workspace)
            for rule in formula.slots
            if rule.name in writer.shown
        ],
        "fixed": _fixed(formula),
        "negative": (
            ", ".join(re.sub(r",? ?\[[^][]*\]", "", words) for words in negative).strip(", ")
        ),
        "register": profile.register,
        "model": profile.name,
        "habits": _habits(profile),
        "terms": _terms(workspace, writer, taste),
        "examples": texts,
        "count": count,
        "wish": wish,
    }


def _habits(profile: Profile) -> dict[str, str]:
    """What the generator does, with an example where a profile has places."""
    if not profile.name:
        return {}
    found = habits(profile)
    if profile.stress and "stress" in found:
        shown = written(
            profile.stress.pattern,
            {"text": "these words", "weight": "1.2", "marks": profile.stress.more * 2},
        )
        found["stress"] = f"weight on words is written {shown}"
    return {
        name: re.sub(r"\{(\w+)\}", r"[\1]", words)
        for name, words in found.items()
        if name != "segments" or "{" not in words
    } | (
        {"segments": "each part with its times, as in the examples"}
        if profile.register == "timed"
        else {}
    )


def _slot_in_their_words(rule: SlotRule, workspace: Workspace) -> dict[str, str]:
    """What goes into a bracket, for somebody who does not know us."""
    notes = [rule.about] if rule.about else []
    notes += ["always there"] if rule.need else []
    notes += [f"“{'; '.join(rule.default)}” if you have no better idea"] if rule.default else []
    notes += [f"kinds of {' or '.join(rule.only)}"] if rule.only else []
    notes += [f"nothing of {', '.join(rule.never)}"] if rule.never else []
    notes += [f"{rule.take[0]} to {rule.take[1]} of them"] if rule.take != (1, 1) else []
    facet = (
        rule.facet.replace("-", " ")
        if rule.facet in workspace.vocabulary
        else "a number"
        if rule.number
        else "in words of your own"
    )
    return {"slot": rule.name.replace("-", " "), "facet": facet, "note": ", ".join(notes)}


def _in_their_words(
    phrase: Phrase, writer: Writer, workspace: Workspace, examples: dict[str, str]
) -> str:
    """A phrase with each bracket saying what is to stand there: [a place, with its preposition: on
    a wet quay].
    """

    def word(node: Any) -> str:
        if isinstance(node, FixedText):
            return re.sub(r"\\(.)", r"\1", node.raw)
        if isinstance(node, Option):
            return "{" + "".join(map(word, node.children)) + "}"
        heads = []
        for part in node.words:
            if part.kind == "quote":
                heads.append(part.value)
            elif part.kind == "slot":
                heads.append(bracket(node, part.value))
        article = (
            {"a": "a ", "the": "the "}.get(node.article, "")
            if node.form in ("", "short", "plural")
            else ""
        )
        return article + " ".join(heads)

    def bracket(group: Any, name: str) -> str:
        said = name.replace("-", " ").replace("_", " ")
        if name != group.head or not group.form:
            return f"[{said}]"
        form = {
            "place": "with its preposition",
            "clause": "as a clause",
            "short": "in a word or two",
            "plural": "in the plural",
        }[group.form]
        for_instance = instance(name, group.form)
        return f"[{said}, {form}{': ' + for_instance if for_instance else ''}]"

    def instance(name: str, form: str) -> str:
        facet = writer.rules[writer.position[name]].facet
        if facet not in workspace.vocabulary or form not in ("place", "clause"):
            return ""
        known = workspace.vocabulary[facet].get(examples.get(name, ""))
        terms = (
            [known] if known else [t for t in workspace.vocabulary[facet] if getattr(t, form)][:1]
        )
        return next((getattr(t, form) for t in terms if getattr(t, form)), "")

    joined = "~ " if phrase.joined else ""
    return joined + "".join(map(word, phrase.body))


def _fixed(formula: Formula) -> list[str]:
    """The phrases that are words only."""
    return [
        "".join(node.raw for node in phrase.body if isinstance(node, FixedText))
        .strip()
        .rstrip(".,;:")
        for phrase in formula.phrases
        if not phrase.slots and phrase.body
    ]


def _terms(workspace: Workspace, writer: Writer, taste: Taste) -> dict[str, list[str]]:
    """A few terms of each slot, in the order in which they would be picked: favourites and the
    theme first.
    """
    chooser, found = Chooser(workspace, writer, taste), {}
    for rule in writer.rules:
        if rule.name in writer.shown and rule.facet in workspace.vocabulary:
            random = chooser.random(rule.name)
            terms = chooser.terms(rule.name)
            starred = [t for t in terms if t.star]
            rest = [t for t in terms if not t.star]
            random.shuffle(rest)
            found[rule.name] = [t.term for t in (*starred, *rest)][:TERMS]
    return found


def take(
    workspace: Workspace, answer: str, formula: str, model: str | None, asked: int
) -> BriefAnswer:
    """Read what an assistant answered: its prompts, fixed if that is sure and checked against the
    formula and the model. Raises Trouble or Refused.
    """
    read, _ = workspace.formula(formula)
    profile = workspace.model(model)
    writer = Writer(read, profile, workspace.vocabulary)
    matcher = Matcher(writer) if profile.register in ("prose", "tags") else None
    taken: list[AnswerTaken] = []
    seen: set[str] = set()
    for number, came in enumerate(prompts_in_answer(answer), 1):
        text = mended(profile, came)
        found = list(findings(profile, Finished(text), workspace.known))
        match = matcher.match(_bare(text, profile)) if matcher else None
        if match and match.score < 0:  # its words are explained by chance only
            match = None
        fills = match.fills if match else None
        if matcher and match is None:
            found.append(
                Finding(
                    ERROR,
                    f"it does not follow {formula}",
                    _missing(read, text),
                    "formula",
                    code="not-of-the-formula",
                )
            )
        elif fills:
            try:
                again = writer.write(writer.fills(fills)).text
                if any(words.lower() not in text.lower() for words in _fixed(read)):
                    found.append(
                        Finding(
                            REMARK,
                            f"rewritten in the words of {formula}",
                            "",
                            "formula",
                            code="put-into-words",
                        )
                    )
                    text = again
                elif not any(
                    r.kind == "parameter"
                    for r in outside(text, [profile] if profile.name else []).regions
                ):
                    text = (
                        text.rstrip() + again[len(_bare(again, profile)) :]
                    )  # the parameters that the formula brings
            except (BadFills, TooLong) as bad:
                found += troubles(bad)
        if " ".join(text.lower().split()) in seen:
            found.append(
                Finding(
                    ERROR,
                    "it repeats an earlier one",
                    "ask for another",
                    "twin",
                    code="said-before",
                )
            )
        seen.add(" ".join(text.lower().split()))
        taken.append(AnswerTaken(number, came, text, fills, list(dict.fromkeys(found))))
    return BriefAnswer(taken, asked, _reply(taken, asked))


def _bare(text: str, profile: Profile) -> str:
    """The text without what the model's form puts round it, as the formula has it."""
    kept = "".join(
        text[r.start : r.stop]
        for r in outside(text, [profile] if profile.name else []).regions
        if r.kind not in ("parameter", "reference", "negative")
    )
    for edge in (profile.text.opening, profile.text.closing):
        kept = kept.replace(edge, "") if edge else kept
    return kept.strip()


def _missing(formula: Formula, text: str) -> str:
    small = text.lower()
    lost = [words for words in _fixed(formula) if words.lower() not in small]
    return (
        f"the fixed words “{lost[0]}” are missing"
        if lost
        else "the parts must be in order, with no words between them"
    )


def _reply(taken: Sequence[AnswerTaken], asked: int) -> str:
    """The sentence to send back, where prompts are missing or can't be used."""
    good = sum(one.good for one in taken)
    bad = [one for one in taken if not one.good]
    said = []
    if asked and len(taken) < asked:
        more = asked - len(taken)
        numbers = f"{len(taken) + 1} to {asked}" if more > 1 else str(asked)
        said.append(
            f"You gave {len(taken)} of {asked} prompts. Give {more} more, numbered {numbers}, in"
            " the same form and nothing else."
        )
    if bad:
        which = (
            ", ".join(str(one.number) for one in bad[:-1])
            + (" and " if len(bad) > 1 else "")
            + str(bad[-1].number)
        )
        first = [next(f for f in one.findings if f.kind == ERROR) for one in bad]
        why = "; ".join(
            dict.fromkeys(f.remedy if f.place == "formula" else f.message for f in first)
        )
        said.append(f"Write number {which} again: {why}.")
    return " ".join(said) if good < max(asked, len(taken)) else ""


def prompts_in_answer(answer: str) -> list[str]:
    """The prompts in an assistant's answer: code fences opened, lists split, chatter before and
    after left out.
    """
    text = answer.replace("\r\n", "\n").strip("\ufeff\n ")
    fences = re.findall(r"```[^\n`]*\n(.*?)(?:\n[ \t]*```|\Z)", text, re.S)
    if fences and sum(map(len, fences)) * 3 > len(text):
        parts = [
            part
            for fence in fences
            for part in (
                prompts_in_answer(fence)
                if len(fences) == 1 or _ITEM.match(fence)
                else [_clean(fence)]
            )
        ]
        return [part for part in parts if part]
    if text[:1] in "[{":
        try:
            return [_clean(one) for one in _strings(read_json(text))]
        except NoJson:
            pass
    items = list(_HEADED.finditer(text)) or list(_ITEM.finditer(text))
    numbered = (
        [m for m in items if m[1]]
        if items and any(m.re is _ITEM and m[1] for m in items)
        else items
    )
    if len(numbered) >= 1 and (len(numbered) > 1 or numbered[0][1]):
        found = []
        for match, after in zip(numbered, [*numbered[1:], None], strict=True):
            body = text[match.end() : after.start() if after else len(text)]
            body = re.split(r"\n\s*\n", body.strip("\n"))[0]
            found.append(_clean(body))
        return [one for one in found if one]
    blocks = [b.strip() for b in re.split(r"\n\s*\n", text) if b.strip()]
    if len(blocks) == 1 and "\n" in blocks[0]:
        blocks = [line for line in blocks[0].split("\n") if line.strip()]
    return [
        _clean(b)
        for b in blocks
        if not _CHATTER.match(b.lstrip("*_ "))
        and not (b.endswith(":") and len(b.split()) < 25)
        and len(_clean(b).split()) > 2
    ]


def _strings(value: object) -> list[str]:
    if isinstance(value, str):
        return [value]
    if isinstance(value, dict):
        own = next((value[k] for k in ("text", "prompt") if isinstance(value.get(k), str)), None)
        return [own] if own else [s for one in value.values() for s in _strings(one)]
    return [s for one in value for s in _strings(one)] if isinstance(value, list) else []


def _clean(text: str) -> str:
    """A prompt without the marks of the answer: quotation marks, emphasis, backticks round it."""
    labelled = any(re.match(r"[\w \t.-]+[|:]", line) for line in text.splitlines())
    text = " ".join(text.split()) if "\n" in text and not labelled else text.strip()
    text = re.sub(r"^(?:\*\*|__)?(?:prompt)\s*\d*\s*:\s*(?:\*\*|__)?\s*", "", text, flags=re.I)
    for opening, closing in (
        ("**", "**"),
        ("`", "`"),
        ("“", "”"),
        ('"', '"'),
        ("*", "*"),
        ("_", "_"),
    ):
        if (
            len(text) > 4
            and text.startswith(opening)
            and text.endswith(closing)
            and opening not in text[len(opening) : -len(closing)]
        ):
            text = text[len(opening) : -len(closing)].strip()
    return text


def records_of(
    workspace: Workspace, answer: BriefAnswer, formula: str, model: str | None
) -> list[dict[str, Any]]:
    """The good prompts as records of a family."""
    records, limit = [], workspace.model(model).limit("text")
    for one in answer.prompts:
        if one.good:
            record: dict[str, Any] = {
                "id": prompt_id(f"{model or ''}\0{one.text}\0"),
                "formula": formula,
            }
            if model:
                record["model"] = model
            record["text"] = one.text
            if one.fills:
                record["fills"] = one.fills
            if limit:
                record["size"] = {"text": limit.record(limit.count(one.text))}
            if one.findings:
                record["findings"] = [f.record() for f in one.findings]
            records.append(record)
    return records
