"""Findings on a prompt written from a formula: on each phrase, on the whole text, and on every
prompt of the formula.
"""

from collections.abc import Iterable, Sequence
from functools import cached_property
from itertools import chain

from syntagma.core.checking import draft_checks as checks
from syntagma.core.diagnostics import REMARK, WARNING, Finding, perhaps
from syntagma.core.drafting.draft import lay_out
from syntagma.core.drafting.fills import Fill
from syntagma.core.drafting.sound import SPEECH, pace_findings, spoken_words
from syntagma.core.drafting.surroundings import Around
from syntagma.core.models.request_shape import shape_places
from syntagma.core.realising.request import unplaced_finding
from syntagma.core.vocabulary.world import Seat
from syntagma.core.writing.compiled import Compiled
from syntagma.core.writing.phrase_writer import Along, PhraseCache, PhraseWriter
from syntagma.core.writing.prompt import Prompt


class PromptFindings:
    """Looks over the prompts of a compiled formula. `always` holds for each of them."""

    def __init__(self, compiled: Compiled, phrases: PhraseWriter):
        self.compiled, self.phrases = compiled, phrases
        self.always = _always(compiled)
        self._notes = PhraseCache(
            [phrase.findings_key for phrase in compiled.phrases], self._of_phrase
        )
        self._speaks = any(phrase.sound == SPEECH for phrase in compiled.phrases)
        self._by_field = any(
            place.startswith(("text.", "words."))
            for _, place in shape_places(compiled.profile.request)
        )
        self._placed: tuple[Around, Finding | None] | None = None
        self._plain = not (self._speaks or compiled.silent or compiled.formula.head.settles)

    def along(self, fills: Sequence[Fill | None], positions: Sequence[int]) -> Along:
        """The findings on each phrase, from prompt to prompt, where the fills at `positions`
        change.
        """
        phrases = self.compiled.phrases
        next_ = [
            phrases[i + 1].positions if phrase.follower else () for i, phrase in enumerate(phrases)
        ]
        touched = {
            at: [i for i, phrase in enumerate(phrases) if at in phrase.positions or at in next_[i]]
            for at in positions
        }
        return Along(self._notes, fills, touched)

    def of(
        self,
        fills: Sequence[Fill | None],
        prompt: Prompt,
        notes: Iterable[list[Finding]] | None = None,
    ) -> list[Finding]:
        """The findings on a prompt written with these fills, the clashes of its terms and what
        always holds apart. `notes` is what can be said of each phrase, if that is known.
        """
        compiled, profile = self.compiled, self.compiled.profile
        found = list(chain.from_iterable(self._notes.all(fills) if notes is None else notes))
        if profile.request and (lost := self._unplaced(prompt)):
            found.append(lost)
        if self._plain and not prompt.fitted and not prompt.negative_dropped:
            return [*found, *prompt.around.findings]
        if settles := compiled.formula.head.settles:
            found += checks.settled_findings(settles, compiled.rules, fills)
        if prompt.fitted or prompt.negative_dropped:
            found += checks.fitting_findings(profile, prompt.fitted, prompt.negative_dropped)
        if compiled.silent and (
            unheard := [p.label for p in compiled.silent if lay_out(p, compiled.named(fills))]
        ):
            message = f"{profile.name} makes no sound: left out {', '.join(unheard)}"
            found.append(
                Finding(
                    WARNING,
                    message,
                    "choose a model with sound, or add sound afterwards",
                    "sound",
                    code="no-sound",
                )
            )
        found += prompt.around.findings
        if self._speaks and profile.sound and (seconds := self._seconds(prompt)):
            spoken = [
                line.text
                for i, p in enumerate(compiled.phrases)
                if p.sound == SPEECH and (line := self.phrases.line(i, fills))
            ]
            found += pace_findings(spoken_words(" ".join(spoken)), seconds, profile.sound.pace)
        return found

    def _unplaced(self, prompt: Prompt) -> Finding | None:
        """What of a prompt has no place in the model's request. Of prompts with the same round them
        it is the same, unless fields of their text are placed one by one.
        """
        if self._by_field or self._placed is None or self._placed[0] is not prompt.around:
            self._placed = (
                prompt.around,
                unplaced_finding(self.compiled.profile, prompt.around, prompt.words),
            )
        return self._placed[1]

    def clashes(self, fills: Sequence[Fill | None]) -> list[Finding]:
        """The terms among these fills that contradict each other; what is kept out of the picture
        contradicts nothing.
        """
        compiled, seats = self.compiled, self._seats
        named = {name: fill for name, fill in compiled.named(fills).items() if name in seats}
        things = [
            compiled.vocabulary.thing(seats[name], term)
            for name, fill in named.items()
            if fill
            for term in fill.terms
        ]
        return checks.clash_findings(named) + checks.world_findings(
            compiled.vocabulary.dimensions, [*compiled.granted, *things]
        )

    @cached_property
    def _seats(self) -> dict[str, Seat]:
        return self.compiled.seats

    def _of_phrase(self, i: int, fills: Sequence[Fill | None]) -> list[Finding]:
        phrase, profile, named = (
            self.compiled.phrases[i],
            self.compiled.profile,
            self.compiled.named(fills),
        )
        line = self.phrases.line(i, fills)
        text = line.text if line else ""
        found = checks.phrase_findings(phrase.phrase, phrase.follower, named, text)
        if profile.refused:
            said = [
                item.words
                for name in phrase.plan.slots
                if (fill := named[name])
                for item in fill.items
            ]
            found = (
                found
                + checks.refused_findings(profile, text)
                + checks.gentler_findings(profile, said)
            )
        return found

    def _seconds(self, prompt: Prompt) -> float | None:
        value = prompt.around.values.get(
            "seconds", self.compiled.formula.head.parameters.get("seconds")
        )
        return (
            float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None
        )


_ONE, _MANY = (
    {"image": "a still picture", "video": "a clip"},
    {
        "image": "still pictures",
        "video": "clips",
    },
)


def _always(compiled: Compiled) -> list[Finding]:
    """The findings on every prompt of this formula on this model."""
    formula, profile, found = compiled.formula, compiled.profile, list(compiled.style.findings)
    if formula.negatives and not compiled.negative.wanted:
        message = (
            f"{profile.name} takes no negative prompt: the formula's negative text is left out"
        )
        found.append(
            Finding(
                REMARK,
                message,
                "describe what you want to see instead",
                "negative",
                code="no-negative",
            )
        )
    if formula.head.media and profile.makes and formula.head.media != profile.makes:
        message = (
            f"this asks for {_ONE[formula.head.media]}, but {profile.name} makes"
            f" {_MANY[profile.makes]}"
        )
        found.append(
            Finding(
                WARNING,
                message,
                "choose a model that makes it, or another formula",
                "media",
                code="other-medium",
            )
        )
    known = {*compiled.position, *(p.label for p in formula.phrases)}
    for name in {**formula.head.stress, **compiled.manner.stress}:
        if name not in known:
            remedy = perhaps(name, known, f"the slots are {', '.join(compiled.position)}")
            found.append(
                Finding(
                    WARNING,
                    f"no slot and no phrase is called “{name}”, so it can't be stressed",
                    remedy,
                    name,
                    code="nothing-to-stress",
                )
            )
    return found
