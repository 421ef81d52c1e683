"""Templates of pages (Jinja) laid out: ours here, anybody else's in a sandbox, in a process of its own whose time and memory are
bounded, so a stranger's template can do nothing but make text."""

import json
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

from syntagma.storage.files import read_text
from syntagma.storage.trouble import Trouble

SECONDS = 4  # of work
PATIENCE = 120  # seconds until a process that does not work, and does not end, is given up
MEMORY = 1 << 30  # bytes
MOST = 4 << 20  # characters of a page


class BadTemplate(Exception):
    """A template that can't be laid out."""


def laid_out(source: str, known: Mapping[str, object]) -> str:
    """The page that a template makes of what it may use. Raises BadTemplate."""
    from jinja2 import StrictUndefined, TemplateError
    from jinja2.sandbox import ImmutableSandboxedEnvironment

    sandbox = ImmutableSandboxedEnvironment(undefined=StrictUndefined, trim_blocks=False, lstrip_blocks=True)
    try:
        return sandbox.from_string(source).render(**known)
    except TemplateError as error:
        where = f"line {error.lineno}: " if getattr(error, "lineno", None) else ""
        raise BadTemplate(f"{where}{str(error) or type(error).__name__}") from None
    except MemoryError:
        raise BadTemplate("it uses more memory than any page needs") from None
    except Exception as error:  # whatever a template divides by
        said = str(error)
        raise BadTemplate("a template can't include other files" if "no loader" in said else f"{type(error).__name__}: {said}") from None


def laid_out_by(template: str, known: Mapping[str, object]) -> str:
    """The page that a template of anybody's makes. Raises Trouble."""
    asked = json.dumps({"source": read_text(template, "a template"), "known": known})
    # isolated (-I): neither the folder that we are in nor what the environment says is looked through for modules; ours is named
    start = f"import sys; sys.path.insert(0, {str(Path(__file__).parents[3])!r}); from syntagma.app.handing_on.templates import _alone; _alone()"
    call = [sys.executable, "-I", "-c", start]
    try:
        done = subprocess.run(call, input=asked, capture_output=True, text=True, encoding="ascii", timeout=PATIENCE)
        answer = json.loads(done.stdout) if done.returncode == 0 else {"wrong": "it uses more time or memory than any page needs"}
    except subprocess.TimeoutExpired:
        answer = {"wrong": f"it did not finish in {PATIENCE} seconds"}
    if "page" in answer:
        return answer["page"]
    said = " ".join(answer["wrong"].split())[:300]
    raise Trouble(f"{template} can't be filled in: {said}", f"a template can use {', '.join(known)}", 1)


def _alone() -> None:
    """Lay out what comes on standard input, within bounds."""
    try:
        import resource

        began = resource.getrusage(resource.RUSAGE_SELF)
        work = SECONDS + int(began.ru_utime + began.ru_stime + 1)
        resource.setrlimit(resource.RLIMIT_CPU, (work, work))
        resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    except (ImportError, ValueError, OSError):  # a system without them has the time limit of the caller
        pass
    asked = json.loads(sys.stdin.read())
    try:
        page = laid_out(asked["source"], asked["known"])
        answer = {"page": page} if len(page) <= MOST else {"wrong": f"the page has {len(page):,} characters"}
    except BadTemplate as error:
        answer = {"wrong": str(error)[:2000]}
    sys.stdout.write(json.dumps(answer))
