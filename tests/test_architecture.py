"""The house as docs/developers/architecture.md draws it: what may import what, no circle, rooms that one can look over, what stays out of the core."""

import ast
import re
import subprocess
import sys
from collections import Counter

from syntagma import cli
from syntagma.core import diagnostics
from tests.source import CORE, FILES, MODULES, SOURCE, facts

ALLOWED = {
    "core": {"core"},
    "formats": {"core", "formats"},
    "storage": {"core", "storage"},
    "service": {"core", "storage", "service"},
    "app": {"core", "formats", "storage", "service", "app"},
    "cli": {"core", "formats", "storage", "service", "app", "cli"},
}
ROOMS = "diagnostics records notation english vocabulary models formula drafting realising fitting checking writing picking designs reading editing film sheets judging seeing form_table asking campaign".split()  # each knows those before
NUMERIC = {
    "cover.py",
    "cover_algebra.py",
    "cover_search.py",
    "spread.py",
    "mixed.py",
}  # designs, imported where they are used
ROOMS_OF_NUMBERS = {
    "judging",
    "seeing",
}  # NumPy at the top: only app/results and cli/results come by them
HEAVY = {"rich", "rapidfuzz", "platformdirs", "numpy", "pandas", "matplotlib", "scipy", "openpyxl"}


def test_arrows():
    for path in FILES:
        room = path.relative_to(SOURCE).parts[0]
        for name in facts(path).imports:
            parts = name.split(".")
            if parts[0] == "syntagma" and len(parts) > 1 and room in ALLOWED:
                assert parts[1] in ALLOWED[room], f"{path} imports {name}"


def test_nothing_heavy_is_imported_at_start_up():
    for path in FILES:
        room = path.relative_to(SOURCE).parts[0]
        numeric = path.name in NUMERIC or (room == "core" and path.parent.name in ROOMS_OF_NUMBERS)
        heavy = (
            HEAVY - {"numpy"} if numeric or (room == "app" and "results" in path.parts) else HEAVY
        )
        at_start = facts(path).at_start
        assert not heavy & {name.split(".")[0] for name in at_start}, path
        if path.name not in NUMERIC:
            assert not {name.removesuffix(".py") for name in NUMERIC} & {
                name.split(".")[-1] for name in at_start if "designs" in name
            }, path


# What is imported within a function, since it is heavy, or reads what few calls need; a command's module imports its own work so.
LATE = {
    "app.batches.sheets": {"formats.xlsx"},
    "app.composing.catalogue": {"app.asked", "app.composing.composer", "core.picking.themes"},
    "app.composing.composer": {"app.composing.beside", "app.composing.heard", "app.picking", "app.reading", "core.picking.picker", "core.picking.scene", "core.reading.formula_rewriting", "core.realising.request"},
    "app.composing.records": {"core.models.prices", "core.models.request_shape", "core.realising.request"},
    "app.families.compiled": {"app.existing.text_base"},
    "app.families.variants": {"core.designs.cover", "core.designs.level_rows", "core.designs.mixed", "core.designs.plain_rows", "core.designs.spread"},
    "app.film.lists": {"formats.xlsx"},
    "app.handing_on.bundles": {"core.seeing.cut_out"},
    "app.handing_on.campaign_made": {"app.results.pages"},
    "app.handing_on.campaigns": {"formats.xlsx"},
    "app.handing_on.dataset_checks": {"core.seeing.likeness"},
    "app.handing_on.forms": {"formats"},
    "app.handing_on.packs": {"core.models.profile_file"},
    "app.workspace.html_pages": {"formats.xlsx"},
    "app.workspace.own_terms": {"formats.xlsx"},
    "app.workspace.workspace": {"core.models.profile_file", "core.models.references", "core.picking.situations", "core.vocabulary.facets", "core.vocabulary.world", "core.writing.prompt"},
    "core.drafting.fills": {"core.models.references"},
    "formats.prompts_out": {"formats.xlsx"},
}  # fmt: skip


def test_what_is_imported_late_is_known():
    late = {
        module.removeprefix("syntagma."): facts(path).late
        for module, path in MODULES.items()
        if not module.startswith("syntagma.cli")
    }
    assert {module: set(found) for module, found in late.items() if found} == LATE


def test_a_module_is_one_thing():
    assert not [path for path in FILES if facts(path).lines > 900]


def test_a_room_of_core_knows_only_those_before_it():
    for path in CORE:
        if path.name != "__init__.py" or path.parent.name != "core":
            own = ROOMS.index(path.relative_to(SOURCE).parts[1].removesuffix(".py"))
            for name in facts(path).needed:
                if name.startswith("syntagma.core."):
                    assert ROOMS.index(name.split(".")[2]) <= own, f"{path} imports {name}"


def circle(arrows: dict[str, set[str]]) -> list[str]:
    """Modules that import each other round in a ring; nothing without a ring."""
    done: set[str] = set()

    def walk(name: str, above: list[str]) -> list[str]:
        if name in above:
            return [*above[above.index(name) :], name]
        if name in done:
            return []
        for other in sorted(arrows.get(name, ())):
            if ring := walk(other, [*above, name]):
                return ring
        done.add(name)
        return []

    return next((ring for name in arrows if (ring := walk(name, []))), [])


def test_no_circle():
    arrows = {
        name: {other for other in facts(path).needed if other in MODULES and other != name}
        for name, path in MODULES.items()
    }
    assert circle(arrows) == []


def package_of(module: str) -> str:
    return ".".join(module.split(".")[1:3])


def test_no_circle_of_packages():
    """composing, existing, workspace …: what belongs together is in one package, the rest knows one another one way."""
    arrows: dict[str, set[str]] = {}
    for name, path in MODULES.items():
        for other in facts(path).needed & MODULES.keys():
            if other.count(".") > 1 and package_of(other) != package_of(name):
                arrows.setdefault(package_of(name), set()).add(package_of(other))
    assert circle(arrows) == []


def test_the_measure_finds_a_circle():
    assert circle({"a": {"b"}, "b": {"c", "d"}, "c": set(), "d": {"a"}}) == ["a", "b", "d", "a"]


def test_a_room_can_be_looked_over():
    rooms = {path.parent for path in FILES}
    for room in rooms:
        flat = [path for path in room.glob("*.py") if path.name != "__init__.py"]
        assert len(flat) <= 14, f"{room.relative_to(SOURCE)} holds {len(flat)}"


# Records whose attributes are the columns or keys of a file that people write: a vocabulary, a profile, a plan, a reading, a report.
FILE_FORMATS = {
    "Term",
    "Head",
    "SlotRule",
    "Profile",
    "Parameter",
    "_Plan",
    "PromptPiece",
    "FamilyReport",
    "EffectsReport",
    "Traits",
    "SheetRow",
    "Answer",
    "Service",
    "Design",
    "Kept",
    "Business",
    "Offer",
}


def test_no_class_knows_everything():
    for path in FILES:
        for name, fields in facts(path).fields.items():
            assert fields <= 12 or name in FILE_FORMATS, f"{name} of {path} has {fields}"


def test_core_computes_only():
    for path in CORE:
        assert not facts(path).calls & {"print", "open", "input"}, path
        assert not facts(path).imports & {
            "argparse",
            "sys",
            "os",
            "pathlib",
            "socket",
            "time",
            "datetime",
        }, path


def test_a_first_line_says_what_the_module_is_for():
    assert not [path for path in FILES if not facts(path).explained]


def test_no_model_is_named_in_the_code():
    names = [p.stem for p in (SOURCE / "data" / "models").glob("*.toml")]
    assert names and not [
        path
        for path in FILES
        for compared in facts(path).compared
        if any(name in compared for name in names)
    ]


def test_the_core_knows_no_command():
    command = re.compile(r"`syntagma |(?<![\w-])--[a-z]{2,}\b")
    assert not [(path, said) for path in CORE for said in facts(path).said if command.search(said)]


def test_the_command_line_says_how_whatever_the_core_asks_for():
    assert cli.WAYS.keys() == diagnostics.NAMES
    told = subprocess.run(
        [sys.executable, "-c", NEUTRAL], capture_output=True, text=True, check=True
    ).stdout.splitlines()
    assert told == [
        "use an existing facet",
        "write light=1.5",
        "`syntagma term` lists them",
        "write --stress light=1.5",
        "KeyError",
    ]


NEUTRAL = """
from syntagma.core import diagnostics as ways
from syntagma import cli
said = lambda: print(ways.way("facets"), "write " + ways.way("stress", name="light", weight="1.5"), sep="\\n")
said()
ways.use(cli.WAYS)
said()
try:
    ways.use({"facet": "x"})
except KeyError:
    print("KeyError")
"""


# Where values of no known shape come in: files, answers of services, trees of JSON. Behind them records are typed.
DOORS = {
    "app/batches/requests.py", "app/batches/services.py", "app/batches/standin.py", "app/prompt_files.py", "app/film/film_prompts.py",
    "app/handing_on/brief.py", "app/handing_on/campaign_made.py", "app/handing_on/dataset_checks.py", "app/handing_on/pack_file.py", "app/results/judging.py",
    "cli/shapes.py", "core/formula/parsing.py", "core/models/profile_file.py", "core/models/references.py", "core/notation/structure.py", "core/picking/themes.py",
    "core/realising/nested.py", "core/realising/request.py", "core/vocabulary/facets.py", "core/vocabulary/world.py",
    "service/answers.py", "service/client.py", "service/standin.py", "storage/ledger.py",
}  # fmt: skip


def source_of(path) -> str:
    return path.relative_to(SOURCE).as_posix()


def test_shapes_are_told_apart_at_the_doors_only():
    asked = {
        source_of(path)
        for path in FILES
        if re.search(r"isinstance\([^()]*\bdict\b", path.read_text("utf-8"))
    }
    assert asked == DOORS


def test_sql_is_in_storage_only():
    sql = re.compile(
        r"\bsqlite3\b|\.base\.execute|\b(?:select|insert into|update|delete from) [\w*, ()]+ (?:from|values|set|where)\b"
    )
    assert {
        source_of(path).partition("/")[0] for path in FILES if sql.search(path.read_text("utf-8"))
    } == {"storage"}


def test_errors_have_one_root():
    """Every exception of the program's own is a SyntagmaError, and no class of errors is a bare Exception."""
    bases = {
        node.name: [ast.unparse(base) for base in node.bases]
        for path in FILES
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.ClassDef)
    }

    def is_error(name: str) -> bool:
        return name in ("Exception", "ValueError", "KeyError", "LookupError") or any(
            map(is_error, bases.get(name, ()))
        )

    def rooted(name: str) -> bool:
        return name == "SyntagmaError" or any(map(rooted, bases.get(name, ())))

    errors = {name for name in bases if is_error(name)}
    assert len(errors) > 20 and {name for name in errors if not rooted(name)} == set()


def test_a_class_has_a_name_of_its_own():
    names = Counter(name for path in FILES for name in facts(path).fields)
    assert [name for name, count in names.items() if count > 1] == []
