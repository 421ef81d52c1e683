"""A film's settings, its prompts on a model, and what they cost; what was sent of it stays."""

import json
import re
from collections.abc import Mapping, Sequence
from datetime import date
from functools import cached_property
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.asked import USUAL, Taste
from syntagma.app.composing.records import Recorder
from syntagma.app.picking import Chooser
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, Refused, Trouble
from syntagma.core.drafting.fills import BadFills, Fill
from syntagma.core.film.clip_formula import ClipWords, Shape, View, Wording, clip_words
from syntagma.core.film.columns import COLUMNS, PICK, Col, column_of
from syntagma.core.film.continuity import continuity
from syntagma.core.film.film_plan import (
    FIRST_ROLE,
    LAST_ROLE,
    Plan,
    PlannedClip,
    Sent,
    key_of,
    plan,
    spoken_in,
)
from syntagma.core.film.knowledge import FilmKnowledge, read_knowledge
from syntagma.core.film.shot_list import LONGEST, Shot, ShotList
from syntagma.core.film.spoken import cell_of
from syntagma.core.film.wording import Cast
from syntagma.core.fitting import TooLong
from syntagma.core.formula.tree import Formula
from syntagma.core.models.parameters import value_of
from syntagma.core.models.profile import Profile
from syntagma.core.models.references import Reference
from syntagma.core.notation.rates import FilmClock, FrameRate, Tempo, rate_of, seconds_said
from syntagma.core.notation.toml import TomlFile
from syntagma.core.picking.situations import number_of
from syntagma.core.records import Record
from syntagma.core.vocabulary import facets
from syntagma.core.writing.prompt import Manner, Prompt
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.files import read_text
from syntagma.storage.folders import SHIPPED

# ──── What belongs to a film beside its shot list: NAME.toml next to NAME.csv. Title, formula,
# looks, models, frame rate, respellings, clothes.


CLOCK = ("rate", "start", "tempo", "beats")  # the keys of its clock


class FilmFile(NamedTuple):
    """A film's own settings. `wears` is a person → story day → clothes; `say` a word → how it is
    said; `clock` its rate, tempo and first timecode; `length` the seconds that it is to last (0: as
    long as it gets); `in_clips` what of ambience and music the prompts ask for.
    """

    title: str = ""
    formula: str = "film-shot"
    model: str = ""
    stills: str = ""
    looks: tuple[str, ...] = ()
    clock: FilmClock = FilmClock()
    length: float = 0.0
    ratio: str = ""
    in_clips: tuple[str, ...] = ()
    say: Mapping[str, str] = {}
    wears: Mapping[str, Mapping[str, str]] = {}


def film_file(shot_list: Path) -> FilmFile:
    """The settings beside a shot list; the usual ones if no such file exists. Raises Refused or
    Trouble.
    """
    path = shot_list.with_suffix(".toml")
    if shot_list.suffix.lower() == ".toml" or not path.is_file():
        return FilmFile(title=shot_list.stem)
    return read_film(read_text(path, "a film's settings"), str(path), shot_list.stem)


def read_film(text: str, source: str, title: str) -> FilmFile:
    """Read a film's settings. Raises Refused with all its mistakes."""
    file = TomlFile(text, source)
    values = file.values()
    rate = rate_of(values["rate"]) if "rate" in values else FrameRate()
    if rate is None:
        file.wrong(
            "rate",
            f"“{values.get('rate')}” is not a frame rate",
            'write rate = 24, 23.976, "30000/1001" or "29.97 drop": from 8 to 120',
        )
    beats = values.get("tempo", 0)
    bar = values.get("beats", 4)
    if isinstance(beats, bool) or not isinstance(beats, int | float) or not 0 <= beats <= 400:
        file.wrong("tempo", f"“{beats}” is no tempo", "write tempo = 96: beats a minute")
        beats = 0
    if isinstance(bar, bool) or not isinstance(bar, int) or not 1 <= bar <= 16:
        file.wrong("beats", f"“{bar}” is no number of beats a bar", "write beats = 4")
        bar = 4
    length = values.get("length")
    seconds = seconds_said(str(length), rate) if length is not None else 0.0
    if seconds is None or (length is not None and not 0 < seconds <= LONGEST):
        file.wrong("length", f"“{length}” is not a length", 'write length = 15, or "1:30"')
    good = file.good(
        values,
        {
            "title": str,
            "formula": str,
            "model": str,
            "stills": str,
            "looks": list,
            "rate": object,
            "start": str,
            "length": object,
            "ratio": str,
            "tempo": object,
            "beats": object,
            "in_clips": list,
            "say": dict,
            "wears": dict,
        },
        "a film",
    )
    for word, said in good.get("say", {}).items():
        if not isinstance(said, str) or not said.strip():
            file.wrong(
                word, f"“{word}” has no respelling", f'write {word} = "as it is said"', "say"
            )
    for person, days in good.get("wears", {}).items():
        if not isinstance(days, dict) or not all(
            isinstance(clothes, str) for clothes in days.values()
        ):
            file.wrong(
                person,
                f"what {person} wears is a table of days",
                f'write {person} = {{ 2 = "a borrowed duffel coat" }}',
                "wears",
            )
    if good.get("ratio") and not re.fullmatch(r"\d[\d.]*:[\d.]*\d", good["ratio"]):
        file.wrong("ratio", f"“{good['ratio']}” is not a ratio", 'write ratio = "9:16"')
    if good.get("start") and seconds_said(good["start"], rate) is None:
        file.wrong("start", f"“{good['start']}” is no timecode", 'write start = "01:00:00:00"')
    for what in good.get("in_clips", ()):
        if what not in (Col.AMBIENCE, Col.MUSIC):
            file.wrong(
                "in_clips", f"“{what}” is not heard all through", "write ambience, music or both"
            )
    if file.mistakes:
        raise Refused(file.mistakes)
    lists = {name: tuple(map(str, good.pop(name, ()))) for name in ("looks", "in_clips")}
    assert rate is not None and seconds is not None, "a mistake was refused"
    clock = FilmClock(rate, Tempo(beats, bar), good.get("start", ""))
    good = {key: value for key, value in good.items() if key not in CLOCK}
    return FilmFile(**{"title": title, **lists, **good, "clock": clock, "length": seconds})


# ──── A film made into prompts: the list read, planned for a model, each clip and each still
# written, with what it needs and what it costs.


FILM_DATA = "film.toml"
FRAMES = "frames"
STILL_FORMULAS = {Col.FIRST: "first-frame", Col.LAST: "last-frame"}
BETWEEN = "between-frames"
OF_SCENE = facets.FacetGroup("once-a-scene")  # what is picked once for a scene
OURS = (
    "speech-too-long",
    "dead-air",
    "rewrites",
    "known-in-words",
    "behind-reach",
    "no-sound",
)  # said by the prompts in its own way, or not of a shot list


class FilmPrompt(NamedTuple):
    """One prompt of a film: a clip, or a still that a clip begins or ends with. `name` is what it
    is called, `planned` its clip, `shot` whose still it is; `needs` what must be there before it
    can be made.
    """

    name: str
    kind: str  # clip, first-frame or last-frame
    planned: PlannedClip
    writer: Writer
    fills: Sequence[Fill | None]
    prompt: Prompt
    findings: tuple[Finding, ...]
    needs: tuple[dict[str, str], ...] = ()
    refused: str = ""

    @property
    def file(self) -> str:
        """Where its picture is looked for, when something needs it: of a clip its last one."""
        return frame_file(
            self.name if self.kind == "clip" else self.name.rpartition(" ")[0],
            "end" if self.kind == "clip" else self.kind,
        )


def frame_file(name: str, what: str) -> str:
    """The file of a frame: frames/3-12A-first.png."""
    return f"{FRAMES}/{name.replace('/', '-').replace(' ', '-')}-{what.removesuffix('-frame')}.png"


class Film:
    """A film: its shots, its people, its settings, as a workspace knows them."""

    def __init__(
        self, workspace: Workspace, shots: ShotList, settings: FilmFile, taste: Taste = USUAL
    ):
        self.workspace, self.shots, self.settings, self.taste = workspace, shots, settings, taste
        self.cast = Cast(workspace.known, settings.wears, settings.say)
        self.knowledge = film_knowledge()
        self._formulas: dict[str, Formula] = {}
        self._shapes: dict[str, Shape] = {}

    @cached_property
    def continuity(self) -> list[Finding]:
        """What a script supervisor has to say."""
        return continuity(self.shots, self.knowledge, self.cast)

    @cached_property
    def unknown(self) -> list[Finding]:
        """People who speak, or are named in capitals, and whom known.toml does not know."""
        found = []
        told: set[str] = set()
        for shot in self.shots.shots:
            for name in dict.fromkeys((*shot.who, *(line.speaker for line in shot.lines))):
                loose = (
                    name
                    and not self.cast.person(name)
                    and name[:1].isupper()
                    and name.lower() not in told
                    and not self.cast.is_noun(name)
                )
                if loose:
                    told.add(name.lower())
                    message = (
                        f"known.toml does not describe {name}: prompts will have the bare name, and"
                        " the person will look different in each clip"
                    )
                    found.append(
                        Finding(
                            REMARK,
                            message,
                            f'describe them in known.toml: {_table(name.lower())} words = "…"',
                            shot.name,
                            code="not-known",
                        )
                    )
        return found

    def formula(self, name: str) -> Formula:
        """A formula by name. Raises Trouble or Refused."""
        if name not in self._formulas:
            self._formulas[name] = self.workspace.formula(name, self.settings.looks)[0]
        return self._formulas[name]

    def shape(self, formula: Formula) -> Shape:
        """A formula looked at for shots."""
        if formula.name not in self._shapes:
            self._shapes[formula.name] = Shape(formula, self.workspace.vocabulary)
        return self._shapes[formula.name]

    def formula_of(self, shot: Shot) -> Formula:
        """The formula that a shot is written by."""
        return self.formula(shot.cells.get(Col.FORMULA) or self.settings.formula)

    def plan(self, profile: Profile, sent: Sequence[Sent] = ()) -> Plan:
        """The film on a model."""
        return plan(
            self.shots,
            profile,
            self.cast,
            self.knowledge,
            self.formula_of,
            sent,
            self.settings.in_clips,
        )


def _table(name: str) -> str:
    """The head of a table of TOML by a name: [iris], ["dr. iqbal"]."""
    return f"[{name}]" if re.fullmatch(r"[a-z0-9_-]+", name) else f"[{json.dumps(name)}]"


def takes_value(profile: Profile, name: str, value: str) -> bool:
    """Does a model take a value of a parameter?"""
    parameter = profile.parameter.get(name)
    return parameter is not None and not value_of(parameter, value)[1]


def film_knowledge() -> FilmKnowledge:
    """What a film takes for granted."""
    return read_knowledge(read_text(SHIPPED / FILM_DATA, "what films assume"), FILM_DATA)


class FilmPrompts:
    """A film on one model, its stills on another. `made` are its prompts in the order in which they
    can be made, `wrong` what could not be written, by clip.
    """

    def __init__(
        self,
        film: Film,
        profile: Profile,
        stills: Profile,
        sent: Mapping[str, Sequence[Sent]] = {},
        today: date | None = None,
    ):
        self.film, self.profile, self.stills = film, profile, stills
        self.today = (today or date.today()).isoformat()
        self.plan = film.plan(profile, sent.get(profile.name, ()))
        self.wrong: list[Finding] = []
        self.made: list[FilmPrompt] = []
        self._of_scene: dict[
            tuple[str, str], Fill
        ] = {}  # what was picked for a scene, by scene and facet
        self._done: dict[str, set[str]] = {}  # the deeds of a scene
        for number, planned in enumerate(self.plan.clips):
            self._clip(number, planned)

    @property
    def findings(self) -> list[Finding]:
        """Everything there is to report on the plan, in the order of the shots: of the list first,
        then of the time.
        """
        order = {shot.name: i for i, shot in enumerate(self.film.shots.shots)}
        every = [
            *self._untaken(),
            *self.film.unknown,
            *self.film.continuity,
            *self.plan.findings,
        ]
        return sorted(
            every,
            key=lambda f: order.get(
                f.place.rpartition("/")[0] if f.place.count("/") > 1 else f.place, len(order)
            ),
        )

    @property
    def beside(self) -> list[str]:
        """What of ambience and music lies on tracks of its own and is in no prompt."""
        return [
            column
            for column in (Col.AMBIENCE, Col.MUSIC)
            if column not in self.film.settings.in_clips
            and any(shot.cells.get(column) for shot in self.film.shots.shots)
        ]

    def _untaken(self) -> list[Finding]:
        """The film's ratio and rate, where a model does not make them."""
        settings, first = self.film.settings, self.film.shots.shots[:1]
        place = first[0].name if first else ""
        found = []
        stills = [self.stills] if any(one.first or one.last for one in self.plan.clips) else []
        for profile in (self.profile, *stills):
            if settings.ratio and profile.name and "ratio" not in self._asked(profile):
                makes = profile.parameter.get("ratio")
                own = f"it makes {', '.join(map(str, makes.values))}" if makes else "it takes none"
                found.append(
                    Finding(
                        WARNING,
                        f"{profile.name} does not make the film's ratio {settings.ratio}: {own}",
                        "choose another model, or crop in the edit",
                        place,
                        code="other-ratio",
                    )
                )
        if (
            settings.clock.rate.given
            and "rate" in self.profile.parameter
            and "rate" not in self._asked(self.profile, rate=True)
        ):
            found.append(
                Finding(
                    REMARK,
                    f"{self.profile.name} does not make {settings.clock.rate.number:.6g}"
                    " frames a second",
                    "convert the clips in the edit",
                    place,
                    code="other-rate",
                )
            )
        return found

    def _clip(self, number: int, planned: PlannedClip) -> None:
        """The stills of a clip and the clip itself."""
        needs: list[dict[str, str]] = []
        references: list[Reference] = []
        for role, shot, column in (
            (FIRST_ROLE, planned.first, Col.FIRST),
            (LAST_ROLE, planned.last, Col.LAST),
        ):
            if shot is None:
                continue
            name = f"{shot.name} {role}"
            self._still(name, role, shot, column, planned)
            needs.append(
                {"role": role, "of": name, "what": "picture", "file": frame_file(shot.name, role)}
            )
            references.append(Reference(role, frame_file(shot.name, role), "path"))
        if planned.follows is not None and FIRST_ROLE in self.profile.reference:
            before = self.plan.clips[planned.follows]
            same = before.last  # the still that the clip before ends on
            file = frame_file(same.name, LAST_ROLE) if same else frame_file(before.name, "end")
            needs.append(
                {
                    "role": FIRST_ROLE,
                    "of": f"{same.name} {LAST_ROLE}" if same else before.name,
                    "what": "picture" if same else "last picture",
                    "file": file,
                }
            )
            references.append(Reference(FIRST_ROLE, file, "path"))
        moving = (
            any(reference.role == FIRST_ROLE for reference in references)
            and len(planned.views) == 1
        )
        formula = self.film.formula_of(planned.views[0].shot)
        if planned.first and planned.last and moving and not self._names_frames(formula):
            formula = self.film.formula(BETWEEN)
        seconds = planned.clip.seconds
        parameters = self._asked(self.profile, rate=True)
        if "seconds" in self.profile.parameter:
            parameters["seconds"] = f"{seconds:g}"
        manner = Manner(
            parameters=parameters,
            references=references,
            lengths=[part.seconds for part in planned.clip.parts] if len(planned.views) > 1 else [],
        )
        refused = next(
            filter(
                None,
                (
                    self.film.cast.refused(shot, self.profile.name, self.today)
                    for shot in planned.shots
                ),
            ),
            "",
        )
        stills = [
            column
            for column, shot in ((Col.FIRST, planned.first), (Col.LAST, planned.last))
            if shot
        ]
        self._write(
            planned.name,
            "clip",
            planned,
            formula,
            self.profile,
            planned.views,
            manner,
            (moving, "", stills),
            needs,
            refused,
        )

    def _asked(self, profile: Profile, rate: bool = False) -> dict[str, str]:
        """The film's ratio, and its rate, as far as a model takes them."""
        settings = self.film.settings
        found: dict[str, str] = {}
        if settings.ratio and takes_value(profile, "ratio", settings.ratio):
            found["ratio"] = settings.ratio
        number = (
            f"{settings.clock.rate.number:g}" if settings.clock.rate.exact.denominator == 1 else ""
        )
        near = number or str(settings.clock.rate.count)
        if rate and settings.clock.rate.given and takes_value(profile, "rate", near):
            found["rate"] = near
        return found

    @staticmethod
    def _names_frames(formula: Formula) -> bool:
        return {"start", "end"} <= {rule.name for rule in formula.slots}

    def _still(self, name: str, role: str, shot: Shot, column: str, planned: PlannedClip) -> None:
        formula = self.film.formula(STILL_FORMULAS[column])
        refused = self.film.cast.refused(shot, self.stills.name, self.today)
        self._write(
            name,
            role,
            planned,
            formula,
            self.stills,
            [View(shot)],
            Manner(parameters=self._asked(self.stills)),
            (False, column, []),
            [],
            refused,
        )

    def _write(
        self,
        name: str,
        kind: str,
        planned: PlannedClip,
        formula: Formula,
        profile: Profile,
        views: Sequence[View],
        manner: Manner,
        how: tuple[bool, str, Sequence[str]],
        needs: Sequence[dict[str, str]],
        refused: str,
    ) -> None:
        """Write one prompt; if that can't be done, say why."""
        shots = [view.shot for view in views]
        handles, people, told = self._people(shots, profile)
        wording = Wording(
            self.film.shape(formula),
            profile,
            self.film.workspace.vocabulary,
            self.film.cast,
            self.film.knowledge,
            handles,
            self.film.settings.in_clips,
        )
        words = clip_words(wording, views, *how)
        manner = manner._replace(references=[*people, *manner.references])
        writer = Writer(words.formula, profile, self.film.workspace.vocabulary, manner)
        try:
            fills = self._fills(writer, words, wording, views, how)
            prompt = writer.write(fills)
        except (BadFills, TooLong) as bad:
            found = (
                bad.findings
                if isinstance(bad, BadFills)
                else [
                    Finding(
                        ERROR,
                        str(bad),
                        "say less in the list, or choose a model with more room",
                        "text",
                        code="too-long",
                    )
                ]
            )
            fill = "fill size, who, action or setting"
            self.wrong += [
                one._replace(
                    place=name, remedy=fill if one.code == "nothing-filled" else one.remedy
                )
                for one in found
            ]
            return
        found = [*told, *(one for one in writer.findings(fills, prompt) if one.code not in OURS)]
        if refused:
            found.append(
                Finding(
                    ERROR, refused, "until then the shot will not be sent", name, code="no-consent"
                )
            )
        self.made.append(
            FilmPrompt(
                name, kind, planned, writer, fills, prompt, tuple(found), tuple(needs), refused
            )
        )

    def _people(
        self, shots: Sequence[Shot], profile: Profile
    ) -> tuple[dict[str, str], list[Reference], list[Finding]]:
        """By what the model takes the people of a clip beside or in place of their words: handles
        by name, references, and what there is to say of those who find no room.
        """
        handles: dict[str, str] = {}
        references: list[Reference] = []
        counts: dict[str, int] = {}
        found: list[Finding] = []
        for name in dict.fromkeys(name for shot in shots for name in shot.who):
            reference = self.film.cast.reference(name, profile)
            if not reference:
                continue
            if counts.get(reference.role, 0) >= profile.reference[reference.role].most:
                message = (
                    f"{profile.name} takes {profile.reference[reference.role].most} by reference,"
                    f" and {name} is one too many, so words describe them instead"
                )
                found.append(
                    Finding(
                        REMARK,
                        message,
                        "leave somebody out, or split the shot in two",
                        shots[0].name,
                        code="references-too-many",
                    )
                )
                continue
            counts[reference.role] = counts.get(reference.role, 0) + 1
            references.append(reference)
            if handle := self.film.cast.handle(name, profile):
                handles[name.lower()] = handle
        return handles, references, found

    def _fills(
        self,
        writer: Writer,
        words: ClipWords,
        wording: Wording,
        views: Sequence[View],
        how: tuple[bool, str, Sequence[str]],
    ) -> list[Fill | None]:
        """The fills of a clip, with picks where the list says pick."""
        fills = self._given(writer, words)
        asked = {
            slot
            for slot, text in words.given.items()
            if text == PICK
            and writer.rules[writer.position[slot]].facet in self.film.workspace.vocabulary
        }
        for number, view in enumerate(views if asked else (), 1):
            for slot, fill in self._picked(wording, view, how).items():
                name = slot if number == 1 else f"{slot}-{number}"
                if name in asked:
                    seen = fill in fills and writer.rules[writer.position[name]].facet == "subject"
                    fills[writer.position[name]] = self._in_short(fill) if seen else fill
        return fills

    @staticmethod
    def _given(writer: Writer, words: ClipWords) -> list[Fill | None]:
        """The fills of what the list gives."""
        fills = writer.fills(
            {
                slot: "" if text == PICK else text
                for slot, text in words.given.items()
                if slot in writer.position
            }
        )
        for slot, fill in words.fills.items():
            if slot in writer.position:
                fills[writer.position[slot]] = fill
        return fills

    def _picked(
        self, wording: Wording, view: View, how: tuple[bool, str, Sequence[str]]
    ) -> dict[str, Fill]:
        """What is picked for one shot by itself, by slot, so a pick does not depend on the clip
        that the shot is in. What a scene has had picked stays; the deed goes on from the last.
        """
        shot, words = view.shot, clip_words(wording, [view], *how)
        writer = Writer(words.formula, wording.profile, wording.vocabulary, Manner())
        fills = self._given(writer, words)
        own = {
            slot: writer.position[slot]
            for slot, text in words.given.items()
            if text == PICK and writer.rules[writer.position[slot]].facet in wording.vocabulary
        }
        for at in own.values():
            fills[at] = self._of_scene.get((shot.scene, writer.rules[at].facet))
        if left := [slot for slot, at in own.items() if fills[at] is None]:
            chooser = Chooser(self.film.workspace, writer, self.film.taste)
            done = self._done.setdefault(shot.scene, set())
            random = chooser.random(shot.name)
            picked = chooser.pick(fills, left, random, turn=number_of(shot.name), done=done)
            fills, told = chooser.insisted(picked, left, random)
            self.wrong += [one._replace(place=shot.name) for one in told]
            done |= {
                item.words
                for rule, fill in zip(writer.rules, fills, strict=True)
                if fill and rule.facet in COLUMNS[Col.ACTION].facets
                for item in fill.items
            }
        picks = {slot: fill for slot, at in own.items() if (fill := fills[at])}
        self._of_scene |= {
            (shot.scene, facet): fill
            for slot, fill in picks.items()
            if (facet := writer.rules[own[slot]].facet) in OF_SCENE
        }
        return picks

    def _in_short(self, somebody: Fill) -> Fill:
        """Somebody who was picked, as they are called where the clip has described them: the
        postwoman.
        """
        items = [
            item._replace(words=self.film.cast.short(item.words), number="name", term=None)
            for item in somebody.items
        ]
        return somebody._replace(items=tuple(items))

    def records(self) -> list[dict[str, Any]]:
        """The records of all prompts, each with what it is in the film."""
        found = []
        ids: dict[str, str] = {}
        for made in self.made:
            record = Recorder(made.writer, made.fills).record(made.prompt, findings=made.findings)
            ids[made.name] = str(record["id"])
            film = self._film(made)
            if made.needs:
                film["needs"] = [
                    {**need, **({"id": ids[need["of"]]} if need["of"] in ids else {})}
                    for need in made.needs
                ]
            found.append({**record, "film": film})
        return found

    def _film(self, made: FilmPrompt) -> dict[str, Any]:
        """What one prompt is in the film: its name, kind, scene, shots with their times, seconds,
        takes.
        """
        planned, film = made.planned, self.film
        if made.kind != "clip":
            still: dict[str, Any] = {
                "title": film.settings.title,
                "name": made.name,
                "kind": "still",
                "scene": planned.views[0].shot.scene,
                "shots": made.name.rpartition(" ")[0],
                "file": made.file,
            }
            return (
                still
                | ({"pinned": True} if planned.clip.pinned else {})
                | ({"held": made.refused} if made.refused else {})
            )
        at, shots = 0.0, []
        where = {shot.name: i for i, shot in enumerate(film.shots.shots)}
        for part, view in zip(planned.clip.parts, planned.views, strict=True):
            time = self.plan.timings[where[view.shot.name]]
            shots.append(
                {
                    "shot": view.shot.name,
                    "from": round(at, 3),
                    "to": round(at + part.seconds, 3),
                    "atoms": [part.start, part.stop],
                    "key": key_of(view.shot, film.cast),
                    "said": list(spoken_in(view.shot, time, part.start, part.stop, film.cast)),
                }
            )
            at += part.seconds
        found: dict[str, Any] = {
            "title": film.settings.title,
            "name": made.name,
            "kind": "clip",
            "scene": planned.views[0].shot.scene,
            "shots": shots,
            "seconds": planned.clip.seconds,
            "takes": round(planned.clip.takes, 3),
        }
        if planned.clip.pinned:
            found["pinned"] = True
        if made.refused:
            found["held"] = made.refused
        return found


def sent_clips(records: Sequence[Mapping[str, Any]]) -> dict[str, list[Sent]]:
    """The clips of a film that were sent, by model, as the records of its prompts say. A record
    that says that it is removed or open was not. Raises Trouble.
    """
    found: dict[str, list[Sent]] = {}
    for number, record in enumerate(records, 1):
        found_film = Record(record).film
        film = found_film.values if found_film else {}
        if film.get("kind") != "clip" or record.get("status", "sent") in (
            "open",
            "removed",
            "approved",
        ):
            continue
        try:
            parts = tuple(
                (
                    str(s["shot"]),
                    str(s["key"]),
                    tuple(map(str, s["said"])),
                    (int(s["atoms"][0]), int(s["atoms"][1])),
                )
                for s in film["shots"]
            )
            sent = Sent(float(film["seconds"]), parts)
        except (KeyError, TypeError, ValueError, IndexError, OverflowError):
            raise Trouble(
                f"the key film of record {number} is not as film prompts writes it",
                "give the records as film prompts --out NAME.jsonl wrote them",
                1,
            ) from None
        if 0 < sent.seconds < LONGEST and all(
            0 <= start < stop for _, _, _, (start, stop) in parts
        ):
            found.setdefault(str(record.get("model", "")), []).append(sent)
    return found


def with_change(
    rows: Sequence[tuple[int, dict[str, str]]],
    shots: ShotList,
    place: str,
    text: str,
    headings: list[str],
) -> str:
    """Change one thing of a list that was read, in place: 3/12A/light, or 3/12A/2 for a line.
    Return what it was. Raises LookupError with what there is, if no such place exists.
    """
    name, _, what = place.rpartition("/")
    shot = shots.shot(name) if name else None
    if shot is None:
        raise LookupError(
            f"the list has no shot {name or place}: write 3/12A/light or 3/12A/2 (the second line)"
        )
    cells = next(cells for row, cells in rows if row == shot.row)
    column = "line" if what.isdigit() else column_of(what) or what
    heading = next((h for h in headings if (column_of(h) or h) == column), "")
    if what.isdigit():
        number = int(what)
        if not 1 <= number <= len(shot.lines):
            raise LookupError(f"{shot.name} has {len(shot.lines)} lines, so no line {number}")
        old = shot.lines[number - 1].text
        lines = [
            line._replace(text=text) if i == number - 1 else line
            for i, line in enumerate(shot.lines)
        ]
        cells[heading] = (
            text if len(lines) == 1 and cells[heading].strip() == old else cell_of(lines)
        )
        return old
    if not heading:
        heading = column
        headings.append(column)
    old = cells.get(heading, "")
    cells[heading] = text
    return old
