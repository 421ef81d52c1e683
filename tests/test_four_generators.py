"""Four generators that nobody makes, each described on a page of prose (tests/generators/*.md) and put into a profile from that page
alone: no code, and exactly the strings that the page promises."""

import json
from pathlib import Path

import pytest

from syntagma.app.asked import Ask
from syntagma.app.composing.composer import Composer
from syntagma.app.families.family import Family
from syntagma.app.families.spec import FamilySpec, Vary
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.models.prices import cost
from syntagma.core.models.references import reference_of
from syntagma.core.writing.prompt import Manner
from syntagma.storage import folders

HERE = Path(__file__).parent / "generators"


@pytest.fixture(scope="module")
def workspace(tmp_path_factory):
    folder = tmp_path_factory.mktemp("generators")
    (folder / "models").mkdir()
    for file in HERE.glob("*.toml"):
        (folder / "models" / file.name).write_bytes(file.read_bytes())
    (folder / "known.toml").write_text('[pilot]\nwords = "a tall pilot"\nhandle = "@PILOT"\n')
    return Workspace(None, [*folders.layers(None)[:1], folders.Layer("workspace", folder)])


POSTER = {
    "medium": "linocut",
    "subject": "bell buoy",
    "setting": "open tidal sound",
    "light": "sodium quay lamps",
}
FILM = {
    "shot": "wide shot",
    "subject": "@pilot",
    "action": "checking a tide board",
    "setting": "wet quay",
    "speaker": "@pilot",
    "line": "She goes at six.",
    "ambience": "ticking clock",
}


def made(workspace, model, formula="poster", fills=POSTER, **manner):
    composer = Composer(workspace, Ask(formula, model, manner=Manner(**manner)), remarks=False)
    return composer.compose(fills)


def test_every_page_has_its_profile(workspace):
    assert {p.stem for p in HERE.glob("*.md")} <= set(workspace.models()) and len(
        list(HERE.glob("*.md"))
    ) == 4


@pytest.mark.parametrize(("parameters", "tail"), [
    ({}, "..P"), ({"ratio": "3:2", "copies": "3"}, "..L ..x3"), ({"ratio": "1:1", "pictures": "1"}, "..S"),
])  # fmt: skip
def test_lantern_press(workspace, parameters, tail):
    one = made(workspace, "lantern-press", parameters=parameters)
    assert one.prompt.text == (
        "PLEASE PRINT: A LINOCUT OF A BELL BUOY, ON AN OPEN TIDAL SOUND, LIT BY SODIUM QUAY LAMPS. BOLD SIMPLE SHAPES, CLEAR SPACE AT THE "
        f"TOP FOR LETTERING. [NOT: lettering, border] {tail}"
    )
    assert one.prompt.negative == "" and one.record["cost"]["amount"] == 0.5 * int(
        parameters.get("copies", 1)
    )


def test_lantern_press_bills_a_family(workspace):
    family = Family(
        workspace,
        FamilySpec(
            "poster",
            POSTER,
            [Vary("medium", ("linocut", "etching", "woodcut", "screen print"))],
            models=["lantern-press"],
        ),
    )
    assert len(list(family.members())) == 4
    assert [bill.shown() for bill in family.bills()] == [
        "lantern-press: 4 prompts, 2 crowns, or 2 days of its 3 free a day"
    ]


def test_ounce_tags(workspace):
    reference = reference_of("style=https://looks.example/a.png")
    one = made(workspace, "ounce-tags", fills={"medium": "linocut", "subject": "bell buoy", "weather": "storm-green afternoon", "light": "storm light"}, parameters={"seed": 7},
               stress={"medium": 1.5, "subject": 0.75, "light": 1.75}, references=(reference,))  # fmt: skip
    assert one.request == {
        "tags": "linocut++; bell buoy-; squall light; bold simple shapes, clear space at the top for lettering",
        "omit": "lettering, border", "options": {"shape": "2:3", "steps": 30, "seed": 7}, "style": [{"url": "https://looks.example/a.png", "force": 3}],
    }  # fmt: skip
    assert one.prompt.used <= 36 and one.prompt.dropped == ("weather",)


def test_tidal_film(workspace):
    one = made(
        workspace,
        "tidal-film",
        "film-shot",
        FILM,
        parameters={"seconds": 5},
        references=(reference_of("first-frame=quay.png"),),
    )
    text = '(0:00 to 0:05) Wide shot. @PILOT checking a tide board, on a wet quay. @PILOT> "She goes at six." *a clock ticks*.'
    assert one.prompt.text == text
    assert one.request == {
        "moments": text,
        "length": 5,
        "sound": True,
        "avoid": "subtitles, captions",
        "start": ["quay.png"],
    }
    assert one.record["cost"] == {"amount": 15, "currency": "shells"}
    profile = workspace.model("tidal-film")
    assert cost(profile, {"seconds": 10, "sound": False}, text) == pytest.approx(20)
    family = Family(
        workspace,
        FamilySpec(
            "film-shot", FILM, [Vary("setting", ("wet quay", "car deck"))], models=["tidal-film"]
        ),
    )
    assert {member.prompts[0].around.values["improve"] for member in family.members()} == {
        False
    }  # nothing improves a controlled family


def test_skerrow(workspace):
    sheet = made(workspace, "skerrow-sheet", parameters={"draft": "yes"})
    assert sheet.prompt.text == (
        "LEAD = a linocut of a bell buoy\nPLACE = on an open tidal sound\nCLOSING = bold simple shapes, clear space at the top for lettering\nLeave out lettering or border."
    )
    assert (
        sheet.prompt.around.values == {"lamp": 1, "draft": True}
        and sheet.record["cost"]["amount"] == 1
    )
    nested = made(workspace, "skerrow-nested")
    assert (
        nested.request == {"sheet": nested.prompt.text, "out": "lettering, border", "lamp": 1}
        and nested.record["cost"]["amount"] == 4
    )
    assert json.loads(nested.prompt.text) == {
        "lead": {"medium": "linocut", "subject": "bell buoy"}, "place": "open tidal sound", "closing": "bold simple shapes, clear space at the top for lettering"
    }  # fmt: skip
    both = made(workspace, "skerrow-sheet", parameters={"draft": "yes", "large": "yes"})
    assert [f.message for f in both.findings if f.kind == "error"] == [
        "draft and large exclude each other"
    ]
