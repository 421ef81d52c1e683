"""The formula of one clip: the phrases of the film's formula once for each shot in it, filled from
the shot list, with a phrase for everything that the list says and the formula has no slot for.
Nothing that was asked for is lost, and what the shots of one clip share is said once.
"""

from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.drafting.fills import Fill, Item
from syntagma.core.drafting.sound import AMBIENCE, EFFECT, MUSIC, SPEECH, sound_of
from syntagma.core.film import wording
from syntagma.core.film.columns import (
    BY_FACET,
    COLUMNS,
    PHRASES,
    PICK,
    PLACEMENT,
    TOLD,
    Col,
)
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shot_list import YES, Shot
from syntagma.core.film.spoken import ON, SpokenLine, respelled
from syntagma.core.film.wording import Cast, roles_of
from syntagma.core.formula.building import fixed, nodes, phrase
from syntagma.core.formula.tree import (
    Condition,
    FixedText,
    Formula,
    Group,
    Head,
    Node,
    Option,
    Phrase,
    SlotRule,
    Word,
    part_of,
)
from syntagma.core.models.profile import Profile
from syntagma.core.vocabulary.terms import Vocabulary, content_words

# What a clip between stills need not say again, since its stills show it; what is said again within
# a clip only where it differs.
SHOWN = tuple(name for name, one in PHRASES.items() if one.shown)
ONCE = tuple(name for name, one in PHRASES.items() if one.once)


class View(NamedTuple):
    """A part of a clip: a shot, what is spoken of it here, and whether it is the first and the last
    part of its shot.
    """

    shot: Shot
    lines: tuple[SpokenLine, ...] = ()
    first: bool = True
    last: bool = True


class ClipWords(NamedTuple):
    """A formula and its fills: `given` as text by slot, `fills` made already."""

    formula: Formula
    given: Mapping[str, str]
    fills: Mapping[str, Fill]


class Shape:
    """What all clips need to know of a formula: its rules and roles, and its phrases with their
    slots and whether they are heard.
    """

    def __init__(self, formula: Formula, vocabulary: Vocabulary):
        self.formula = formula
        self.rules = {rule.name: rule for rule in formula.slots}
        self.roles = roles_of(formula, vocabulary)
        self.lines = [(line, sound_of(line, self.rules), line.slots) for line in formula.phrases]
        self.seen = [(line, slots) for line, kind, slots in self.lines if not kind]
        self.last = max(
            (i for i, (_, slots) in enumerate(self.seen) if slots), default=len(self.seen) - 1
        )  # what is seen and has slots

    def heard(self, kind: str) -> list[Phrase]:
        """The phrases in which something of a kind is heard."""
        return [line for line, own, _ in self.lines if own == kind]


class Wording(NamedTuple):
    """How a film is put in words on one model: its formula, profile, vocabulary, people and
    figures. `handles` replaces the words of people, by name in small letters; `in_clips` what of
    ambience and music the prompts ask for: the rest lies on tracks of its own.
    """

    shape: Shape
    profile: Profile
    vocabulary: Vocabulary
    cast: Cast
    knowledge: FilmKnowledge
    handles: Mapping[str, str] = {}
    in_clips: Collection[str] = ()


def clip_words(
    how: Wording,
    views: Sequence[View],
    moving: bool = False,
    still: str = "",
    stills: Collection[str] = (),
) -> ClipWords:
    """The formula and the fills of a clip of some parts. `moving`: only what moves and sounds is
    said, since a still shows the rest; `still`: what a picture of the shot shows, its first or its
    last; `stills` are those of them that the clip has, so they need no words.
    """
    return _Builder(how, _Asked(views, moving, still, stills)).build()


class _ClipDraft:
    """A clip's formula while it is being made: its slots and their fills, its lines, and the labels
    already used.
    """

    def __init__(self) -> None:
        self.slots: dict[str, SlotRule] = {}
        self.given: dict[str, str] = {}
        self.fills: dict[str, Fill] = {}
        self.conditions: dict[str, Condition] = {}
        self.lines: list[Phrase] = []
        self.labels: set[str] = set()

    def label(self, wanted: str) -> str:
        """A label that no line has yet."""
        label, count = wanted, 1
        while label in self.labels:
            count += 1
            label = f"{wanted}-{count}"
        self.labels.add(label)
        return label


class _Asked(NamedTuple):
    """What is asked of a clip: its parts, whether only what moves is said, which still it is (if it
    is one), which stills it has.
    """

    views: Sequence[View]
    moving: bool
    still: str
    stills: Collection[str]


class _Builder:
    """One clip while its formula is made."""

    def __init__(self, how: Wording, asked: _Asked):
        self.how, self.asked, self.made = how, asked, _ClipDraft()
        self.rules = dict(how.shape.rules)
        self.roles = how.shape.roles
        self.described: set[str] = set()
        self.said: dict[
            str, str | tuple[str, str]
        ] = {}  # what the clip has said already, by column
        self.happens = ""  # what stands where people do, since nobody is there
        self.done: set[str] = set()  # what the shot has said already
        self.done_once: set[str] = set()  # fixed phrases, which stand once in a clip

    def build(self) -> ClipWords:
        for number, view in enumerate(self.asked.views, 1):
            self._shot(number, view)
        self._shared()
        head = self.how.shape.formula.head
        negatives = [line for line in self.how.shape.formula.negatives]
        for line in negatives:
            for slot in line.slots:
                self.made.slots[slot] = self.rules[slot]._replace(need=False)
        made = Head(
            about=head.about,
            media=head.media,
            slots=self.made.slots,
            parameters=head.parameters,
            forward=head.forward,
            stress=head.stress,
            references=head.references,
            only_if=self.made.conditions,
        )
        return ClipWords(
            self.how.shape.formula._replace(
                head=made, lines=(*self.made.lines, *negatives), text=""
            ),
            self.made.given,
            self.made.fills,
        )

    def _shot(self, number: int, view: View) -> None:
        """The phrases of one shot: what is seen, what happens, then what is heard."""
        said = self._values(view)
        self._cut(number, view)
        missing = self._missing(said)
        for i, (line, slots) in enumerate(self.how.shape.seen):
            self._phrase(number, line, slots, said)
            for role in self._behind(number, slots, missing, said):
                self._extra(number, role, said)
            if i == self.how.shape.last:
                for role in missing:
                    if role not in self.done:
                        self._extra(number, role, said)
        if not self.asked.still and self.how.profile.silent:
            self._lips(number, view)
        elif not self.asked.still:
            self._speech(number, view, self.how.shape.heard(SPEECH))
            self._effects(number, self.how.shape.heard(EFFECT), said)

    def _lips(self, number: int, view: View) -> None:
        """On a model without sound, whoever is seen to speak moves their lips."""
        seen = [line.speaker for line in view.lines if line.voice == ON and line.speaker]
        if not seen:
            return
        called = [
            wording.calls(one, self.how.cast, self.how.handles) for one in dict.fromkeys(seen)
        ]
        name = f"speakers-{number}"
        self.made.slots[name] = SlotRule(name, "", declared=True)
        self._fill(name, wording.english_list(called), Col.SPEAKER)
        self._stop(number)
        verb = "are" if len(called) > 1 else "is"
        self._add(number, phrase("lips", ()), nodes(f"[{name}] {verb} speaking."), False, "")

    def _values(self, view: View) -> dict[str, str]:
        """What the shot says by column, in the words that a prompt takes."""
        how, shot = self.how, view.shot
        cells = shot.cells
        self.done = set()
        said = {column: cells.get(column, "") for column in _SAID}
        said |= {
            role: wording.trade_term(said[role], facet, how.vocabulary)
            for role, facet in _TRADE.items()
        }
        angle = content_words(said[Col.ANGLE])
        nearness = content_words(said[Col.SIZE])
        if angle and angle <= nearness:
            said[Col.ANGLE] = ""  # an over-the-shoulder shot is seen over a shoulder
        if "shoulder" in angle | nearness and len(shot.who) > 1:  # of the one that is not foremost
            whose = wording.calls(shot.who[1], how.cast, how.handles)
            over = f"over {whose}{_OF_S if whose.endswith('s') else _OF} shoulder"
            column = Col.SIZE if "shoulder" in nearness else Col.ANGLE
            said[column] = f"shot {over}" if column == Col.SIZE else over
        if said[Col.MOVE] and not self._is_term(Col.MOVE, said[Col.MOVE]):
            rig = wording.trade_term(said[Col.MOVE], "camera-rig", how.vocabulary)
            clause = how.knowledge.moving(said[Col.MOVE])
            if (
                clause
                or "camera-rig" not in how.vocabulary
                or how.vocabulary["camera-rig"].get(rig) is None
            ):
                said[Col.MOVE] = clause or wording.trade_term(
                    said[Col.MOVE], "camera-move", how.vocabulary
                )
            else:
                said |= {Col.RIG: said[Col.RIG] or rig, Col.MOVE: ""}
        said[Col.SETTING] = (
            said[Col.SETTING]
            if self._is_term(Col.SETTING, said[Col.SETTING])
            else how.knowledge.place(said[Col.SETTING])
        )
        said[Col.LIGHT] = (
            said[Col.LIGHT]
            if self._is_term(Col.LIGHT, said[Col.LIGHT])
            else how.knowledge.light(said[Col.LIGHT])
        )
        if self.asked.moving:
            self.described |= {name.lower() for name in shot.who}
        seats = [role for role in self.roles.values() if role.startswith(Col.WHO)]
        for i, role in enumerate(seats or [Col.WHO]):
            names = shot.who[i : i + 1] if i + 1 < len(seats) else shot.who[i:]
            said[role] = wording.people_words(names, shot, how.cast, how.handles, self.described)
        said[Col.HOUR] = (
            wording.hour_words(cells.get(Col.HOUR, ""), how.vocabulary, how.knowledge)
            if cells.get(Col.HOUR)
            else ""
        )
        said[Col.LIGHT_FROM] = wording.light_side(shot)
        said[PLACEMENT] = wording.placement(shot, how.cast, how.handles)
        happens = cells.get(Col.ACTION, "")
        frames = {
            column: happens if cells.get(column, "").lower() in YES else cells.get(column, "")
            for column in (Col.FIRST, Col.LAST)
        }
        between = {Col.FIRST, Col.LAST} <= set(self.roles.values())
        if self.asked.still:
            happens = frames[self.asked.still]
            said |= {Col.MOVE: "", Col.RIG: ""}
        doing = wording.deed("" if between else happens, shot, how.cast, how.handles)
        if happens == PICK or (happens and not between and self._is_term(Col.ACTION, happens)):
            doing = wording.Deed(joined=happens)
        said |= {Col.ACTION: doing.joined, TOLD: doing.told, Col.FIRST: "", Col.LAST: ""}
        if self.asked.still in self.roles.values():
            said |= {self.asked.still: doing.joined, Col.ACTION: ""}
        elif not self.asked.still:
            said |= {
                column: wording.frame_words(text, shot, how.cast, how.handles, not between)
                for column, text in frames.items()
                if text and (between or column not in self.asked.stills)
            }
        if self.asked.moving:
            said |= dict.fromkeys(SHOWN, "")
            if doing.told and shot.who:
                said[Col.WHO] = ""
            elif shot.who and not between:
                said[Col.WHO] = wording.people_words(
                    shot.who, shot, how.cast, how.handles, self.described
                )
        self._once(said)
        self._first_things_first(said, shot, view)
        said |= {
            f"slot {name.removeprefix('slot:')}": text
            for name, text in cells.items()
            if name.startswith("slot:")
        }
        return said

    def _first_things_first(self, said: dict[str, str], shot: Shot, view: View) -> None:
        """Where nobody is in the shot, one thing that happens stands first: "Insert shot; a brass
        bell swings, on a quay". Somebody whom the next sentence names is not named alone before it.
        """
        told = said[TOLD]
        if not shot.who:
            if told[:1].islower() and ". " not in told and not self.asked.still:
                self.happens = told
                said |= {Col.WHO: told, TOLD: ""}
            return
        alone = not any(said[column] for column in (*ONCE, Col.LIGHT_FROM, PLACEMENT, Col.ACTION))
        speaks = self.how.profile.silent and any(line.voice == ON for line in view.lines)
        if alone and len(shot.who) == 1 and (told or speaks):
            short = wording.calls(shot.who[0], self.how.cast, self.how.handles)
            if said[Col.WHO] == short and (not told or told.lower().startswith(short.lower())):
                said[Col.WHO] = ""

    def _is_term(self, role: str, text: str) -> bool:
        """Is a cell a term of the slot that it fills?"""
        facets = [self.rules[slot].facet for slot, own in self.roles.items() if own == role]
        facets = facets or [facet for facet, column in BY_FACET.items() if column == role]
        return any(
            facet in self.how.vocabulary and self.how.vocabulary[facet].get(text) is not None
            for facet in facets
        )

    def _once(self, said: dict[str, str]) -> None:
        """Take out what the clip has said already."""
        lit = (said[Col.LIGHT], said[Col.LIGHT_FROM])
        for column in ONCE:
            if said[column] and self.said.get(column) == said[column]:
                said[column] = ""
            elif said[column]:
                self.said[column] = said[column]
        if not said[Col.LIGHT] and self.said.get("lit") == lit:
            said[Col.LIGHT_FROM] = ""
        self.said["lit"] = lit

    def _missing(self, said: Mapping[str, str]) -> list[str]:
        """What is said and has no slot in the formula, in the order in which it is to stand."""
        filled = set(self.roles.values())
        return [role for role in PHRASES if said.get(role) and role not in filled]

    def _behind(
        self, number: int, slots: Sequence[str], missing: Sequence[str], said: Mapping[str, str]
    ) -> list[str]:
        """Which of what is missing comes after a phrase."""
        roles = {self.roles.get(slot, "") for slot in slots}
        found = [
            role
            for role in missing
            if role not in self.done and roles.intersection(PHRASES[role].behind)
        ]
        alone = len(self.asked.views[number - 1].shot.who) < 2
        if (
            alone
            and PLACEMENT in missing
            and PLACEMENT not in self.done
            and (_DEEDS if any(said.get(r) for r in _DEEDS) else {Col.WHO}) & roles
        ):
            found.append(PLACEMENT)
        return found

    def _phrase(
        self, number: int, line: Phrase, slots: Sequence[str], said: Mapping[str, str]
    ) -> None:
        """A phrase of the formula for one shot; left out where nothing in it is said. One without a
        slot comes once in a clip.
        """
        if not slots:
            if f"fixed {line.label}" not in self.done_once:
                self._add(number, line, line.body, line.joined, line.mark)
                self.done_once.add(f"fixed {line.label}")
            return
        values = {slot: self._value(slot, said) for slot in slots}
        if not any(values.values()) and not any(
            self.rules[slot].default for slot in slots if slot not in self._silenced(said)
        ):
            if isinstance(line.body[-1], FixedText) and line.body[-1].raw.rstrip()[-1:] in _ENDS:
                self._stop(
                    number
                )  # a sentence end whose phrase is gone passes back to the phrase before
            return
        joined = line.joined
        if (
            joined
            and "," in said[Col.WHO]
            and any(self.roles.get(slot) in _DEEDS for slot in slots)
        ):
            joined = False  # after a description with commas a deed takes one too
        body = tuple(self._called(number, node) for node in line.body)
        for slot, value in values.items():
            name = self._slot(number, slot)
            if value and name not in self.made.fills:
                self._fill(
                    name,
                    value
                    + (
                        ","
                        if "," in value
                        and self.roles[slot].startswith(Col.WHO)
                        and _goes_on(line.body, slot)
                        else ""
                    ),
                    self.roles.get(slot, ""),
                )
            elif slot in self._silenced(said):
                self.made.given[name] = ""
        goes = {self.roles.get(slot, "") for slot in slots} <= _FIRST_TO_GO
        mark = line.mark or ("?" if goes else "")
        self._add(
            number,
            line,
            self._renamed(body, number),
            joined,
            mark if any(values.values()) else mark.replace("!", ""),
        )
        self.done |= {self.roles.get(slot, "") for slot, value in values.items() if value}

    def _called(self, number: int, node: Node) -> Node:
        """A noun group that calls somebody in short who was described in an earlier phrase: under a
        slot of its own.
        """
        if (
            not isinstance(node, Group)
            or node.form != "short"
            or not self.roles.get(node.head, "").startswith(Col.WHO)
        ):
            return node
        name = node.head if number == 1 else f"{node.head}-{number}"
        role = self.roles[node.head]
        seat = int(role.rpartition(" ")[2]) - 1 if " " in role else 0
        who = self.asked.views[number - 1].shot.who[seat : seat + 1]
        if name not in self.made.fills or not who:
            return node
        short = f"{node.head}-in-short"
        self.rules.setdefault(short, self.rules[node.head]._replace(name=short, default=()))
        self._fill(
            self._slot(number, short),
            wording.calls(who[0], self.how.cast, self.how.handles),
            Col.WHO,
        )
        return node._replace(
            words=tuple(
                (
                    word._replace(raw=short, value=short)
                    if word.kind == "slot" and word.value == node.head
                    else word
                )
                for word in node.words
            )
        )

    def _silenced(self, said: Mapping[str, str]) -> set[str]:
        """The slots whose default does not stand: the list says none, or something else
        shows it.
        """
        cells = self.asked.views[0].shot.given
        none = {slot for slot, role in self.roles.items() if cells.get(role) == "-"}
        shown = {slot for slot, role in self.roles.items() if self.asked.moving and role in SHOWN}
        again = {
            slot
            for slot, role in self.roles.items()
            if role in ONCE and self.said.get(role) and not said.get(role)
        }
        return (
            none
            | shown
            | again
            | {slot for slot, role in self.roles.items() if self.asked.still and role == Col.MOVE}
        )

    def _value(self, slot: str, said: Mapping[str, str]) -> str:
        own = said.get(f"slot {slot}", "")
        role = self.roles.get(slot, "")
        return own if own or not role else said.get(role, "")

    def _slot(self, number: int, slot: str) -> str:
        """A slot of one shot: by its own name in the first, numbered in the others."""
        name = slot if number == 1 else f"{slot}-{number}"
        self.made.slots[name] = self.rules[slot]._replace(
            name=name, need=False, number=self.rules[slot].number
        )
        return name

    def _fill(self, name: str, value: str, role: str) -> None:
        if (role in (Col.SPEAKER, PLACEMENT) or role.startswith(Col.WHO)) and value != PICK:
            facet = self.made.slots[name].facet
            if facet not in self.how.vocabulary or self.how.vocabulary[facet].get(value) is None:
                by_handle = any(value.startswith(handle) for handle in self.how.handles.values())
                bare = english.split_determiner(value)[1]
                number = (
                    "name"
                    if by_handle or role == PLACEMENT or value == self.happens
                    else "many"
                    if " and " in value
                    else english.countability(bare)
                )
                self.made.fills[name] = Fill(
                    value, (Item(value, bare if number != "name" else value, number),)
                )
                return
        self.made.given[name] = (
            value.replace(";", "\\;")
            if value != PICK and role not in (Col.AMBIENCE, Col.MUSIC, Col.SFX)
            else value
        )

    def _add(
        self, number: int, line: Phrase, body: Sequence[Node], joined: bool, mark: str
    ) -> None:
        """Take a phrase into the clip, under a label that says which shot it belongs to."""
        label = line.label
        if len(self.asked.views) > 1:
            label = f"shot{number}.{label}"
        label = self.made.label(label)
        when = self.how.shape.formula.head.only_if.get(line.label)
        if when:
            self.made.conditions[label] = when._replace(
                slot=when.slot if number == 1 else f"{when.slot}-{number}"
            )
        self.made.lines.append(phrase(label, body, mark, joined))

    def _renamed(self, body: Sequence[Node], number: int) -> tuple[Node, ...]:
        """The nodes of a body with the slots of one shot."""
        if number == 1:
            for node in body:
                self._declare(node, number)
            return tuple(body)
        return tuple(self._node(node, number) for node in body)

    def _declare(self, node: Node, number: int) -> None:
        for child in node.children if isinstance(node, Option) else (node,):
            if isinstance(child, Group):
                for slot in child.slots:
                    self._slot(number, slot)

    def _node(self, node: Node, number: int) -> Node:
        if isinstance(node, Option):
            return node._replace(
                children=tuple(self._node(child, number) for child in node.children)
            )
        if isinstance(node, FixedText):
            return node
        return Group(tuple(self._word(word, number) for word in node.words), node.span)

    def _word(self, word: Word, number: int) -> Word:
        if word.kind != "slot":
            return word
        name = self._slot(number, word.value)
        return word._replace(raw=name, value=name)

    def _extra(self, number: int, role: str, said: Mapping[str, str]) -> None:
        """A phrase for what the formula has no slot for."""
        self.done.add(role)
        extra = PHRASES[role]
        body, joined = extra.words, extra.joined
        if extra.sentence and (role != PLACEMENT or len(self.asked.views[number - 1].shot.who) > 1):
            self._stop(number, told=role == TOLD)
            body += "."
        name = f"{role.replace(' ', '-')}-{number}" if number > 1 else role.replace(" ", "-")
        if name in self.rules or name in self.made.slots:
            name = f"{name}-said"
        self.made.slots[name] = SlotRule(name, extra.facet, declared=True)
        self._fill(name, said[role], role)
        if role == Col.LIGHT_FROM:
            last = self.made.lines[-1] if self.made.lines else None
            lit = (
                last is not None
                and Col.LIGHT in self.done
                and any(
                    self.roles.get(slot.removesuffix(f"-{number}")) == Col.LIGHT
                    or slot.startswith(Col.LIGHT)
                    for slot in last.slots
                )
            )
            if lit and last is not None:  # it goes with its light
                end = (
                    [last.body[-1]]
                    if isinstance(last.body[-1], FixedText) and last.body[-1].raw.strip() in _ENDS
                    else []
                )
                body_ = last.body[: len(last.body) - len(end)]
                self.made.lines[-1] = last._replace(body=(*body_, *nodes(f"{{ [{name}]}}"), *end))
                return
            body, joined = "light [{}]", False
        self._add(
            number,
            phrase(role.replace(" ", "-"), ()),
            nodes(body.format(name)),
            joined,
            "?" if extra.early else "",
        )

    def _stop(self, number: int, told: bool = False) -> None:
        """End the phrase before with a full stop, since a new sentence follows; where that is
        `told`, "Close-up;" ends with one too.
        """
        last = self.made.lines[-1] if self.made.lines else None
        if (
            last is None
            or ((len(self.asked.views) > 1) and part_of(last.label) != number)
            or not last.body
        ):
            return
        end = last.body[-1]
        if isinstance(end, FixedText) and told and end.raw.strip() == ";":
            self.made.lines[-1] = last._replace(body=(*last.body[:-1], fixed(".")))
            return
        if isinstance(end, FixedText) and end.raw.rstrip()[-1:] in _ENDS:
            return
        self.made.lines[-1] = last._replace(body=(*last.body, fixed(".")))

    def _cut(self, number: int, view: View) -> None:
        """Within a clip, a shot that goes on without a cut says so."""
        if number > 1 and view.shot.continuous and view.first:
            self._add(number, phrase("cut", ()), (fixed("without a cut"),), False, "")

    def _speech(self, number: int, view: View, speeches: Sequence[Phrase]) -> None:
        """A phrase for each line: the formula's own if it says who speaks here, else a
        plain one.
        """
        left = list(speeches)
        for i, line in enumerate(view.lines):
            own = next((one for one in left if self._fits(one, line, view)), None)
            if own is None or any(self._says_who(own, slot) for slot in own.slots):
                self._stop(number)
            if own is not None:
                left.remove(own)
                self._own_speech(number, own, line, view)
            else:
                self._plain_speech(number, i, line)

    def _fits(self, one: Phrase, line: SpokenLine, view: View) -> bool:
        """Can a phrase of the formula's say this line? Its speaker is a slot of its own, or the
        person of its slot.
        """
        people = [
            self.roles[slot] for slot in one.slots if self.roles.get(slot, "").startswith(Col.WHO)
        ]
        if len(_quoted(one)) != 1:
            return False
        if not people:
            named = any(self._says_who(one, slot) for slot in one.slots)
            return named or (line.speaker in view.shot.who[:1] and "lens" in _fixed_words(one))
        place = int(people[0].rpartition(" ")[2]) - 1 if " " in people[0] else 0
        return view.shot.who[place : place + 1] == (line.speaker,)

    def _says_who(self, one: Phrase, slot: str) -> bool:
        """Does a slot of a phrase that speaks say who does: by its name, or as the free one outside
        of the quotation?
        """
        role = self.roles.get(slot, "")
        return (
            role == Col.SPEAKER
            or role.startswith(Col.WHO)
            or (not self.rules[slot].facet and slot not in _quoted(one))
        )

    def _own_speech(self, number: int, one: Phrase, line: SpokenLine, view: View) -> None:
        calls = wording.calls(line.speaker, self.how.cast, self.how.handles)
        for slot in one.slots:
            name = self._slot(number, slot)
            if self._says_who(one, slot):
                if name not in self.made.fills and not self.made.given.get(name):
                    self._fill(name, calls, Col.SPEAKER)
            elif slot in _quoted(one):
                self.made.given[name] = respelled(line.text, self.how.cast.say).replace(";", "\\;")
            elif said := wording.how(line, self.how.vocabulary, self.how.knowledge):
                self.made.slots[name] = self.made.slots[name]._replace(facet="")
                self.made.given[name] = said
        body = tuple(self._called(number, node) for node in one.body)
        self._add(number, one, self._renamed(body, number), one.joined, one.mark)
        for slot in one.slots:  # the plain words of a manner are no list of terms
            if self.rules[slot].facet == COLUMNS[Col.MANNER].facet:
                self.made.slots[slot if number == 1 else f"{slot}-{number}"] = self.rules[
                    slot
                ]._replace(name=slot if number == 1 else f"{slot}-{number}", need=False)

    def _plain_speech(self, number: int, i: int, line: SpokenLine) -> None:
        names = {
            what: f"{what}-said-{number}-{i + 1}" for what in (Col.SPEAKER, Col.MANNER, Col.LINE)
        }
        self.made.slots |= {
            name: SlotRule(name, COLUMNS[what].facet, declared=True) for what, name in names.items()
        }
        self._fill(
            names[Col.SPEAKER],
            wording.calls(line.speaker, self.how.cast, self.how.handles) or "a voice",
            Col.SPEAKER,
        )
        self.made.given[names[Col.LINE]] = respelled(line.text, self.how.cast.say).replace(
            ";", "\\;"
        )
        if said := wording.how(line, self.how.vocabulary, self.how.knowledge):
            self.made.given[names[Col.MANNER]] = said
        body = nodes(f'[{names[Col.SPEAKER]}], [{names[Col.MANNER]}]: "[{names[Col.LINE]}]".')
        self._add(number, phrase("speech", ()), body, False, "")

    def _effects(self, number: int, effects: Sequence[Phrase], said: Mapping[str, str]) -> None:
        if not said.get(Col.SFX) or Col.SFX in self.done:
            return
        self._stop(number)
        for line in effects:
            slots = [slot for slot in line.slots if self.roles.get(slot) == Col.SFX]
            if slots:
                self.made.given[self._slot(number, slots[0])] = said[Col.SFX]
                self._add(number, line, self._renamed(line.body, number), line.joined, line.mark)
                return
        self._sound(number, Col.SFX, "sound-effect", "sound: [an {} as clause].", said[Col.SFX])

    def _sound(self, number: int, role: str, facet: str, body: str, text: str) -> None:
        name = f"{role}-{number}" if number > 1 else role
        name = f"{name}-said" if name in self.rules and self.rules[name].facet != facet else name
        self.made.slots[name] = SlotRule(name, facet, declared=True, take=(1, 3))
        self.made.given[name] = text
        self._add(number, phrase(role, ()), nodes(body.format(name)), False, "?")

    def _shared(self) -> None:
        """What is heard all through: once, behind everything, where all shots of the clip share it;
        else with its shot.
        """
        if self.asked.still:
            return
        for role, kind, body in (
            (Col.AMBIENCE, AMBIENCE, "ambience: [an {} as clause]."),
            (Col.MUSIC, MUSIC, "music: [a {}]."),
        ):
            heard = role in self.how.in_clips
            said = [view.shot.cells.get(role, "") for view in self.asked.views if heard]
            own = next(iter(self.how.shape.heard(kind)), None)
            texts = list(dict.fromkeys(text for text in said if text))
            if texts or (role == Col.MUSIC and self._must_say_no_music()):
                self._stop(len(self.asked.views))
            if texts:
                name = own.slots[0] if own and len(own.slots) == 1 else role
                self.made.slots[name] = (
                    self.rules[name]._replace(need=False, take=(1, 4))
                    if name in self.rules
                    else SlotRule(name, role, declared=True, take=(1, 4))
                )
                self.made.given[name] = "; ".join(texts)
                label = own.label if own else role
                self.made.labels.add(label)
                self.made.lines.append(
                    phrase(
                        label,
                        own.body if own and name == own.slots[0] else nodes(body.format(name)),
                        (own.mark if own else "") or "?",
                    )
                )
            elif role == Col.MUSIC and self._must_say_no_music():
                self.made.lines.append(phrase(Col.MUSIC, (fixed("no music."),)))

    def _must_say_no_music(self) -> bool:
        """Would the model put music under the clip by itself?"""
        sound = self.how.profile.sound
        return bool(sound and sound.adds_music and sound.makes)


def _goes_on(body: Sequence[Node], slot: str) -> bool:
    """Do words follow the group of a slot within its phrase?"""
    at = next(
        (i for i, node in enumerate(body) if isinstance(node, Group) and node.head == slot),
        len(body),
    )
    behind = body[at + 1] if at + 1 < len(body) else None
    return isinstance(behind, FixedText) and behind.raw.strip()[:1].isalpha()


def _quoted(one: Phrase) -> list[str]:
    """The slots of a phrase that are in quotation marks."""
    pairs = zip(one.body, one.body[1:], strict=False)
    return [
        behind.head
        for node, behind in pairs
        if isinstance(node, FixedText)
        and isinstance(behind, Group)
        and node.raw.rstrip()[-1:] in ('"', "“")
    ]


def _fixed_words(one: Phrase) -> str:
    return " ".join(node.raw for node in one.body if isinstance(node, FixedText))


_SAID = (
    Col.SIZE,
    Col.ANGLE,
    Col.MOVE,
    Col.RIG,
    Col.SETTING,
    Col.WEATHER,
    Col.LIGHT,
    Col.LOOK,
    Col.BACKGROUND,
    Col.SFX,
)  # in the words of the list, or the trade's for them
_TRADE = {column: COLUMNS[column].facet for column in (Col.SIZE, Col.ANGLE, Col.RIG)}
_OF, _OF_S = "'s", "'"  # what is somebody's
_ENDS = (".", "!", "?", ";", ":")
_DEEDS = frozenset({Col.ACTION, Col.FIRST, Col.LAST})
# What goes first where a clip has to be shorter: who is there, what they do and what they say stay
# longest.
_FIRST_TO_GO = frozenset({"", *(name for name, one in PHRASES.items() if one.early)})
