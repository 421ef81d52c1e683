"""The parts of handing on by themselves: pictures brought to size, data sets looked over, packs read, plain words understood."""

import io
import json
import tomllib
import zipfile
from random import Random

import pytest
from PIL import Image

from syntagma.app.asked import Taste
from syntagma.app.handing_on.bundles import Delivery, contact_sheets, delivered
from syntagma.app.handing_on.campaign_made import fills_for
from syntagma.app.handing_on.campaigns import nearest_ratio, shape_of
from syntagma.app.handing_on.dataset import Prices, Tokens, _Seen, kept_fills, pays_after
from syntagma.app.handing_on.dataset_checks import _example, check, read_examples
from syntagma.app.handing_on.pack_file import Pack, read_pack, write_pack
from syntagma.app.handing_on.packs import Taker, make_pack, without_service
from syntagma.app.picking import Chooser, said_rules
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.campaign import Placement
from syntagma.core.diagnostics import Trouble
from syntagma.core.models import PLAIN
from syntagma.core.writing.prompt_writer import Writer
from syntagma.formats.metadata.pictures import said
from syntagma.formats.metadata.xmp import Properties
from syntagma.storage.library import Library

WORKSPACE = Workspace.load()


def picture(size=(60, 40), mode="RGB", kind="PNG", colour=(200, 40, 30), **options) -> bytes:
    image = Image.new(mode, size, colour if mode == "RGB" else (0, 0, 0, 0))
    if mode == "RGBA":
        image.paste((*colour, 255), (10, 10, 50, 30))
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def test_what_is_kept_teaches_only_where_its_terms_allow_that(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    there = Workspace.load(tmp_path)
    with Library(tmp_path).whole() as library:
        for n, (use, rating) in enumerate(
            [
                ("commercial: yes; training: yes", 5),
                ("training: no", 5),
                ("", 5),
                ("training: unknown", 5),
                ("training: yes", 2),
            ]
        ):
            (tmp_path / f"{n}.png").write_bytes(picture(colour=(n, 0, 0)))
            library.keep(
                tmp_path / f"{n}.png",
                {
                    "text": "x",
                    "formula": "poster",
                    "use": use,
                    "rating": rating,
                    "record": {"fills": {"subject": f"thing {n}", "mood": ["calm", "odd"]}},
                },
            )
    assert kept_fills(there, "poster", 4) == ([{"subject": "thing 0", "mood": "calm; odd"}], 3)
    assert kept_fills(there, "portrait", 0) == ([], 0)


def test_a_formula_brings_the_facets_along_that_only_this_workspace_has(tmp_path):
    for room in ("formulas", "vocabulary"):
        (tmp_path / room).mkdir()
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "formulas/jars.formula").write_text(
        "+++\n[slots]\nflower = { facet = 'my-flower' }\n+++\nlead  [a flower] in [setting as place]\n"
    )
    for facet in ("my-flower", "setting", "ghost"):
        (tmp_path / f"vocabulary/{facet}.csv").write_text(f"term\none {facet}\n")
    (tmp_path / "facets.toml").write_text(
        '[my-flower]\nparticipant = true\n\n[ghost]\nask = "Which ghost?"\n'
    )
    there = Workspace.load(tmp_path)
    packed, _ = make_pack(there, {"name": "p"}, ["jars"])
    assert sorted(packed.files) == [
        "facets.toml",
        "formulas/jars.formula",
        "vocabulary/my-flower.csv",
    ]
    assert tomllib.loads(packed.files["facets.toml"].decode()) == {
        "my-flower": {"participant": True}
    }
    assert sorted(make_pack(there, {"name": "p"}, ["setting"])[0].files) == [
        "vocabulary/setting.csv"
    ]
    assert "ghost" in make_pack(there, {"name": "p"})[0].files["facets.toml"].decode()
    (tmp_path / "facets.toml").write_text("[my-flower\n")
    with pytest.raises(Trouble, match=r"facets\.toml can't be read"):
        make_pack(Workspace.load(tmp_path), {"name": "p"}, ["jars"])


# Pictures brought to size


@pytest.mark.parametrize(
    ("wanted", "size", "mode", "corner"),
    [
        (Delivery(), (60, 40), "RGB", (200, 40, 30)), (Delivery((30, 30)), (30, 20), "RGB", (200, 40, 30)), (Delivery((120, 120)), (120, 80), "RGB", (200, 40, 30)), (Delivery((30, 30), fit="cover"), (30, 30), "RGB", (200, 40, 30)),
        (Delivery((30, 30), ground="#ffffff"), (30, 30), "RGB", (255, 255, 255)), (Delivery((30, 30), ground="transparent"), (30, 30), "RGBA", (0, 0, 0, 0)), (Delivery(ground="#000000"), (60, 40), "RGB", (200, 40, 30)), (Delivery((1, 1)), (1, 1), "RGB", (200, 40, 30)),
    ],
)  # fmt: skip
def test_a_picture_is_brought_to_size(wanted, size, mode, corner):
    made = delivered(picture(), wanted, None)
    with Image.open(io.BytesIO(made.data)) as image:
        assert (image.size, image.mode, image.getpixel((0, 0)), made.size) == (
            size,
            mode,
            corner,
            size,
        )
    assert made.ending == ".png"


@pytest.mark.parametrize(
    ("wanted", "times"),
    [
        (Delivery((30, 30)), 0.5),
        (Delivery((120, 120)), 2.0),
        (Delivery((60, 60), fit="cover"), 1.5),
        (Delivery(), 1.0),
    ],
)
def test_how_many_times_it_was_enlarged(wanted, times):
    assert delivered(picture(), wanted, None).times == pytest.approx(times)


@pytest.mark.parametrize(
    ("mode", "kind", "format", "ending", "told"),
    [("RGB", "JPEG", "", ".jpg", 0), ("RGB", "WEBP", "", ".webp", 0), ("RGBA", "PNG", "jpeg", ".jpg", 1), ("RGB", "PNG", "webp", ".webp", 0), ("RGB", "GIF", "", ".png", 0)],
)  # fmt: skip
def test_formats(mode, kind, format, ending, told):
    made = delivered(picture(mode=mode, kind=kind), Delivery(format=format), None)
    assert made.ending == ending and len(made.said) == told


def test_what_is_see_through_does_not_bleed_into_the_thing():
    made = delivered(picture(mode="RGBA", colour=(10, 200, 10)), Delivery((30, 20)), None)
    with Image.open(io.BytesIO(made.data)) as image:
        assert all(
            image.getpixel((x, y))[:3] == pytest.approx((10, 200, 10), abs=6)
            for x in range(30)
            for y in range(20)
            if image.getpixel((x, y))[3] > 90
        )


def test_a_prompt_stays_out_unless_it_is_asked_for():
    with_prompt = delivered(picture(), Delivery((20, 20)), Properties("a fox", "A red fox"))
    assert said(with_prompt.data).prompt == "A red fox"
    assert said(delivered(with_prompt.data, Delivery((10, 10)), None).data).prompt == ""
    turned = picture(size=(40, 20), kind="JPEG", exif=_turned())
    with Image.open(io.BytesIO(delivered(turned, Delivery(), None).data)) as image:
        assert image.size == (20, 40)  # as a camera means it


def _turned() -> bytes:
    exif = Image.Exif()
    exif[0x0112] = 6
    return exif.tobytes()


@pytest.mark.parametrize("data", [b"", b"nothing", picture()[:60]])
def test_what_is_no_picture_is_told(data):
    with pytest.raises(Trouble, match="a picture"):
        delivered(data, Delivery(), None)


@pytest.mark.parametrize(("number", "pages"), [(1, 1), (20, 1), (21, 2), (45, 3)])
def test_contact_sheets(number, pages):
    made = contact_sheets(
        [(f"a-rather-long-name-for-a-picture-{n}.png", picture()) for n in range(number)], "Title"
    )
    assert len(made) == pages and made == contact_sheets(
        [(f"a-rather-long-name-for-a-picture-{n}.png", picture()) for n in range(number)], "Title"
    )
    with Image.open(io.BytesIO(made[0])) as image:
        assert image.size == (1654, 2339) and image.convert("L").getextrema()[0] < 100


# Data sets looked over


@pytest.mark.parametrize(
    ("line", "asked", "answered", "split"),
    [
        ({"instruction": "a fox", "prompt": "A fox"}, "a fox", "A fox", ""), ({"input": "a", "output": "b c d", "split": "test"}, "a", "b c d", "test"), ({"request": "a", "completion": "b"}, "a", "b", ""),
        ({"messages": [{"role": "system", "content": "s"}, {"role": "user", "content": "a"}, {"role": "assistant", "content": "b"}]}, "a", "b", ""),
    ],
)  # fmt: skip
def test_lines_of_anybody(line, asked, answered, split):
    one = _example(line, "f:1", "data")
    assert (one.asked, one.answered, one.split) == (asked, answered, split)
    assert _example({"question": "a", "answer": "b"}, "f:1", "my-train").split == "train"


@pytest.mark.parametrize(
    "line",
    [
        [],
        "x",
        {},
        {"instruction": "a"},
        {"instruction": "", "prompt": "b"},
        {"instruction": 3, "prompt": "b"},
        {"messages": []},
        {"messages": [{"role": "user", "content": "a"}]},
        {"messages": [{"role": "user"}, {"role": "assistant", "content": "b"}]},
    ],
)
def test_lines_that_are_none(line):
    with pytest.raises(ValueError):
        _example(line, "f:1", "data")


A, B = (
    "A linocut of a car ferry easing off its berth, in a slack-water harbour, lit by sodium quay lamps",
    "An etching of a night purser punching a ticket, in a ticket office, lit by a single bare bulb",
)


@pytest.mark.parametrize(
    ("pairs", "kind", "what"),
    [
        ([("a", A), ("a", A)], "error", "the same pair twice"), ([("a", A), ("a", B)], "warning", "the same question twice, with different answers"), ([("a", A), ("b", A)], "warning", "the same answer twice"),
        ([("one", A), ("two", A.replace("its", "her"))], "warning", "answers that are nearly the same"), ([("please make me a picture of a ferry leaving the harbour at night", A), ("please make me the picture of a ferry leaving the harbour at night", B)], "warning", "questions that are nearly the same"),
        ([("a", "Sure, here you are: a fox")], "error", "the answer chats instead of giving a prompt"), ([("a", "fox")], "warning", "the answer has fewer than three words"), ([("a red fox in snow", "A red fox in snow.")], "warning", "the answer repeats the question"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_set(pairs, kind, what):
    found = check(
        [
            _example({"instruction": asked, "prompt": answered}, f"f:{n}", "x")
            for n, (asked, answered) in enumerate(pairs, 1)
        ],
        [],
        {},
    )
    assert (kind, what) in [(one[0], one[2]) for one in found.findings]
    clean = check(
        [
            _example({"instruction": q, "prompt": p}, f"f:{n}", "x")
            for n, (q, p) in enumerate([("make a ferry", A), ("a purser at work", B)])
        ],
        [],
        {},
    )
    assert not clean.findings


@pytest.mark.parametrize(
    ("train", "test", "what"),
    [
        ({"prompt": A}, {"prompt": A, "instruction": "else"}, "an answer of the test set is in the training set"), ({"prompt": A}, {"prompt": B}, "a question of the test set is in the training set"),
        ({"prompt": A}, {"prompt": A.replace("its", "her"), "instruction": "else"}, "an answer of the test set is nearly the same as one in training"),
        ({"prompt": A, "fills": {"subject": "Car Ferry"}}, {"prompt": B, "instruction": "else", "fills": {"subject": "car ferry"}}, "a subject of the test set is in the training set"),
    ],
)  # fmt: skip
def test_leaks(train, test, what):
    examples = [
        _example({"instruction": "a ferry", "split": split, **line}, f"{split}:1", "x")
        for split, line in (("train", train), ("test", test))
    ]
    assert what in [one[2] for one in check(examples, [], {}).findings]


def test_fixed_words_of_a_formula_are_counted():
    poster = WORKSPACE.formula("poster")[0]
    lines = [
        {
            "instruction": f"{n}",
            "prompt": f"A linocut of {n}. Bold simple shapes, clear space at the top for lettering"
            if n < 3
            else f"A linocut of {n}",
        }
        for n in range(4)
    ]
    found = check([_example(line, "f:1", "x") for line in lines], [], {"": poster})
    assert found.kept == [("bold simple shapes, clear space at the top for lettering", 3, 4)]
    assert found.lengths[0] == ("words asked", 1, 1, 1)


def test_broken_lines_have_their_number(tmp_path):
    (tmp_path / "d.jsonl").write_text('{"instruction": "a", "prompt": "b c d"}\n\n{broken\n[1]\n')
    examples, broken = read_examples([str(tmp_path / "d.jsonl")])
    assert (
        len(examples) == 1
        and [mistake.line for mistake in broken] == [3, 4]
        and all(mistake.remedy for mistake in broken)
    )
    (tmp_path / "none.jsonl").write_text("\n")
    with pytest.raises(Trouble, match="no example"):
        read_examples([str(tmp_path / "none.jsonl")])


@pytest.mark.parametrize(
    ("prices", "after"),
    [
        (Prices(8, 1, 3, 3, 1000), 80),
        (Prices(8, 3, 1, 3, 1000), None),
        (Prices(8, 1, None), None),
        (Prices(0, 1, 3, 3, 1000), 0),
    ],
)
def test_when_training_has_paid(prices, after):
    lines = [
        ("training", "", "160.00" if prices.training else "0.00"),
        ("use", "", "1000.00" if prices.use == 1 else "4000.00"),
        ("general", "", "3000.00"),
    ]
    assert pays_after(Tokens(), lines, prices) == after


def test_what_was_seen_is_known_within_a_bounded_room():
    seen, dice = _Seen(), Random(1)
    numbers = [dice.getrandbits(64) for _ in range(20_000)]
    seen.add(numbers)
    assert all(seen.any([number]) for number in numbers[::100])
    others = [dice.getrandbits(64) for _ in range(20_000)]
    assert sum(seen.any([number]) for number in others) < 5
    assert len(seen._signs) == 1 << 25


# Packs


def packed(files: dict[str, bytes], **more) -> bytes:
    out = io.BytesIO()
    write_pack(out, Pack({"name": "p", **more}, files))
    return out.getvalue()


def test_a_pack_reads_back_and_may_be_wrapped_otherwise():
    files = {
        "formulas/a.formula": b"+++\n+++\nlead  [a subject]\n",
        "vocabulary/lighting.csv": b"term\nglow\n",
        "known.toml": b'[moth]\nwords = "a dog"\n',
    }
    whole = packed(files, version=2, whose="us")
    pack = read_pack(whole, "p.zip")
    assert dict(pack.files) == files and (pack.said["version"], pack.said["whose"]) == ("2", "us")
    again = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as old, zipfile.ZipFile(again, "w") as new:
        for entry in old.infolist():
            new.writestr(
                entry.filename.partition("/")[2], old.read(entry)
            )  # without the folder round it
    assert dict(read_pack(again.getvalue(), "p.zip").files) == files


@pytest.mark.parametrize(
    ("text", "left", "off"),
    [
        ('about = "x"\n[service]\naddress = "y"\n[service.answer]\ntask = "z"\n\n[terms]\nread = "w"\n', ["about", "terms"], True), ('service = { address = "y" }\nabout = "x"\n', ["about"], True), ('about = "x"  # kept\n', ["about"], False),
    ],
)  # fmt: skip
def test_a_profile_without_its_service(text, left, off):
    import tomllib

    data, had = without_service(text)
    assert list(tomllib.loads(data.decode())) == left and had == off
    assert ("# kept" in data.decode()) == ("# kept" in text)


@pytest.mark.parametrize(
    ("files", "outcomes"),
    [
        ({"vocabulary/lighting.csv": b"term,number\nglow,\nbad,twelve\n,\n"}, [("terms of", "new")]), ({"vocabulary/lighting.csv": b"name\nglow\n"}, [("terms of", "left out")]), ({"vocabulary/lighting.csv": b"term,world\nglow,no such: thing\n"}, [("terms of", "left out")]),
        ({"formulas/a.formula": b"+++\n[slots\n+++\nlead  [a subject]\n"}, [("formula", "left out")]), ({"themes/a.toml": b"lean = 3\n"}, [("theme", "left out")]), ({"models/a.toml": b"nothing = 3\n"}, [("model", "left out")]), ({"plans/a.toml": b'formula = "poster"\n'}, [("plan", "new")]),
        ({"plans/a.toml": b"x = 1\n"}, [("plan", "left out")]), ({"known.toml": b'[a]\nwords = "b"\n[c]\nwords = "d"\nperson = "real"\n'}, [("cast", "new"), ("cast", "left out")]), ({"facets.toml": b'[ghost]\nparticipant = true\n'}, [("facet", "new")]),
        ({"known.toml": b"[a\n"}, [("cast", "left out")]), ({"formulas/poster.formula": b"+++\n+++\nlead  [a subject]\n"}, [("formula", "new")]),
    ],
)  # fmt: skip
def test_what_taking_a_pack_means(tmp_path, files, outcomes):
    (tmp_path / "syntagma.toml").write_text("")
    workspace = Workspace(tmp_path)
    pack = read_pack(packed(files), "p.zip")
    looked = Taker(workspace, pack, write=False).take()
    assert not [p for p in tmp_path.rglob("*") if p.is_file() and p.name != "syntagma.toml"]
    taken = Taker(workspace, pack).take()
    assert (
        [(one.kind, one.outcome) for one in taken]
        == outcomes
        == [(one.kind, one.outcome) for one in looked]
    )
    again = Taker(Workspace(tmp_path), pack).take()
    assert {one.outcome for one in again} <= {"the same", "left out"}


# Plain words


@pytest.mark.parametrize(
    ("words", "world"),
    [("in a harbour at night", "hour: night"), ("on the deck of a night ferry", "hour: night"), ("a night purser", ""), ("on a quay at dawn", "hour: dawn before-dawn"), ("in a small lamp room", "where: indoors"), ("in the rain", "sky: rain"), ("a rain-proof coat", ""), ("at a kitchen table", "where: indoors"), ("in a field", "")],
)  # fmt: skip
def test_what_plain_words_take_for_granted(words, world):
    assert [of for pattern, of in said_rules() if pattern.search(words)] == (
        [world] if world else []
    )
    for _, of in said_rules():
        WORKSPACE.vocabulary.dimensions.world(of)  # each is one that there is


def test_picks_keep_to_plain_words():
    writer = Writer(WORKSPACE.formula("photograph")[0], PLAIN, WORKSPACE.vocabulary)
    for draw in range(12):
        chooser = Chooser(WORKSPACE, writer, Taste((), "usual", draw))
        fills = chooser.pick(
            writer.fills({"subject": "cream-painted boat", "setting": "in a harbour at night"}),
            ["light"],
            chooser.random(),
        )
        light = fills[writer.position["light"]]
        assert (
            light is None
            or not {"day", "noon", "dawn"} & set(light.terms[0].tags)
            or "night" in light.terms[0].tags
        ), light


# Campaigns


@pytest.mark.parametrize(
    ("place", "shape"),
    [
        ({"ratio": "4:5"}, "4:5"),
        ({"size": "1080x1350"}, "1080:1350"),
        ({"size": "594 × 841 mm"}, "594:841"),
        ({"size": "large"}, ""),
        ({"ratio": "2:3", "size": "10x10"}, "2:3"),
    ],
)
def test_the_shape_of_a_place(place, shape):
    assert shape_of(Placement(name="x", kind="feed", **place)) == shape


@pytest.mark.parametrize(
    ("ratio", "nearest"),
    [
        ("4:5", "4:5"),
        ("594:841", "2:3"),
        ("1080:1350", "4:5"),
        ("3:1", "21:9"),
        ("", ""),
        ("wide", "wide"),
        ("0:3", "0:3"),
    ],
)
def test_the_nearest_shape_of_a_model(ratio, nearest):
    assert nearest_ratio(WORKSPACE.model("curlew-still"), ratio) == nearest
    assert nearest_ratio(PLAIN, ratio) == ratio


@pytest.mark.parametrize(
    ("formula", "said", "fills"),
    [
        ("photograph", {"main": "a boat", "deed": "leaving", "where": "at the quay", "lens": "50mm lens"}, {"subject": "a boat", "action": "leaving", "setting": "at the quay", "lens": "50mm lens"}),
        ("landscape", {"main": "a moor", "deed": "leaving", "lens": "50mm lens"}, {"place": "a moor", "lens": "50mm lens"}), ("cut-outs", {"things": "a; b", "main": "c"}, {"things": "c"}), ("macro", {"main": "a crust"}, {"detail": "a crust"}),
        ("storybook", {"main": "a dog", "palette": "ink blue"}, {"hero": "a dog", "palette": "ink blue"}), ("photograph", {"lighting": "a lamp"}, {"light": "a lamp"}),
    ],
)  # fmt: skip
def test_what_a_piece_says_finds_its_slots(formula, said, fills):
    rules = WORKSPACE.formula(formula)[0].slots
    found = fills_for(rules, said, {}, WORKSPACE)
    assert found == fills
    assert json.dumps(fills_for(rules, said, {"light": "one warm lamp"}, WORKSPACE)) != "{}"
