"""Situations: how files are read, which one a pick begins with, what it gives a formula; and those that ship, by machine."""

import re
from collections import Counter

import pytest

from syntagma.app.asked import Ask, Taste
from syntagma.app.composing.composer import Composer
from syntagma.app.families.family import Family
from syntagma.app.families.spec import FamilySpec, read_vary
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.rights import against_children, rights
from syntagma.core.drafting.fills import Fill, item_of_text
from syntagma.core.picking.kinds import kind_of
from syntagma.core.picking.situations import DETAIL, FRAMING, nth, situations_of, turn_of
from syntagma.core.vocabulary.terms import normal
from syntagma.formats.table_in import read_situations

WORLD = Workspace.load()
SHIPPED = WORLD.every_situation()
COLUMNS = (
    "subject",
    "setting",
    "action",
    "then",
    "lighting",
    "seen",
    "world",
    DETAIL,
    FRAMING,
    "tags",
)
ROWS = [
    (
        2,
        (
            "baker",
            "in a bakery",
            "drawing a face in flour",
            "wiping it away",
            "oven glow",
            "hands face",
            "where: indoors",
            "a ring on the tap; a roll like a hedgehog",
            "loaves in rows",
            "work",
        ),
    ),
    (3, ("", "", "breaking a roll", "", "dawn light")),
    (4, ("", "on a step", "yawning", "", "street lamps", "face")),
]


def pick(formula, draw, given=None, **taste):
    return Composer(WORLD, Ask(formula, taste=Taste(draw=draw, **taste), pick=True)).compose(
        given or {}
    )


def test_a_file_of_situations():
    (baker,), wrong = situations_of(COLUMNS, ROWS)
    first, second, third = baker.moments
    assert (
        not wrong and baker.facet == "subject" and baker.lead == "baker" and baker.tags == {"work"}
    )
    assert (
        first.words
        == {"setting": "in a bakery", "action": "drawing a face in flour", "lighting": "oven glow"}
        and first.then == "wiping it away"
    )
    assert (
        first.world == "where: indoors; extent: figure half; body: still seated lying"
    )  # what shows both hands and face
    assert first.details == ("a ring on the tap", "a roll like a hedgehog") and first.framings == (
        "loaves in rows",
    )
    assert (
        second.words["setting"] == "in a bakery"
        and second.details == ()
        and third.words["setting"] == "on a step"
    )


@pytest.mark.parametrize(
    ("row", "said"),
    [
        (("", "in a yard"), "it has no subject"),
        (("baker", "in a yard", "x", "", "", "elbow"), "“elbow” can't be shown of a person"),
    ],
)
def test_a_row_that_makes_none(row, said):
    found, wrong = situations_of(COLUMNS, [(2, row)])
    assert not found and said in str(wrong[0][1]) and wrong[0][1].remedy


def test_mistakes_name_their_line():
    _, (mistake,) = read_situations("subject,action\n,waiting\n", "own.csv", "own")
    assert (mistake.source, mistake.line) == ("own.csv", 2)


def test_the_order_is_the_same_each_time_and_another_for_each_call():
    def names(asked):
        return [one.name for one in sorted(SHIPPED, key=lambda one: turn_of(one, asked))]

    assert names("photograph") == names("photograph") != names("poster")
    assert all(turn_of(one, "photograph", early=True) < 2**47 for one in SHIPPED)
    assert [nth("abc", turn, "x") for turn in range(4)][:3] != ["a", "a", "a"] and nth(
        "", 1
    ) is None


def test_a_pick_begins_with_a_situation():
    made = pick("photograph", 3)
    one = next(
        one
        for one in SHIPPED
        if normal(one.lead) == normal(made.record["fills"]["subject"])
        and any(m.words.get("action") == made.record["fills"]["action"] for m in one.moments)
    )
    moment = next(m for m in one.moments if m.words.get("action") == made.record["fills"]["action"])
    fills = made.record["fills"]
    assert (
        fills["setting"] == moment.words["setting"]
        and fills["light"] == moment.words["lighting"]
        and fills[DETAIL] in moment.details
        and fills[FRAMING] in moment.framings
    )
    assert (
        Composer(WORLD, Ask("photograph"))
        .compose({slot: text for slot, text in fills.items()})
        .prompt.text
        == made.prompt.text
    )  # the call says all of it


def test_what_a_situation_says_is_nobodys_slip():
    assert not [f for f in pick("photograph", 3).findings if "is not in" in f.message]
    assert [
        f
        for f in pick("photograph", 3, {"lens": "85 mm lense"}).findings
        if "is not in lens" in f.message
    ]


def test_sixty_draws_show_sixty_situations_and_each_formula_its_own():
    shown = [pick("photograph", draw).record["fills"] for draw in range(1, 61)]
    assert len({(one["subject"], one["setting"]) for one in shown}) >= 58
    lights = Counter(one.get("light") for one in shown)
    assert max(lights.values()) <= 5
    alike = sum(
        pick("picture", draw).record["fills"]["subject"] == one["subject"]
        for draw, one in enumerate(shown[:20], 1)
    )
    assert alike <= 3


def test_first_and_last_frame_of_one_draw_are_one_clip():
    for draw in range(1, 25):
        first, last = (pick(name, draw).record["fills"] for name in ("first-frame", "last-frame"))
        assert (
            first["subject"] == last["subject"]
            and first.get("setting") == last.get("setting")
            and first["start"] != last["end"]
        )


def test_a_last_frame_names_what_the_first_one_introduced():
    assert (
        pick("last-frame", 1, {"subject": "auctioneer"}).record["fills"]["end"]
        == "knocking a stuffed pike down to himself"
    )


@pytest.mark.parametrize(
    ("given", "kept"),
    [
        ({"subject": "piano tuner"}, {"subject": "piano tuner"}),
        (
            {"setting": "in a launderette"},
            {"setting": "in a launderette", "subject": "young father"},
        ),
    ],
)
def test_what_is_given_chooses_the_situation(given, kept):
    fills = pick("photograph", 1, given).record["fills"]
    assert all(fills[slot] == text for slot, text in kept.items())
    assert any(
        one.lead == fills["subject"]
        and any(m.words.get("action") == fills["action"] for m in one.moments)
        for one in SHIPPED
    )


def test_where_all_situations_of_a_place_have_come_others_are_there():
    leads = [
        pick("photograph", draw, {"setting": "in a launderette"}).record["fills"]["subject"]
        for draw in range(1, 9)
    ]
    assert len(set(leads)) > 2 and leads.count(leads[0]) == 2  # two moments


@pytest.mark.parametrize(
    ("varied", "alike"),
    [
        (["light:4"], "subject action setting telling-detail"),
        (["subject=baker,judge,my aunt Vera"], "action setting light"),
        (["lens:3", "light:2"], "subject action setting"),
    ],
)
def test_the_base_of_a_family_is_a_situation_that_goes_with_all_of_it(varied, alike):
    family = Family(WORLD, FamilySpec("photograph", vary=tuple(map(read_vary, varied)), pick=True))
    members = [member.prompts[0] for member in family.members()]
    slots = family.compiled.writer.position
    fills = family.compiled.fills
    assert len(members) > 2 and all(fills[slots[slot]] for slot in alike.split())
    deed = fills[slots["action"]].shown
    assert any(
        m.words.get("action") == deed and m.words.get("setting") == fills[slots["setting"]].shown
        for one in SHIPPED
        for m in one.moments
    )
    own = [
        m.words.get("lighting")
        for one in SHIPPED
        for m in one.moments
        if m.words.get("action") == deed
    ]
    assert (
        fills[slots["light"]].shown in own
    )  # the light that was written for it is the first choice


@pytest.mark.parametrize(
    ("subject", "kind"),
    [
        ("tax inspector", "#person"),
        ("my aunt Vera", "#person"),
        ("Mara Quill", "#person"),
        ("two lawyers", "#group"),
        ("a jazz band", "#group"),
        ("the mayor's wife", "#person"),
        ("a hippo called Gus", "#animal"),
        ("golden retriever", "#animal"),
        ("my neighbour's parrot", "#bird"),
        ("a red convertible", "#vehicle"),
        ("saxophone", "#thing"),
        ("an old windmill", "#building"),
        ("two foxes", "#animals"),
        ("a flock of flamingos", "#birds"),
        ("a delivery drone", "#aircraft"),
        ("a newborn baby", "#baby"),
        ("a steam train", "#train"),
        ("a group of monks", "#group"),
        ("a gang of thieves", "#group"),
        ("two spies", "#group"),
        ("an influencer", "#person"),
        ("little Tom", "#person"),
        ("a data scientist", "#person"),
        ("goldfish", "#fish"),
        ("humpback whale", "#fish"),
        ("a wedding cake", "#thing"),
        ("a fire engine", "#vehicle"),
        ("a stone bridge", ""),
    ],
)
def test_whoever_has_no_situation_has_one_of_anybody(subject, kind):
    term = WORLD.vocabulary["subject"].get(subject)
    item = item_of_text(subject, term)
    assert kind_of(Fill(subject, (item,)), WORLD.vocabulary) == kind
    fills = pick("photograph", 2, {"subject": subject}).record["fills"]
    of_anybody = {m.words["action"] for one in SHIPPED if one.lead == kind for m in one.moments}
    assert fills["subject"] == subject and (fills.get("action") in of_anybody) == bool(
        of_anybody
    ) == (DETAIL in fills)
    assert kind or "action" not in fills  # who knows what a bridge would do?


@pytest.mark.parametrize(
    ("subject", "leads"),
    [
        ("a baker", {"night-shift baker"}),
        ("a fox", {"red fox"}),
        ("an old shepherd", {"shepherd"}),
        ("a musician", {"bagpiper", "orchestra", "street musician", "organist"}),
        ("a judge", set()),
    ],
)
def test_whoever_has_situations_begins_with_those(subject, leads):
    own = [m.words.get("action") for one in SHIPPED if one.lead in leads for m in one.moments]
    deeds = [
        pick("photograph", draw, {"subject": subject}).record["fills"]["action"] for draw in (1, 2)
    ]
    assert (
        set(deeds) <= set(own)
        if own
        else not set(deeds)
        & {m.words["action"] for one in SHIPPED for m in one.moments if "action" in m.words}
    )


@pytest.mark.parametrize(
    ("subject", "place"),
    [
        ("a goldfish in a bowl", True),
        ("a castle on a hill", True),
        ("an elephant in a library", True),
        ("a nurse in a yellow raincoat", False),
        ("a man in a hurry", False),
    ],
)
def test_whoever_says_where_they_are_is_nowhere_else(subject, place):
    for draw in (1, 2, 3):
        fills = pick("photograph", draw, {"subject": subject}).record["fills"]
        assert ("setting" not in fills) == place


@pytest.mark.parametrize("subject", ["an old sailor rowing out to sea", "a boy holding a kite"])
def test_whoever_says_what_they_do_does_nothing_else(subject):
    for draw in range(1, 6):
        assert {"action", "setting", "telling-detail"}.isdisjoint(
            pick("photograph", draw, {"subject": subject}).record["fills"]
        )


def test_of_what_nothing_is_known_only_the_way_of_seeing_is_picked():
    for subject in ("a roller coaster", "a waterfall"):
        assert pick("photograph", 3, {"subject": subject}).record["fills"].keys() <= {
            "kind",
            "subject",
            "lens",
            "flaw",
        }


@pytest.mark.parametrize(
    ("hero", "leads"),
    [
        ("a little girl with braces", {"#person"}),
        ("a violin", {"#thing"}),
        ("piano tuner", {"piano tuner"}),
    ],
)
def test_a_page_for_animals_takes_another_hero(hero, leads):
    fills = pick("storybook", 2, {"hero": hero}).record["fills"]
    assert fills["hero"] == hero and fills["action"] in {
        m.words["action"] for one in SHIPPED if one.lead in leads for m in one.moments
    }


def test_those_of_anybody_come_to_nobody_else():
    named = [pick("photograph", draw).record["fills"]["subject"] for draw in range(1, 30)]
    assert not [one for one in named if one.startswith("#")]
    assert pick("photograph", 1, {"subject": "piano tuner"}).record["fills"]["action"] in {
        m.words["action"] for one in SHIPPED if one.lead == "piano tuner" for m in one.moments
    }


def test_themes_choose_among_situations():
    night = [pick("photograph", draw, themes=("night",)).record["fills"] for draw in range(1, 7)]
    assert all(not re.search(r"\b(?:noon|midday|afternoon)\b", str(one)) for one in night)


def test_a_realistic_photograph_shows_nothing_imagined():
    imagined = {one.lead for one in SHIPPED if "imagined" in one.tags}
    assert (
        imagined
        and not {pick("photograph", draw).record["fills"]["subject"] for draw in range(1, 40)}
        & imagined
    )


@pytest.mark.parametrize("one", SHIPPED, ids=lambda one: one.name[:40])
def test_each_that_ships(one):
    for moment in one.moments:
        WORLD.vocabulary.dimensions.world(moment.world)  # raises where it can't be read
        texts = [one.lead, *moment.words.values(), moment.then, *moment.details, *moment.framings]
        assert all(
            text == text.strip()
            and not re.search(r"  |[.,;:]$|\b(?:a|an|the) (?:a|an|the)\b|\ba [aeio]", text)
            for text in texts
            if text
        ), texts
        said = ", ".join(texts)
        assert not against_children(said) and not rights(said), said
        assert not re.match(r"(?:a|an|the) ", one.lead)
        if "setting" in moment.words and "action" in moment.words:
            assert not re.search(
                r"\b(?:in|on|at|under|beside|above) (?:an?|the|one) [\w' -]*"
                + re.escape(moment.words["setting"].split()[-1])
                + r"\b",
                moment.words["action"],
            ), moment
        if "setting" in moment.words and one.facet != "setting":
            assert (
                moment.words["setting"].split()[0]
                in "in on at under by beside behind above over outside inside along around beneath among round between off".split()
            ), moment.words["setting"]


CHILD = re.compile(
    r"\b(?:child|children|boys?|girls?|schoolchildren|schoolboy|bab(?:y|ies)|twins|toddler|pupils?|grandchild|daughter|son)\b"
)
NEVER = re.compile(
    r"\b(?:blood\w*|wounds?|wounded|bruises?|injur\w+|broken arm|cigar\w*|smoking|tobacco|naked|nude|undress\w*|topless|lingerie|seduc\w+|kissing)\b"
)
ARMS = re.compile(
    r"\b(?:rifles?|pistols?|guns?|revolvers?|grenades?|bombs?|machetes?|daggers?|bullets?|stabbing|execution|corpse)\b"
)
READ = [
    *(
        " ".join([one.lead, *moment.words.values(), moment.then, *moment.details, *moment.framings])
        for one in SHIPPED
        for moment in one.moments
    ),
    *(
        " ".join((term.term, term.phrase, term.place, term.clause, *term.does, *term.carries))
        for facet in WORLD.vocabulary
        for term in facet
        if term.picked != "no"
    ),
]


def test_no_pick_shows_a_child_hurt_or_armed_and_none_a_weapon():
    assert len(READ) > 3000 and not [
        text for text in READ if CHILD.search(text) and NEVER.search(text)
    ]
    assert not [text for text in READ if ARMS.search(text)]


def test_no_two_share_a_telling_detail():
    details = Counter(
        normal(text) for one in SHIPPED for moment in one.moments for text in moment.details
    )
    assert not [text for text, times in details.items() if times > 1]
    assert len(SHIPPED) >= 500 and len({one.name for one in SHIPPED if not one.formulas}) == sum(
        not one.formulas for one in SHIPPED
    )
