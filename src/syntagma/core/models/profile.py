"""The profile of one generator: its habits as data. Nothing in the program asks for a generator's
name.

The structures below are the definition: a file is validated against them (profile_file.py), and the
JSON Schema for editors is made from them (notation/validation.py). docs/reference/models.md says in
words what each key does.
"""

from typing import Annotated, Any, Literal

from syntagma.core.models.measure import LETTERS, Limit
from syntagma.core.notation.structure import Bounds, Structure

Media = Literal["image", "video", "both"]
Register = Literal["prose", "tags", "labelled", "nested", "timed"]
Whole = Annotated[int, Bounds(ge=1, le=10**9)]
Share = Annotated[float, Bounds(ge=0, lt=1)]
Value = str | int | float | bool


class TextHabits(Structure):
    """How the text is written."""

    register: Register = "prose"
    separator: str = ""
    final_stop: bool | None = None
    opening: str = ""
    closing: str = ""
    order: list[str] = []  # phrases by label or by facet, which come first, in this order
    case: Literal["kept", "lower", "upper"] = "kept"
    escape: str = ""  # the characters before which `escape_with` is put
    escape_with: str = "\\"
    replace: dict[str, str] = {}
    fixed: Literal["stays", "last", "goes"] = "stays"  # what becomes of fixed phrases


class LabelledHabits(Structure):
    """How labelled lines are written."""

    line: str = "{label}: {text}"
    between: str = "\n"
    case: Literal["kept", "sentence", "upper"] = "sentence"
    nested: str = " "  # what replaces the dots of a label
    names: dict[str, str] = {}  # a label, and what the model calls it


class NestedHabits(Structure):
    """How nested values are written."""

    values: Literal["terms", "prose"] = "terms"
    indent: Annotated[int, Bounds(ge=0, le=8)] = 0
    names: dict[str, str] = {}


class TimedHabits(Structure):
    """How segments with times are written."""

    segment: str = "[{from}–{to}s] {text}"
    between: str = "\n"
    clock: Literal["seconds", "minutes"] = "seconds"
    step: Annotated[float, Bounds(ge=0.001, le=3600)] = 0.5
    most: Whole = 12  # shots that one clip takes
    shortest: Annotated[float, Bounds(ge=0, le=3600)] = 1.0  # seconds of the shortest of them


ON = 1.2  # the weight that is meant where marks say only that there is some


class Stress(Structure):
    """How weight on words is written: {text} and {weight}, or {marks}, one mark a step; {text}
    alone between signs for weight that is on or off.
    """

    pattern: str
    per: Literal["phrase", "word"] = "phrase"
    range: tuple[float, float] = (0.5, 1.5)
    step: Annotated[float, Bounds(ge=0.001, le=10)] = 0.1
    more: str = "+"
    less: str = "-"
    outside: Literal["nearest", "off"] = "nearest"


class Negative(Structure):
    """Where the text that says what to keep out goes."""

    way: Literal["field", "inline", "parameter", "folded", "none"] = "field"
    pattern: str = "{negative}"
    separator: str = ", "
    parameter: str = "negative"


class Size(Structure):
    """The most of one text."""

    most: Whole
    unit: Literal["characters", "words", "tokens", "bytes"] = "characters"
    letters: Whole = LETTERS
    margin: Share = 0.0
    tokenizer: str = ""


class Limits(Structure):
    """The limits of the text, of the negative text, of all the pasted text (whole), and of the
    request.
    """

    text: Whole | Size | None = None
    negative: Whole | Size | None = None
    whole: Whole | Size | None = None
    request: Whole | Size | None = None
    reach: Whole | None = None  # the first words, which carry most of the weight


class Parameter(Structure):
    """A parameter of the generator, under the name that formulas use."""

    write: str = ""  # how it is spelled after the text: "/ratio {value}"
    field: str = ""  # its name in the request, if that is another
    type: Literal["text", "integer", "number", "flag"] = "text"
    values: list[Value] = []
    range: tuple[float, float] | None = None
    step: Annotated[float, Bounds(ge=1e-6)] | None = None
    default: Value | None = None
    omit_default: bool = False
    aliases: list[str] = []
    requires: list[str] = []
    excludes: list[str] = []
    spelled: dict[str, str] = {}
    at: Literal["after", "field", "both", ""] = ""
    about: str = ""


class Parameters(Structure):
    """Where parameters are written, unless one says otherwise."""

    at: Literal["after", "field", "both"] = "field"
    separator: str = " "
    before: str = " "  # between the text and the first


class Menu(Structure):
    """A setting of the model's that represents a choice of terms."""

    facet: str
    parameter: str
    terms: dict[str, Value]
    text: Literal["leaves", "stays"] = "leaves"


class Strength(Structure):
    """How strongly a reference counts."""

    range: tuple[float, float] = (0.0, 1.0)
    default: float | None = None
    write: str = ""


class ReferenceRole(Structure):
    """What the model takes for one role of references."""

    most: Whole = 1
    kinds: tuple[Literal["path", "address", "handle"], ...] = ("path", "address")
    at: Literal["front", "after", "place", "field"] = "field"
    write: str = "{value}{strength}"
    strength: Strength | None = None


class Sound(Structure):
    """Sound, and how it is written."""

    makes: bool = True
    pace: Annotated[float, Bounds(ge=0.1, le=20)] = 2.5  # words spoken in a second
    speech: str = ""  # {who}, {how}, {words}
    effect: str = ""  # {text}
    ambience: str = ""
    music: str = ""
    parameter: str = ""  # the parameter that switches sound
    adds_music: bool = False  # it puts music under a clip by itself, unless it is reported not to


class Rewriting(Structure):
    """The model writes prompts again by itself; `off` is what switches it off."""

    happens: bool = True
    off: dict[str, Value] = {}


class RefusedWords(Structure):
    """A word or a phrase, or a pattern, that the model refuses, and what may be in its place."""

    words: str = ""
    pattern: str = ""
    instead: str | None = None
    why: str = ""


class Factor(Structure):
    """What changes a price: a parameter that has a value."""

    parameter: str
    value: Value
    times: float = 1.0
    plus: float = 0.0


class Price(Structure):
    """What one generation costs."""

    amount: Annotated[float, Bounds(ge=0)]
    per: Literal["prompt", "picture", "second", "thousand-tokens"] = "prompt"
    currency: str = "credits"
    pictures: str = "pictures"  # the parameter that says how many pictures
    seconds: str = "seconds"
    factors: list[Factor] = []
    free: Annotated[int, Bounds(ge=0)] = 0  # prompts a day that cost nothing
    takes: Annotated[float, Bounds(ge=1, le=100)] = 1.0  # takes that one shot is likely to need
    tax: Annotated[float, Bounds(ge=0, le=1)] = 0.0  # what comes on top, as a share


Pointer = Annotated[str, Bounds(pattern=r"^(/.*)?$")]  # RFC 6901: where in a reply something is


class Call(Structure):
    """A call of the service: its method and its path behind the address, with {task},
    {reference}.
    """

    method: Literal["GET", "POST", "PUT", "DELETE", "PATCH"] = "GET"
    path: str = ""
    body: dict[str, Any] = {}  # what is sent beside or in place of the request


class Answer(Structure):
    """Where in its replies things are (JSON Pointers), and what its words mean."""

    task: Pointer = ""
    state: Pointer = ""
    progress: Pointer = ""  # 0 to 1, or 0 to 100
    results: Pointer = ""  # a list, or one
    address: Pointer = ""  # in a result: where it can be obtained
    data: Pointer = ""  # in a result: the file itself, as base64
    expires: Pointer = ""  # in a result, or in the answer: a date, or the seconds that are left
    charged: Pointer = ""
    wrong: Pointer = ""  # what is there says that it went wrong, whatever the status
    listed: Pointer = ""  # of a look-up: the list of tasks
    reference: Pointer = ""  # of a task: our own number; left out if it is where the request has it
    next: Pointer = ""  # of a list: what names its next page
    waiting: list[str] = []
    done: list[str] = []
    failed: list[str] = []
    refused: list[str] = []
    cancelled: list[str] = []


class Key(Structure):
    """An idempotency key: the header that it is in, and how many hours the service remembers it."""

    header: str = "Idempotency-Key"
    hours: Annotated[float, Bounds(gt=0, le=10_000)] = 24.0


class Service(Structure):
    """How the service of a generator is spoken to. A secret has no place here: a person binds one
    to the host of `address` themselves.
    """

    address: str
    headers: dict[str, str] = {}
    secret: str = "Authorization: Bearer {secret}"  # the header for a person's secret
    submit: Call = Call(method="POST", path="/")
    state: Call | None = None
    find: Call | None = None
    cancel: Call | None = None
    listed: Call | None = None
    reference: Pointer = ""  # where our own number of an attempt is in the request
    answer: Answer = Answer()
    key: Key | None = None
    at_once: Whole = 4
    a_minute: Whole = 60
    every: Annotated[float, Bounds(gt=0, le=3600)] = 2.0  # seconds between two looks at a task
    patience: Annotated[float, Bounds(gt=0, le=86400)] = (
        60.0  # seconds in which an answer has to come
    )
    turned_away: list[
        Annotated[int, Bounds(ge=400, le=599)]
    ] = []  # statuses with which the service promises that it took and charged nothing
    pictures: Literal["address", "data"] = "address"  # how pictures that are files here are sent


class Terms(Structure):
    """What may be done with results, as somebody read it on a day."""

    commercial: Literal["yes", "no", "unknown"] = "unknown"
    training: Literal["yes", "no", "unknown"] = "unknown"
    read: str = ""


class Profile(Structure):
    """What one generator takes. Every table can be left out."""

    name: str = ""
    base: str = ""
    without: list[str] = []  # what of the base it has not: "parameter.seed"
    about: str = ""
    media: Media = "both"
    text: TextHabits = TextHabits()
    labelled: LabelledHabits = LabelledHabits()
    nested: NestedHabits = NestedHabits()
    timed: TimedHabits = TimedHabits()
    stress: Stress | None = None
    negative: Negative = Negative()
    limits: Limits = Limits()
    parameters: Parameters = Parameters()
    parameter: dict[str, Parameter] = {}
    menu: dict[str, Menu] = {}
    reference: dict[str, ReferenceRole] = {}
    sound: Sound | None = None
    rewriting: Rewriting | None = None
    refused: list[RefusedWords] = []
    price: Price | None = None
    sizes: dict[str, tuple[Whole, Whole]] = {}
    request: dict[str, Any] = {}
    service: Service | None = None
    terms: Terms = Terms()
    counters: dict[str, Any] = {}  # by tokenizer file: what counts its tokens

    @property
    def register(self) -> str:
        return self.text.register

    @property
    def makes(self) -> str:
        """ "image", "video", or "" for both."""
        return "" if self.media == "both" else self.media

    @property
    def silent(self) -> bool:
        """Is it known to make no sound?"""
        return self.sound is not None and not self.sound.makes

    def limit(self, name: str) -> Limit | None:
        """One limit: text, negative, whole or request."""
        size = getattr(self.limits, name)
        if size is None:
            return None
        if isinstance(size, int):
            return Limit(size, "bytes" if name == "request" else "characters")
        return Limit(
            size.most, size.unit, size.letters, size.margin, self.counters.get(size.tokenizer)
        )

    @property
    def text_limit(self) -> Limit | None:
        return self.limit("text")

    @property
    def negative_limit(self) -> Limit | None:
        return self.limit("negative")


PLAIN = Profile()  # no generator in particular: prose without a limit
FORMS = {
    form: Profile(name=form, text=TextHabits(register=form)) for form in ("prose", "tags")
}  # a way of writing for no generator in particular
