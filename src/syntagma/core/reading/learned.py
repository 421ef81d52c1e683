"""The text of a formula that was learned: its columns as phrases, slots and fixed words."""

import re
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

STOPS = ".;!?"


class Column(NamedTuple):
    """What becomes a slot (or, without a facet, fixed words): where it stands in each example, or None where it has none, and its text
    there. `lead` and `tail` are words that all share; `seam`: how it follows what stands before it; `ends`: the mark behind it."""

    facet: str
    spans: Sequence[tuple[int, int] | None]
    texts: list[str | None]
    lead: str = ""
    tail: str = ""
    article: str = ""
    form: str = ""
    seam: str = ", "
    ends: str = ""


def formula_text(
    columns: list[Column], number: int, parameters: dict[str, str], negative: list[str]
) -> tuple[str, dict[str, str], dict[str, list[str]]]:
    lines: list[list[str]] = []  # label, mark, joined, body
    facets: dict[str, str] = {}
    terms: dict[str, list[str]] = {}
    heads: list[str] = []
    counts: Counter[str] = Counter()
    for k, column in enumerate(columns):
        joined = bool(lines) and column.seam.startswith(" ")
        link = column.seam.strip(" ,")
        if not column.facet:
            text = _plain(column.texts[0])
            _add(lines, f"words-{k}" if k else "opening", "!", joined, link, text, column.ends)
            continue
        counts[column.facet] += 1
        slot = column.facet if counts[column.facet] == 1 else f"{column.facet}-{counts[column.facet]}"
        facets[slot] = column.facet
        terms[slot] = list(dict.fromkeys(t for t in column.texts if t))
        needed = all(column.texts)
        heads.append(
            f"{slot} = {{ facet = {_toml('' if column.facet in ('detail', 'speech') else column.facet)}{', need = true' if needed and counts[column.facet] == 1 and column.facet == 'subject' else ''} }}"
        )
        article = f"{column.article} " if column.article else ""
        tail = f' "{column.tail}"' if column.tail and '"' not in column.tail else ""
        form = f" as {column.form}" if column.form else ""
        quote = '"' if column.facet == "speech" else ""
        body = f"{_plain(column.lead) + ' ' if column.lead else ''}{quote}[{article}{slot}{tail}{form}]{quote}"
        _add(lines, slot, "", joined, link, body, column.ends)
    head = [f"about = {_toml(f'Learned from {number} examples')}", "", "[slots]", *heads]
    if parameters:
        head += ["", "[parameters]", *(f"{_key(n)} = {_toml(v)}" for n, v in parameters.items())]
    body = [f"{label}{mark}  {'~' if join else ''}{text}" for label, mark, join, text in lines]
    body += [f"-  {', '.join(map(_plain, negative))}"] if negative else []
    return "+++\n" + "\n".join(head) + "\n+++\n" + "\n".join(body) + "\n", facets, terms


def _add(lines: list, label: str, mark: str, joined: bool, link: str, body: str, ends: str) -> None:
    """A phrase more; what leans on the one before it (of, with) goes into its line."""
    text = f"{link + ' ' if link else ''}{body}{ends}"
    if (
        joined
        and lines
        and lines[-1][3][-1:] not in STOPS
        and (link or lines[-1][3].endswith("]") != body.startswith("[") or "[" not in body)
    ):
        lines[-1][3] += " " + text
        lines[-1][1] = lines[-1][1] or mark
        return
    lines.append([label, mark, joined and lines[-1][3][-1:] not in STOPS, text])


def _plain(text: str) -> str:
    return re.sub(r"([\\\[\]{}~])", r"\\\1", text)


def _key(name: str) -> str:
    return name if re.fullmatch(r"[\w-]+", name) else _toml(name)


def _toml(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'
