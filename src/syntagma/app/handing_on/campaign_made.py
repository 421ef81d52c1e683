"""A campaign made: a folder a place, a page a piece, an index, one page of HTML, the prompts to
send. What nothing touched stays as it is.
"""

import json
import re
from collections.abc import Mapping, Sequence, Set
from hashlib import sha256
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.asked import PICK, Ask, Taste
from syntagma.app.composing.composer import Composed, Composer, troubles
from syntagma.app.handing_on.campaigns import (
    APPROVED,
    Campaign,
    PieceRow,
    parameters_of,
    shape_of,
    total,
)
from syntagma.app.workspace.html_pages import as_data, data_uri, page
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import ERROR, Trouble
from syntagma.core.drafting.fills import BadFills
from syntagma.core.fitting import TooLong
from syntagma.core.formula.tree import SlotRule
from syntagma.core.models.prices import priced
from syntagma.core.notation.json_in import read_json
from syntagma.core.vocabulary import facets
from syntagma.core.writing.prompt import Manner
from syntagma.formats.archive import safe_name
from syntagma.storage.files import make_folder, read_text, write_text
from syntagma.storage.library import LIBRARY, Library

BOOK = "made.json"
INVENTED = facets.FacetGroup("invented")  # beside those who take part
EVERYDAY = "everyday"  # the theme of a business that names none
TRIES = 12  # other picks, if one has a word that is to be avoided


class Shown(NamedTuple):
    """A piece made: its row, records of its prompts by model (the first is sent), what varies
    (slot, words), its pictures, and its messages.
    """

    row: PieceRow
    records: list[dict[str, Any]]
    others: dict[str, str]
    varied: list[tuple[str, list[str]]]
    said: list[str]
    pictures: list[dict[str, str]]
    path: str
    fresh: bool


class CampaignMade(NamedTuple):
    """What was made: the pieces, how many of them were written now, pages that a person had edited
    and that were left, pages of pieces that are gone.
    """

    folder: Path
    pieces: list[Shown]
    fresh: int
    own: list[str]
    gone: list[str]


def make(
    workspace: Workspace, campaign: Campaign, folder: Path, anew: bool = False
) -> CampaignMade:
    """Make all that is approved. Raises Trouble."""
    wanted = [row for row in campaign.rows if row.status == APPROVED]
    if not wanted:
        if not campaign.rows:
            raise Trouble(
                f"{campaign.name} has nothing to make yet",
                f"list the offers and places in {campaign.name}.campaign.toml; then: syntagma"
                f" campaign plan {campaign.name}",
                2,
            )
        raise Trouble(
            f"nothing of {campaign.name} is approved yet",
            f"check {campaign.plan.name}, then: syntagma campaign approve {campaign.name} all",
            2,
        )
    make_folder(folder)
    book = _book(folder / BOOK)
    pieces, own, marks = [], [], {}
    for number, row in enumerate(wanted, 1):
        mark = _mark(workspace, campaign, row)
        kept = book.get(row.piece.id, {})
        fresh = anew or kept.get("mark") != mark
        shown = _made(workspace, campaign, row) if fresh else _again(row, kept)
        shown = shown._replace(
            pictures=_pictures(workspace, shown.records),
            fresh=fresh,
            path=kept.get("path")
            or _path(
                row, number, {p.path for p in pieces} | {str(k.get("path")) for k in book.values()}
            ),
        )
        target = folder / shown.path
        text = _markdown(campaign, shown)
        there = read_text(target) if target.is_file() else None
        if (
            there is not None
            and not anew
            and kept.get("page")
            and sha256(there.encode()).hexdigest() != kept["page"]
        ):
            own.append(shown.path)  # somebody wrote into it
            marks[row.piece.id] = {**kept, "mark": mark, "records": shown.records}
        else:
            if there != text:
                make_folder(target.parent)
                write_text(target, text)
            marks[row.piece.id] = {
                "mark": mark,
                "path": shown.path,
                "page": sha256(text.encode()).hexdigest(),
                "records": shown.records,
                "others": shown.others,
                "varied": shown.varied,
                "said": shown.said,
            }
        pieces.append(shown)
    gone = [str(kept.get("path")) for name, kept in book.items() if name not in marks]
    write_text(
        folder / BOOK, json.dumps(marks, ensure_ascii=False, indent=1, sort_keys=True) + "\n"
    )
    write_text(folder / "prompts.jsonl", _lines(piece for piece in pieces))
    write_text(folder / "new.jsonl", _lines(piece for piece in pieces if piece.fresh))
    write_text(folder / "index.md", _index(campaign, pieces))
    write_text(folder / "index.html", page("campaign.html.j2", **_page(campaign, pieces)))
    return CampaignMade(folder, pieces, sum(piece.fresh for piece in pieces), own, gone)


def _lines(pieces: Any) -> str:
    return "".join(
        json.dumps(record, ensure_ascii=False) + "\n"
        for piece in pieces
        for record in piece.records
    )


def _book(path: Path) -> dict[str, dict[str, Any]]:
    if not path.is_file():
        return {}
    try:
        found = read_json(read_text(path))
        return {str(name): dict(kept) for name, kept in found.items() if _whole(kept)}
    except (ValueError, AttributeError, TypeError):
        raise Trouble(
            f"{path} can't be read; it records what was made",
            "delete it to make everything again",
            1,
        ) from None


def _whole(kept: object) -> bool:
    """Is an entry of the book one that this program wrote: its page within the folder, its prompts
    as records?
    """
    if (
        not isinstance(kept, dict)
        or not isinstance(kept.get("records"), list)
        or not re.fullmatch(r"[\w.-]+/[\w.-]+\.md", str(kept.get("path", "")))
    ):
        return False
    return ".." not in kept["path"] and all(
        isinstance(one, dict) and isinstance(one.get("text"), str) for one in kept["records"]
    )


def _mark(workspace: Workspace, campaign: Campaign, row: PieceRow) -> str:
    """What a piece depends on, in short: its own row, the look, the words to avoid, its formula and
    model.
    """
    business = campaign.business
    formula = workspace.formula(row.piece.formula, business.look.looks)[0]
    known = [
        row.piece.fills,
        row.piece.why,
        row.pictures,
        row.ratio,
        row.place.size,
        row.place.seconds,
        row.place.seen,
        row.model,
        row.others,
        business.look.fills,
        business.look.themes,
        business.avoid,
        formula.text,
        [workspace.look(name)[0].text for name in business.look.looks],
        row.note,
        campaign.kinds[row.piece.kind].about if row.piece.kind in campaign.kinds else "",
    ]
    return sha256(
        json.dumps(known, ensure_ascii=False, default=str, sort_keys=True).encode()
    ).hexdigest()[:16]


def _again(row: PieceRow, kept: Mapping[str, Any]) -> Shown:
    varied = [(str(slot), list(words)) for slot, words in kept.get("varied", ())]
    return Shown(
        row,
        list(kept["records"]),
        dict(kept.get("others", {})),
        varied,
        list(kept.get("said", ())),
        [],
        str(kept["path"]),
        False,
    )


def _path(row: PieceRow, number: int, taken: set[str]) -> str:
    stem = f"{safe_name(row.place.name, 'place')}/{safe_name(row.piece.title, 'piece')}".lower()
    found, at = f"{stem}.md", 1
    while found in taken:
        at += 1
        found = f"{stem}-{at}.md"
    return found


def _made(workspace: Workspace, campaign: Campaign, row: PieceRow) -> Shown:
    """The prompts of a piece: the first as it is meant, each further with other choices in what is
    to be varied.
    """
    piece, business, said = row.piece, campaign.business, []
    draw = int(piece.id, 16) % 1_000_000
    composer = _composer(workspace, campaign, row, row.model, draw)
    given = {
        **_left_alone(composer, workspace),
        **fills_for(composer.writer.rules, piece.fills, business.look.fills, workspace),
    }
    own = " ".join(
        [
            *given.values(),
            *(fixed for name in business.look.looks for fixed in [workspace.look(name)[0].text]),
        ]
    )
    avoid = [word for word in business.avoid if not _avoided(own, [word])]
    said += [
        f"“{word}” is on the list to avoid, but the business uses it itself"
        for word in business.avoid
        if word not in avoid
    ]
    first = _composed(composer, given, avoid, 0, said)
    named = first.writer.compiled.named(first.fills)
    facets = {rule.name: rule.facet for rule in composer.writer.rules if not rule.default}
    open_ = [
        slot
        for slot in piece.vary
        if facets.get(slot, "") in workspace.vocabulary and not given.get(slot)
    ] or list(first.picked)[-1:]
    further = [slot for slot in first.picked if slot not in open_]
    every = [first]
    while len(every) < row.pictures:
        rest = {slot: fill.shown for slot, fill in named.items() if fill and slot not in open_}
        other = _composed(
            composer,
            {**given, **rest, **dict.fromkeys(open_, PICK)},
            avoid,
            len(every),
            said,
            {one.prompt.text for one in every},
        )
        if other.prompt.text not in {one.prompt.text for one in every}:
            every.append(other)
        elif further:
            open_ = [*open_, further.pop()]  # what was to be varied has no more to give
        else:
            said.append(
                f"{row.pictures} were asked for, but only {len(every)}"
                f" {'differ' if len(every) > 1 else 'is possible'}: nothing else fits the"
                " description"
            )
            break
    records = []
    for number, one in enumerate(every, 1):
        record = dict(one.record)
        record["row"] = {
            "campaign": campaign.name,
            "piece": piece.id,
            "kind": piece.kind,
            "place": row.place.name,
            "variation": str(number),
        }
        records.append(record)
    said += [
        f"{finding.message}; {finding.remedy}"
        for finding in first.findings
        if finding.kind == ERROR or finding.code in ("fill-dropped", "phrase-dropped")
    ]
    others = {}
    for model in row.others:
        try:
            fills = {slot: fill.shown for slot, fill in named.items() if fill}
            others[model] = (
                _composer(workspace, campaign, row, model, draw).compose(fills).prompt.text
            )
        except (BadFills, TooLong, Trouble) as wrong:
            said.append(f"not for {model}: {wrong}")
    varied = [
        (
            slot,
            list(
                dict.fromkeys(
                    fill.shown
                    for one in every
                    if (fill := one.writer.compiled.named(one.fills)[slot])
                )
            ),
        )
        for slot in open_
    ]
    return Shown(
        row,
        records,
        others,
        [(slot, words) for slot, words in varied if words],
        list(dict.fromkeys(said)),
        [],
        "",
        True,
    )


def _composer(
    workspace: Workspace, campaign: Campaign, row: PieceRow, model: str, draw: int
) -> Composer:
    look = campaign.business.look
    profile = workspace.model(model or None)
    parameters = parameters_of(profile, row.place, row.ratio) if profile.name else {}
    ask = Ask(
        row.piece.formula,
        model or None,
        look.looks,
        Taste(look.themes or [EVERYDAY], "usual", draw),
        True,
        (),
        Manner(parameters=parameters),
    )
    return Composer(workspace, ask, False)


def _composed(
    composer: Composer,
    given: Mapping[str, str],
    avoid: Sequence[str],
    number: int,
    said: list[str],
    taken: Set[str] = frozenset(),
) -> Composed:
    """One prompt with its open slots picked, without a word that is to be avoided, and none of
    those `taken`. Raises Trouble.
    """
    found: Composed | None = None
    for turn in range(TRIES):
        try:
            found = composer.compose(given, number=number * TRIES + turn)
        except Trouble:  # nothing fits the rest: only what is given
            composer = Composer(composer.workspace, composer.ask._replace(pick=False), False)
            found = composer.compose(given)
        except (BadFills, TooLong) as wrong:
            told = troubles(wrong)[0]
            raise Trouble(
                f"{composer.writer.formula.name}: {told.message}", told.remedy, 1
            ) from None
        if not _avoided(found.prompt.text, avoid) and found.prompt.text not in taken:
            return found
    assert found is not None
    if words := _avoided(found.prompt.text, avoid):
        said.append(f"“{words[0]}” is on the list to avoid, but nothing else fits the rest")
    return found


def _left_alone(composer: Composer, workspace: Workspace) -> dict[str, str]:
    """The slots that nothing is picked for: who and what is seen, what they do and where, is the
    business's to say.
    """
    traits = workspace.vocabulary.traits
    return {
        rule.name: ""
        for rule in composer.writer.rules
        if not rule.need
        and (rule.facet in INVENTED or ((of := traits.get(rule.facet)) and of.participant))
    }


def _avoided(text: str, avoid: Sequence[str]) -> list[str]:
    return [word for word in avoid if re.search(rf"\b{re.escape(word)}\b", text, re.I)]


def fills_for(
    rules: Sequence[SlotRule],
    said: Mapping[str, str],
    look: Mapping[str, str],
    workspace: Workspace,
) -> dict[str, str]:
    """What a piece says, in the slots of its formula: main, deed and where find their slots by what
    those take; what has no slot goes.
    """
    traits = workspace.vocabulary.traits
    facets = {rule.name: rule.facet for rule in rules}
    takes_part = [rule for rule in rules if (of := traits.get(rule.facet)) and of.participant]
    main = next(
        (
            rule.name
            for rule in [
                *(r for r in takes_part if r.need),
                *(r for r in rules if r.need and r.facet),
                *takes_part,
            ]
        ),
        "",
    )
    roles = {
        "main": main,
        "deed": next((name for name, facet in facets.items() if facet == "action"), ""),
        "where": next(
            (name for name, facet in facets.items() if facet == "setting" and name != main), ""
        ),
    }
    found = {}
    for name, words in {**look, **said}.items():
        slot = roles.get(name, name) if name not in facets else name
        if slot not in facets:
            slot = next((one for one, facet in facets.items() if facet == name), "")
        if slot:
            found[slot] = words
    return found


def _pictures(workspace: Workspace, records: Sequence[Mapping[str, Any]]) -> list[dict[str, str]]:
    """The pictures in the library that were made from these prompts, the best rated first, each
    ready for a page (`src`) with its rating.
    """
    if not workspace.folder or not (workspace.folder / LIBRARY).is_file():
        return []
    from syntagma.app.results.pages import LARGE, Thumbnails

    pictures = []
    with Library(workspace.folder, True).whole() as library:
        found = [kept for record in records for kept in library.with_text(str(record["text"]))]
        for kept in sorted(found, key=lambda one: -(one.rating or one.judged or 0)):
            if small := Thumbnails(library).of(kept, LARGE // 2):
                rated = kept.judged if kept.rating is None else kept.rating
                pictures.append(
                    {
                        "src": data_uri(small),
                        "caption": "" if rated is None else f"rated {rated:g} of 5",
                    }
                )
    return pictures


def _settings(row: PieceRow) -> list[tuple[str, str]]:
    wanted = shape_of(row.place)
    ratio = row.ratio + (f" (cut to {wanted} afterwards)" if wanted and wanted != row.ratio else "")
    return [
        (name, said)
        for name, said in (
            ("model", row.model),
            ("shape", ratio),
            ("size", row.place.size),
            ("seconds", str(row.place.seconds or "")),
            ("pictures", str(row.pictures)),
            ("cost", _cost(row)),
        )
        if said
    ]


def _cost(row: PieceRow) -> str:
    return "" if row.cost is None else priced(round(row.cost, 2), row.currency)


def _vary(shown: Shown) -> list[str]:
    tried = {slot for slot, _ in shown.varied}
    lines = [f"{slot}: {'; '.join(words)}" for slot, words in shown.varied]
    rest = [slot for slot in shown.row.piece.vary if slot not in tried]
    return lines + ([f"then {' and '.join(rest)}"] if rest else [])


def _title(shown: Shown) -> str:
    title = shown.row.piece.title
    return title[:1].upper() + title[1:]


def _markdown(campaign: Campaign, shown: Shown) -> str:
    row = shown.row
    kind = campaign.kinds[row.piece.kind]
    lines = [
        f"# {_title(shown)}",
        "",
        f"*{row.place.name}{f', seen {row.place.seen}' if row.place.seen else ''}*",
        "",
        f"{kind.about[:1].upper()}{kind.about[1:]}.",
        "",
        "## Why",
        "",
        row.piece.why,
        "",
        "## The prompts",
        "",
    ]
    for number, record in enumerate(shown.records, 1):
        lines += [
            f"### {number}" if len(shown.records) > 1 else "",
            "",
            "```text",
            str(record["text"]),
            "```",
            "",
        ]
        if record.get("negative"):
            lines += ["What to keep out:", "", "```text", str(record["negative"]), "```", ""]
    for model, text in shown.others.items():
        lines += [f"### For {model}", "", "```text", text, "```", ""]
    lines += [
        "## Settings",
        "",
        "| | |",
        "| --- | --- |",
        *(f"| {name} | {said} |" for name, said in _settings(row)),
        "",
        "## What to vary",
        "",
        *(f"- {line}" for line in _vary(shown)),
        "",
    ]
    if shown.said or row.note:
        lines += [
            "## Notes",
            "",
            *(f"- {line}" for line in (*shown.said, *filter(None, [row.note]))),
            "",
        ]
    return re.sub(r"\n{3,}", "\n\n", "\n".join(lines)).rstrip() + "\n"


def _by_place(pieces: Sequence[Shown]) -> dict[str, list[Shown]]:
    found: dict[str, list[Shown]] = {}
    for shown in pieces:
        found.setdefault(shown.row.place.name, []).append(shown)
    return found


def _summary(campaign: Campaign, pieces: Sequence[Shown]) -> str:
    rows = [shown.row for shown in pieces]
    return (
        f"{len(rows)} pieces for {len(_by_place(pieces))} places,"
        f" {sum(row.pictures for row in rows)} pictures and clips, {total(rows)}"
    )


def _index(campaign: Campaign, pieces: Sequence[Shown]) -> str:
    lines = [
        f"# {campaign.business.name}",
        "",
        *filter(
            None,
            [
                campaign.business.does
                and f"{campaign.business.does[:1].upper()}{campaign.business.does[1:]}."
            ],
        ),
        "",
        f"{_summary(campaign, pieces)}.",
        "",
    ]
    for place, some in _by_place(pieces).items():
        lines += [f"## {place}", ""]
        lines += [
            f"- [{_title(shown)}]({_link(shown.path)}): {shown.row.piece.why}" for shown in some
        ] + [""]
    return "\n".join(lines).rstrip() + "\n"


def _link(path: str) -> str:
    from urllib.parse import quote

    return quote(path)


def _page(campaign: Campaign, pieces: Sequence[Shown]) -> dict[str, Any]:
    """What the owner's page is laid out with: every picture, no prompt and no word of a model."""
    places = []
    for name, some in _by_place(pieces).items():
        place = some[0].row.place
        cards = [
            {
                "id": shown.row.piece.id,
                "title": _title(shown),
                "why": shown.row.piece.why,
                "pictures": shown.pictures,
                "ratio": _frame(shown.row.ratio),
                "settings": _for_owner(shown),
            }
            for shown in some
        ]
        places.append(
            {
                "name": name,
                "seen": place.seen,
                "shape": " · ".join(
                    filter(
                        None,
                        (
                            shape_of(place),
                            place.size,
                            f"{place.seconds} s" if place.seconds else "",
                        ),
                    )
                ),
                "cards": cards,
            }
        )
    known = {
        "key": f"{campaign.name} {campaign.business.name}",
        "file": f"{safe_name(campaign.name, 'campaign')}-answers.csv",
    }
    return {
        "business": campaign.business.name,
        "does": campaign.business.does,
        "summary": _summary(campaign, pieces),
        "places": places,
        "data": as_data(known),
    }


def _for_owner(shown: Shown) -> list[tuple[str, str]]:
    """What the owner of a business wants to know of a piece beside its pictures."""
    row, what = shown.row, "clips" if shown.row.place.seconds else "pictures"
    differs = ", ".join(dict.fromkeys(slot.replace("-", " ") for slot, _ in shown.varied))
    facts = [
        (
            what.capitalize(),
            f"{len(shown.pictures)} of {row.pictures}" if shown.pictures else str(row.pictures),
        ),
        ("They differ in", differs),
        ("Cost", _cost(row)),
        ("Note", row.note),
    ]
    return [(name, said) for name, said in facts if said]


def _frame(ratio: str) -> str:
    match = re.fullmatch(r"(\d+(?:\.\d+)?):(\d+(?:\.\d+)?)", ratio)
    return f"{match[1]} / {match[2]}" if match else "3 / 2"
