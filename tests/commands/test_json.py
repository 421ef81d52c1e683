"""--json and the exit status: each shape that ships is met and valid, each command gives each status for what it represents."""

import json
import shlex

import pytest
from jsonschema import Draft202012Validator

from syntagma.cli.commands import printed_by
from syntagma.cli.shapes import schema_of, schemas
from tests.commands.program import fits, good, run

CALLS = """compose poster subject=fox --pick | compose photograph --theme night-crossing --ideas 2 | compose three-shots place=quay light=dusk hero=fox deed=running --model godwit-motion
compose poster --rows luggage-labels.csv | compose poster subject=fox --look two-inks --stress subject=1.2 --reference style=lights.png --model dunlin-still
read "a red fox in the snow, 85mm lens" | read crossings.txt | read lights.png | read "A linocut of a car ferry." --written-with poster
rewrite "a red fox in the snow, 85mm lens" --formula poster | rewrite crossings.txt --model dunlin-still | rewrite "a red fox" --swap red=blue
shorten "a red fox in the snow, 85mm lens, 8k, fine detail" | shorten crossings.txt --model dunlin-still | shorten crossings.txt --to 12w | shorten "a red fox" --to 1w
compare "a red fox" "a blue fox" | check | check poster | check crossings.jsonl | check --paper a3 --model curlew-still
term | term lighting | term find fog | formula | formula poster | formula three-shots | look | look two-inks | theme | theme night-crossing
model | model dunlin-still | model whimbrel-motion | model rank dialogue-shot --parameter seconds=8 | model try dunlin-still | model try godwit-motion
expand poster subject=fox --vary light:3 | expand poster subject=fox --vary light:3 --vary medium:3 --dry-run | expand poster subject=fox --vary light:3 --model dunlin-still,curlew-still
film | film prompts ticket-nine.csv --model whimbrel-motion | film prompts ticket-nine.csv --model godwit-motion | film check ticket-nine.fountain --model knot-motion | film prompts ticket-nine.csv --filled
sheet | sheet crossings | sheet show film | sheet log film | send crossings --dry-run | collect | service
library | library show 3 | library find fog | library money | library money model | duplicates crossings.jsonl | duplicates lights.jsonl --likeness 0.5
effects lights | effects lights.jsonl | effects lights --next 3 | effects lights --best | effects lights --outcome approved | effects lights --outcome money
brief crossing-poster | brief crossing-poster --staged | brief crossing-poster --import answer.txt --count 7 --model curlew-still
pack show lantern-reach.syntagma.zip | pack import lantern-reach.syntagma.zip --dry-run | dataset poster --count 4 | dataset check asked-train.jsonl
situation | situation find goat | campaign | campaign plan ferries | campaign make ferries | formula learn crossing-again crossings.txt"""


@pytest.fixture(scope="module")
def toured(tmp_path_factory):
    folder = tmp_path_factory.mktemp("toured")
    good(folder, "tour", ".")
    return folder


def words_of(call):
    return (*shlex.split(call), "--json")


@pytest.mark.parametrize(
    "call", [call.strip() for line in CALLS.splitlines() for call in line.split(" | ")]
)
def test_what_json_prints_is_as_its_schema_says(toured, call):
    words = words_of(call)
    done = run(toured, *words)
    assert done.returncode in (0, 1), done.stderr
    fits(words, json.loads(done.stdout))


def test_every_shape_that_ships_is_met():
    shapes = {shape for shapes in printed_by().values() for shape in shapes}
    assert shapes <= set(schemas()["$defs"])
    for shape in schemas()["$defs"]:
        Draft202012Validator.check_schema(schema_of(shape))
    met = {call.split()[0] for line in CALLS.splitlines() for call in line.split(" | ")}
    assert {call.split()[0] for call in printed_by()} == met


def test_help_json_shows_the_shapes_and_each_schema(tmp_path):
    out = good(tmp_path, "help", "json")
    assert all(call in out and ", ".join(shapes) in out for call, shapes in printed_by().items())
    assert json.loads(good(tmp_path, "help", "json", "rows")) == schema_of("rows")
    done = run(tmp_path, "help", "json", "promts")
    assert done.returncode == 2 and "did you mean: syntagma help json prompts" in done.stderr


def test_a_service_and_a_file_that_is_kept_as_json(tmp_path):
    from PIL import Image

    Image.new("RGB", (60, 40), (200, 40, 40)).save(tmp_path / "a.png")
    good(tmp_path, "start", ".")
    good(tmp_path, "service", "add", "api.example", "--no-secret")
    for words, shape in (
        (("service",), "services"),
        (("library", "add", "a.png", "--prompt", "A fox"), "added"),
        (("read", "a.png"), "readings"),
        (("library",), "results"),
    ):
        assert fits((*words, "--json"), json.loads(good(tmp_path, *words, "--json"))) == shape


def test_a_schema_refuses_what_is_not_in_it():
    with pytest.raises(AssertionError, match="comparison"):
        fits(("compare", "a", "b"), {"distance": 0.5, "parts": [], "new": 1})


# Status

STATUS = {
    0: """compose poster subject=fox | term find fog | check poster | library --json | sheet | help compose | --version""",
    1: """term find zzzqq | library find zzzqq | sheet show crossings --where model=zz | send crossings | send crossings --dry-run | shorten "a red fox" --to 1w | bundle --label zz --out z.zip
    check bad.jsonl | read bad.jsonl | rewrite bad.jsonl --model dunlin-still | shorten bad.jsonl --to 5w | compose poster --rows broken.csv | sheet new x bad.jsonl | pack show crossings.txt | dataset check crossings.txt | film check quay-words.csv
    brief crossing-poster --import answer.txt --count 7 | collect crossings --statement broken.csv | judge lights --import broken.csv | term import broken.csv --facet setting | campaign import ferries broken.csv | model try broken.toml | formula check broken.formula""",
    2: """nonsense | compose | compose nope subject=x | compose poster nope=x | term zzz | sheet nope | library rate 3 9 | library show 999 | send nope | effects nope | judge nope | brief nope | model nope | look nope | theme nope | formula nope
    form poster | bundle | campaign plan nope | service add | tour 9 | expand poster subject=x --vary light:999 | rewrite "a fox" | shorten "a fox" --to 5 | compare "a fox" | sheet approve crossings zz | campaign approve ferries zz""",
    3: """read nope.txt | check nope.jsonl | rewrite nope.jsonl --model dunlin-still | shorten nope.txt --to 5w | compare nope.txt x | compose poster --rows nope.csv | film check nope.csv | film prompts nope.fountain | sheet new x nope.jsonl
    sheet import crossings nope.csv | collect crossings --statement nope | library add nope.png --prompt x | duplicates nope.jsonl | brief poster --import nope.txt | pack show nope.zip | pack import nope.zip
    dataset check nope.jsonl | campaign import ferries nope.csv | judge lights --import nope.csv | term import nope.csv | term picture lighting "full moonlight" nope.png | compose poster subject=x --out no/where/x.txt
    expand poster subject=x --vary light:3 --out no/where/x.csv | start lights.png/x | tour lights.png/x | effects lights --figure no/where/x.png | library page no/where/x.html | model try nope.toml""",
}


@pytest.mark.long
@pytest.mark.parametrize("status", STATUS)
def test_each_status_means_one_thing_in_every_command(toured, status):
    (toured / "bad.jsonl").write_text('{"text": "A hen."}\n{"text": 3}\n')
    (toured / "broken.csv").write_text(
        'subject,piece,status,task,charged,term,picture,kind,value\nfox,"x\n'
    )
    (toured / "broken.toml").write_text("about = 'x'\n[text]\nregister = 'song'\n")
    (toured / "broken.formula").write_text("lead  [a subject\n")
    wrong = {}
    for call in (
        call.strip() for line in STATUS[status].splitlines() for call in line.split(" | ")
    ):
        done = run(toured, *words_of(call)[:-1])
        if done.returncode != status:
            wrong[call] = (done.returncode, done.stderr[:200])
    assert not wrong


def test_an_option_that_is_not_there_is_a_wrong_call_in_every_command(tmp_path):
    from tests.commands.test_interface import parsers

    for name, _ in parsers():
        done = run(tmp_path, *name.split(), "--nonsense")
        assert (done.returncode, done.stdout) == (
            2,
            "",
        ) and "unknown option --nonsense" in done.stderr, name
