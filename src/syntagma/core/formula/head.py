"""The head of a formula: TOML to values, each mistake at its line."""

import re
import tomllib

from syntagma.core.diagnostics.places import Mistake, Span, mistake_at, toml_mistake
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.diagnostics.ways import way
from syntagma.core.formula.tree import MEDIA_WORDS, NOT_SLOTS, Condition, Head, SlotRule
from syntagma.core.models.references import reference_of
from syntagma.core.notation.ranges import OutOfRange, number, parameter
from syntagma.core.notation.toml_file import SAYS
from syntagma.core.notation.toml_in import read_toml
from syntagma.core.vocabulary.terms import split_list

KEYS = ("about", "when", "media", "slots", "parameters", "example", "settles", "forward", "stress", "references", "world", "only-if")
SLOT_KEYS = ("facet", "need", "default", "take", "only", "never", "number", "about", "ask", "tag", "world", "skip")


def read_head(source: str, text: str, at: int, start: int, stop: int, end: int) -> tuple[Head, list[Mistake]]:
    """Read the TOML that is at `start` to `stop` of `text`; the head with its +++ lines spans `at` to `end`."""
    return _HeadReader(source, text, at, start, stop, end).read()


class _HeadReader:
    def __init__(self, source: str, text: str, at: int, start: int, stop: int, end: int):
        self.source, self.text, self.start, self.stop = source, text, start, stop
        self.raw = text[at:end]
        self.mistakes: list[Mistake] = []

    def read(self) -> tuple[Head, list[Mistake]]:
        toml = self.text[self.start : self.stop]
        try:
            values = read_toml(toml)
        except tomllib.TOMLDecodeError as error:
            return Head(raw=self.raw), [toml_mistake(self.source, self.text, self.start, self.stop, str(error))]
        for key in values:
            if key not in KEYS:
                remedy = perhaps(key, KEYS, f"the keys of a head are {', '.join(KEYS)}")
                self._wrong(key, "", f"a head has no key “{key}”", remedy)
        media = values.get("media", "")
        if media not in MEDIA_WORDS:
            self._wrong("media", "", f"“{media}” is not a medium", "write image, video or both")
        texts = {key: self._text(values, key) for key in ("about", "when")}
        example = {k: _strings(v) for k, v in self._table(values, "example").items()}
        slots = {name: self._slot(name, rule) for name, rule in self._table(values, "slots").items()}
        media = "" if media in ("both", "") or media not in MEDIA_WORDS else media
        parameters = self._parameters(self._table(values, "parameters"))
        lists = {
            key: self._names(values, key, like)
            for key, like in (("settles", "palette"), ("forward", "closing"), ("references", "style=print.png*0.6"))
        }
        for word in lists["references"]:
            if reference_of(word) is None:
                self._wrong(
                    "references", "", f"“{word}” is not a complete reference", 'write references = ["style=print.png*0.6"]'
                )
        stress = self._stress(self._table(values, "stress"))
        world = self._text(values, "world")
        only_if = {label: self._condition(label, said) for label, said in self._table(values, "only-if").items()}
        head = Head(self.raw, media=media, slots=slots, parameters=parameters, example=example, stress=stress, **lists, **texts)
        return head._replace(worlds=(("", world),) if world else (), only_if=only_if), self.mistakes

    def _condition(self, label: str, said: object) -> Condition:
        """ "subject: #person; #group", "subject: not #group"."""
        slot, colon, words = str(said).partition(":")
        negated = words.strip().startswith("not ")
        names = split_list(words.strip().removeprefix("not "))
        if not isinstance(said, str) or not colon or not names:
            self._wrong(label, "only-if", f"“{said}” does not say when to write the phrase “{label}”", f'write {label} = "subject: #person"')
        return Condition(slot.strip(), names, negated)

    def _names(self, values: dict, key: str, like: str) -> tuple[str, ...]:
        names = values.get(key, [])
        if isinstance(names, list) and all(isinstance(name, str) for name in names):
            return tuple(names)
        self._wrong(key, "", f"“{key}” takes a list of names", f'write {key} = ["{like}"]')
        return ()

    def _parameters(self, values: dict) -> dict[str, object]:
        for name, value in values.items():
            if not isinstance(value, str | int | float | bool):
                self._wrong(name, "parameters", f"the parameter “{name}” takes text, a number, or true or false", f'write {name} = "2:3"')
                continue
            try:
                parameter(name, value)
            except OutOfRange as wrong:
                self._wrong(name, "parameters", str(wrong), wrong.remedy)
        return {name: value for name, value in values.items() if isinstance(value, str | int | float | bool)}

    def _stress(self, weights: dict) -> dict[str, float]:
        good: dict[str, float] = {}
        for name, weight in weights.items():
            try:
                good[name] = number("weight", weight)
            except OutOfRange as wrong:
                self._wrong(name, "stress", str(wrong), f"{wrong.remedy}: {name} = 1.3")
        return good

    def _text(self, values: dict, key: str) -> str:
        value = values.get(key, "")
        if not isinstance(value, str):
            self._wrong(key, "", f"“{key}” takes text", f'write {key} = "…"')
            return ""
        return value

    def _table(self, values: dict, key: str) -> dict:
        value = values.get(key, {})
        if not isinstance(value, dict):
            self._wrong(key, "", f"“{key}” is a table", f"write [{key}] on its own line, with its keys below")
            return {}
        return value

    def _slot(self, name: str, rule: object) -> SlotRule:
        if name in NOT_SLOTS:
            self._wrong(name, "slots", f"“{name}” is not a slot name", "a, an, the and as have a meaning of their own")
        if not isinstance(rule, dict):
            self._wrong(name, "slots", f"the slot “{name}” takes a table", f'write {name} = {{ facet = "…" }}')
            return SlotRule(name, name, True)
        kinds = {"facet": str, "need": bool, "number": bool, "skip": int, "only": str, "never": str, "about": str, "ask": str, "tag": str, "world": str}
        for key, value in rule.items():
            if key not in SLOT_KEYS:
                remedy = perhaps(key, SLOT_KEYS, f"the keys of a slot are {', '.join(SLOT_KEYS)}")
                self._wrong(name, "slots", f"a slot has no key “{key}”", remedy, key)
            elif key in kinds and not isinstance(value, kinds[key]):
                self._wrong(
                    name, "slots", f"“{key}” of “{name}” takes {SAYS[kinds[key]]}", "", key
                )
        default = rule.get("default", ())
        counts = rule.get("number") is True or name == "count"
        return SlotRule(
            name,
            facet=rule["facet"] if isinstance(rule.get("facet"), str) else name,
            declared="facet" in rule,
            need=rule.get("need") is True,
            default=(values,) if isinstance(values := _strings(default), str) else values,
            take=self._take(name, rule.get("take", 1)),
            number=counts,
            only=_tags(rule, "only"),
            never=_tags(rule, "never"),
            about=rule.get("about") if isinstance(rule.get("about"), str) else "",
            ask=rule.get("ask") if isinstance(rule.get("ask"), str) else "",
            skip=max(0, rule["skip"]) if type(rule.get("skip")) is int else 0,
            world=rule.get("world") if isinstance(rule.get("world"), str) else "",
            tag=rule.get("tag") if isinstance(rule.get("tag"), str) else "",
        )

    def _take(self, name: str, take: object) -> tuple[int, int]:
        pair = [take, take] if isinstance(take, int) else take
        if isinstance(pair, list) and len(pair) == 2 and all(type(n) is int for n in pair) and 1 <= pair[0] <= pair[1]:
            return pair[0], pair[1]
        self._wrong(name, "slots", f"“take” of “{name}” is not a range", "write take = 2, or take = [1, 3]", "take")
        return 1, 1

    def _wrong(self, key: str, table: str, message: str, remedy: str, inside: str = "") -> None:
        """A mistake at the line where `key` is given, in `table` if one is named, at `inside` in that line."""
        toml = self.text[self.start : self.stop]
        from_ = 0
        if table:
            section = re.search(rf"^[ \t]*\[[ \t]*{table}\b", toml, re.M)
            from_ = section.end() if section else 0
        spot = re.compile(rf"^[ \t]*(?:\[\s*(?:{table}\.)?|{table}\.)?[\"']?({re.escape(key)})[\"']?", re.M).search(toml, from_)
        at, width = (spot.start(1), len(key)) if spot else (0, 1)
        if inside and spot:
            deeper = re.search(rf"\b{re.escape(inside)}\b", toml[spot.end() :])
            if deeper:
                at, width = spot.end() + deeper.start(), len(inside)
        span = Span(self.start + at, self.start + at + width)
        self.mistakes.append(mistake_at(self.source, self.text, span, message, remedy or way("language")))


def _strings(value: object) -> str | tuple[str, ...]:
    """A value of the head as fills are: text, or a list of texts."""
    return tuple(str(v) for v in value) if isinstance(value, list | tuple) else str(value)


def _tags(rule: dict, key: str) -> tuple[str, ...]:
    return split_list(rule[key]) if isinstance(rule.get(key), str) else ()
